import { createRouter, createWebHistory } from 'vue-router'

import { fetchSession } from './composables/useSession'
import AboutPage from './workspaces/about/AboutPage.vue'
import BenchPage from './workspaces/bench/BenchPage.vue'
import CompareTab from './workspaces/bench/CompareTab.vue'
import PackingTab from './workspaces/bench/PackingTab.vue'
import PartsTab from './workspaces/bench/PartsTab.vue'
import PowerTab from './workspaces/bench/PowerTab.vue'
import RigTab from './workspaces/bench/RigTab.vue'
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
    { path: '/plans', name: 'plans', component: PlansPage, meta: { title: 'Plans' } },
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
