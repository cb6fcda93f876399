import type { Component } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'

import { fetchSession } from './composables/useSession'

const arriving: (() => Promise<unknown>)[] = []
/** Components of a workspace, which is loaded when it is first visited. */
function page<Space extends object>(load: () => Promise<Space>) {
  arriving.push(load)
  return (name: keyof Space) => () => load().then((space) => space[name] as Component)
}
const about = page(() => import('./workspaces/about'))
const account = page(() => import('./workspaces/account'))
const bench = page(() => import('./workspaces/bench'))
const exposure = page(() => import('./workspaces/exposure'))
const field = page(() => import('./workspaces/field'))
const frames = page(() => import('./workspaces/frames'))
const framing = page(() => import('./workspaces/framing'))
const grounds = page(() => import('./workspaces/grounds'))
const nights = page(() => import('./workspaces/nights'))
const mynights = page(() => import('./workspaces/mynights'))
const pole = page(() => import('./workspaces/pole'))
const signin = page(() => import('./workspaces/signin'))
const tonight = page(() => import('./workspaces/tonight'))

export const router = createRouter({
  history: createWebHistory('/'),
  routes: [
    { path: '/', redirect: '/tonight' },
    { path: '/sign-in', name: 'sign-in', component: signin('SignInPage'), meta: { open: true, title: 'Sign in' } },
    { path: '/tonight', name: 'tonight', component: tonight('TonightPage'), meta: { title: 'Tonight', context: true } },
    {
      path: '/bench',
      component: bench('BenchPage'),
      meta: { title: 'Bench', context: true },
      children: [
        { path: '', name: 'bench', component: bench('RigTab') },
        { path: 'parts', name: 'bench-parts', component: bench('PartsTab') },
        { path: 'power', name: 'bench-power', component: bench('PowerTab') },
        { path: 'compare', name: 'bench-compare', component: bench('CompareTab') },
        { path: 'packing', name: 'bench-packing', component: bench('PackingTab') },
      ],
    },
    {
      path: '/grounds',
      component: grounds('GroundsPage'),
      meta: { title: 'Grounds', context: true },
      children: [
        { path: '', name: 'grounds', component: grounds('SpotTab') },
        { path: 'side-by-side', name: 'grounds-spots', component: grounds('SpotsTab') },
        { path: 'places', name: 'grounds-places', component: grounds('PlacesTab') },
      ],
    },
    {
      path: '/nights',
      component: nights('NightsPage'),
      meta: { title: 'Nights', context: true },
      children: [
        { path: '', name: 'nights', component: nights('LanesTab') },
        { path: 'whole', name: 'nights-whole', component: nights('WholeTab') },
        { path: 'what-suits', name: 'nights-suits', component: nights('SuitsTab') },
        { path: 'season', name: 'nights-year', component: nights('YearTab') },
        { path: 'targets', name: 'nights-targets', component: nights('TargetsTab') },
        { path: 'trips', name: 'nights-trips', component: nights('TripsTab') },
      ],
    },
    {
      path: '/framing',
      component: framing('FramingPage'),
      meta: { title: 'Framing', context: true },
      children: [
        { path: '', name: 'framing', component: framing('ChartTab') },
        { path: 'panels', name: 'framing-panels', component: framing('PanelsTab') },
        { path: 'way', name: 'framing-way', component: framing('WayTab') },
      ],
    },
    {
      path: '/pole',
      component: pole('PolePage'),
      meta: { title: 'Pole', context: true },
      children: [
        { path: '', name: 'pole', component: pole('NeedTab') },
        { path: 'by-day', name: 'pole-rough', component: pole('RoughTab') },
        { path: 'scope', name: 'pole-scope', component: pole('ScopeTab') },
        { path: 'photographs', name: 'pole-photographs', component: pole('PhotographsTab') },
        { path: 'drift', name: 'pole-drift', component: pole('DriftTab') },
        { path: 'record', name: 'pole-record', component: pole('RecordTab') },
      ],
    },
    {
      path: '/exposure',
      component: exposure('ExposurePage'),
      meta: { title: 'Exposure', context: true },
      children: [
        { path: '', name: 'exposure', component: exposure('SubTab') },
        { path: 'light', name: 'exposure-light', component: exposure('LightTab') },
        { path: 'how-many', name: 'exposure-many', component: exposure('ManyTab') },
        { path: 'card', name: 'exposure-card', component: exposure('CardTab') },
        { path: 'test-picture', name: 'exposure-test', component: exposure('TestTab') },
        { path: 'my-camera', name: 'exposure-camera', component: exposure('CameraTab') },
        { path: 'my-lens', name: 'exposure-lens', component: exposure('LensTab') },
        { path: 'compare', name: 'exposure-compare', component: exposure('CompareTab') },
      ],
    },
    { path: '/out-there', name: 'field', component: field('FieldPage'), meta: { title: 'Field', context: true } },
    { path: '/frames', name: 'frames', component: frames('FramesPage'), meta: { title: 'Frames', context: true } },
    { path: '/my-nights', name: 'mynights', component: mynights('MyNightsPage'), meta: { title: 'My nights' } },
    {
      path: '/my-nights/night',
      name: 'mynights-night',
      component: mynights('NightPage'),
      meta: { title: 'Night', context: true },
    },
    { path: '/plans', redirect: '/my-nights' },
    { path: '/account', name: 'account', component: account('AccountPage'), meta: { title: 'Account' } },
    { path: '/about', name: 'about', component: about('AboutPage'), meta: { open: true, title: 'About' } },
    { path: '/:elsewhere(.*)', redirect: '/tonight' },
  ],
})

router.beforeEach(async (to) => {
  document.title = `${String(to.meta.title ?? 'Wide Dusk')} · Wide Dusk`
  if (to.meta.open) return true
  const session = await fetchSession().catch(() => null)
  // An unreachable server is told by the page itself; only a clear "nobody" leads to the sign-in page.
  if (session && !session.username) return { name: 'sign-in', query: { then: to.fullPath } }
  return true
})

/** Fetch the other workspaces once this one stands, so that they are there when the connection is not. */
export function fetchTheRest() {
  void router.isReady().then(() => setTimeout(() => void Promise.allSettled(arriving.map((load) => load())), 2_000))
}
