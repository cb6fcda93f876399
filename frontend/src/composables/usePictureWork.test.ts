// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { defineComponent } from 'vue'

import { api } from '@/api/client'

import { usePictureWork } from './usePictureWork'

const good = (data: unknown) => ({ data, response: new Response() }) as never
afterEach(() => vi.restoreAllMocks())

it('stays with what was just begun when an older answer comes in late', async () => {
  let late: (value: never) => void = () => undefined
  vi.spyOn(api, 'GET').mockImplementation(((path: string, asked: { params: { path: { record_id: number } } }) =>
    path === '/api/pictures/measurements'
      ? new Promise((resolve) => (late = resolve))
      : Promise.resolve(good({ id: asked.params.path.record_id, state: 'done' }))) as never)
  vi.spyOn(api, 'POST').mockResolvedValue(good({ id: 9, state: 'waiting' }))
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/', component: {} }] })
  await router.push('/?rig=1&spot=1&night=2026-12-08&target=3')
  let made: ReturnType<typeof usePictureWork> | null = null
  mount(
    defineComponent({
      setup: () => {
        made = usePictureWork('pole')
      },
      template: '<div />',
    }),
    { global: { plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]] } },
  )
  const hand = made as unknown as ReturnType<typeof usePictureWork>
  await flushPromises()
  await hand.begin({ task: 'pointing', pictures: [] })
  late(good({ items: [{ id: 4, state: 'done' }], count: 1 }))
  await flushPromises()
  expect(hand.result.value?.id).toBe(9)
})
