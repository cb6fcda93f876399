import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/atkinson-hyperlegible-mono'
import 'ant-design-vue/dist/reset.css'
import './theme/tokens.css'
import './theme/base.css'

import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'

import App from './App.vue'
import { Refusal } from './api/client'
import { router } from './router'

const queries = {
  queryClientConfig: {
    defaultOptions: {
      queries: {
        staleTime: 30_000,
        refetchOnWindowFocus: false,
        // Wrong input stays wrong; only an unreachable server is worth asking again.
        retry: (count: number, error: unknown) => count < 2 && error instanceof Refusal && error.status === 0,
        networkMode: 'always' as const,
      },
    },
  },
}

createApp(App).use(router).use(VueQueryPlugin, queries).mount('#app')
