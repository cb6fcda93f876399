import { createRouter, createWebHistory } from 'vue-router'

import { fetchSession } from './composables/useSession'
import AboutPage from './workspaces/about/AboutPage.vue'
import AccountPage from './workspaces/account/AccountPage.vue'
import BenchPage from './workspaces/bench/BenchPage.vue'
import CompareTab from './workspaces/bench/CompareTab.vue'
import PackingTab from './workspaces/bench/PackingTab.vue'
import PartsTab from './workspaces/bench/PartsTab.vue'
import PowerTab from './workspaces/bench/PowerTab.vue'
import RigTab from './workspaces/bench/RigTab.vue'
import CameraTab from './workspaces/exposure/CameraTab.vue'
import CardTab from './workspaces/exposure/CardTab.vue'
import ExposureCompareTab from './workspaces/exposure/CompareTab.vue'
import ExposurePage from './workspaces/exposure/ExposurePage.vue'
import LightTab from './workspaces/exposure/LightTab.vue'
import ManyTab from './workspaces/exposure/ManyTab.vue'
import SubTab from './workspaces/exposure/SubTab.vue'
import TestTab from './workspaces/exposure/TestTab.vue'
import GroundsPage from './workspaces/grounds/GroundsPage.vue'
import PlacesTab from './workspaces/grounds/PlacesTab.vue'
import SpotsTab from './workspaces/grounds/SpotsTab.vue'
import SpotTab from './workspaces/grounds/SpotTab.vue'
import LanesTab from './workspaces/nights/LanesTab.vue'
import NightsPage from './workspaces/nights/NightsPage.vue'
import SuitsTab from './workspaces/nights/SuitsTab.vue'
import TargetsTab from './workspaces/nights/TargetsTab.vue'
import TripsTab from './workspaces/nights/TripsTab.vue'
import YearTab from './workspaces/nights/YearTab.vue'
import DriftTab from './workspaces/pole/DriftTab.vue'
import NeedTab from './workspaces/pole/NeedTab.vue'
import PhotographsTab from './workspaces/pole/PhotographsTab.vue'
import PolePage from './workspaces/pole/PolePage.vue'
import RecordTab from './workspaces/pole/RecordTab.vue'
import RoughTab from './workspaces/pole/RoughTab.vue'
import ScopeTab from './workspaces/pole/ScopeTab.vue'
import PlansPage from './workspaces/plans/PlansPage.vue'
import SignInPage from './workspaces/signin/SignInPage.vue'
import TonightPage from './workspaces/tonight/TonightPage.vue'

export const router = createRouter({
  history: createWebHistory('/'),
  routes: [
    { path: '/', redirect: '/tonight' },
    { path: '/sign-in', name: 'sign-in', component: SignInPage, meta: { open: true, title: 'Sign in' } },
    { path: '/tonight', name: 'tonight', component: TonightPage, meta: { title: 'Tonight', context: true } },
    {
      path: '/bench',
      component: BenchPage,
      meta: { title: 'Bench', context: true },
      children: [
        { path: '', name: 'bench', component: RigTab },
        { path: 'parts', name: 'bench-parts', component: PartsTab },
        { path: 'power', name: 'bench-power', component: PowerTab },
        { path: 'compare', name: 'bench-compare', component: CompareTab },
        { path: 'packing', name: 'bench-packing', component: PackingTab },
      ],
    },
    {
      path: '/grounds',
      component: GroundsPage,
      meta: { title: 'Grounds', context: true },
      children: [
        { path: '', name: 'grounds', component: SpotTab },
        { path: 'side-by-side', name: 'grounds-spots', component: SpotsTab },
        { path: 'places', name: 'grounds-places', component: PlacesTab },
      ],
    },
    {
      path: '/nights',
      component: NightsPage,
      meta: { title: 'Nights', context: true },
      children: [
        { path: '', name: 'nights', component: LanesTab },
        { path: 'what-suits', name: 'nights-suits', component: SuitsTab },
        { path: 'season', name: 'nights-year', component: YearTab },
        { path: 'targets', name: 'nights-targets', component: TargetsTab },
        { path: 'trips', name: 'nights-trips', component: TripsTab },
      ],
    },
    {
      path: '/pole',
      component: PolePage,
      meta: { title: 'Pole', context: true },
      children: [
        { path: '', name: 'pole', component: NeedTab },
        { path: 'by-day', name: 'pole-rough', component: RoughTab },
        { path: 'scope', name: 'pole-scope', component: ScopeTab },
        { path: 'photographs', name: 'pole-photographs', component: PhotographsTab },
        { path: 'drift', name: 'pole-drift', component: DriftTab },
        { path: 'record', name: 'pole-record', component: RecordTab },
      ],
    },
    {
      path: '/exposure',
      component: ExposurePage,
      meta: { title: 'Exposure', context: true },
      children: [
        { path: '', name: 'exposure', component: SubTab },
        { path: 'light', name: 'exposure-light', component: LightTab },
        { path: 'how-many', name: 'exposure-many', component: ManyTab },
        { path: 'card', name: 'exposure-card', component: CardTab },
        { path: 'test-picture', name: 'exposure-test', component: TestTab },
        { path: 'my-camera', name: 'exposure-camera', component: CameraTab },
        { path: 'compare', name: 'exposure-compare', component: ExposureCompareTab },
      ],
    },
    { path: '/plans', name: 'plans', component: PlansPage, meta: { title: 'Plans' } },
    { path: '/account', name: 'account', component: AccountPage, meta: { title: 'Account' } },
    { path: '/about', name: 'about', component: AboutPage, meta: { open: true, title: 'About' } },
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
