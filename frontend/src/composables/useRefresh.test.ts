// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, h } from 'vue'

import { useRefresh } from './useRefresh'

it('leaves no page with what it told before a change, and asks for no long search anew', async () => {
  const queryClient = new QueryClient()
  const keys = [
    ['tonight', 1],
    ['pole', 'need'],
    ['exposure'],
    ['whole', 'kept'],
    ['whole', 'best'],
    ['measurement', 7],
  ]
  for (const key of keys) queryClient.setQueryData(key, {})
  let refresh: ReturnType<typeof useRefresh> | null = null
  const host = defineComponent({
    setup() {
      refresh = useRefresh()
      return () => h('p')
    },
  })
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient }]] } })
  await (refresh as unknown as ReturnType<typeof useRefresh>)()
  const stale = keys.filter((key) => queryClient.getQueryState(key)?.isInvalidated)
  expect(stale).toEqual([['tonight', 1], ['pole', 'need'], ['exposure'], ['whole', 'kept']])
})
