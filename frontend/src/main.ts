import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import 'ant-design-vue/dist/reset.css'
import './theme/tokens.css'
import './theme/base.css'

import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'

import App from './App.vue'
import { Refusal } from './api/client'
import { KEPT_MS, takeUp } from './composables/keptAnswers'
import { fetchTheRest, router } from './router'

const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      gcTime: KEPT_MS,
      refetchOnWindowFocus: false,
      // Wrong input stays wrong; only an unreachable server is worth asking again.
      retry: (count: number, error: unknown) => count < 2 && error instanceof Refusal && error.status === 0,
      networkMode: 'always',
    },
    mutations: { networkMode: 'always' },
  },
})

/** The first page waits a moment for what is kept, and not at all for what is not. */
void takeUp(queryClient).then(() => {
  createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
  fetchTheRest()
})
