// @vitest-environment jsdom
import { QueryClient, useQuery, VueQueryPlugin } from '@tanstack/vue-query'
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, h } from 'vue'

import { useRefresh } from './useRefresh'

it('leaves no page with what it told before a change, and begins no long search while it is shown', async () => {
  const queryClient = new QueryClient()
  const asked: string[] = []
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
      for (const [name, queryKey] of Object.entries({
        tonight: ['tonight', 1],
        exposure: ['exposure'],
        best: ['whole', 'best'],
      }))
        useQuery({ queryKey, staleTime: Infinity, queryFn: () => Promise.resolve(asked.push(name)) })
      return () => h('p')
    },
  })
  mount(host, { global: { plugins: [[VueQueryPlugin, { queryClient }]] } })
  await (refresh as unknown as ReturnType<typeof useRefresh>)()
  // Shown and asked anew are two; all else is stale, the search that is shown as well.
  const fresh = keys.filter((key) => !queryClient.getQueryState(key)?.isInvalidated)
  expect(fresh).toEqual([['tonight', 1], ['exposure']])
  expect(asked.sort()).toEqual(['exposure', 'tonight'])
})
