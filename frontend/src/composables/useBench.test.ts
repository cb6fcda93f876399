// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { defineComponent } from 'vue'

import { api } from '@/api/client'

import { useBench } from './useBench'
import { undoable } from './useUndo'

/** A server of one rig that keeps what it is sent, or refuses an arm beyond a metre and a half. */
let stored = [
  { part: 1, arm_mm: 100 },
  { part: 2, arm_mm: -80 },
]
let sent: number[][] = []
const rig = () => ({
  id: 5,
  name: 'Heron',
  star_fwhm_px: 2.5,
  focal_mm: null,
  f_best: null,
  isos: [],
  placed: stored.map((one) => ({
    ...one,
    name: `part ${one.part}`,
    kind: 'other',
    along_mm: 0,
    carried: true,
    fed_by: null,
    archived: false,
    needs_current: false,
    zoom: false,
    shared_with: [],
  })),
})
const good = (data: unknown) => ({ data, response: new Response() }) as never

beforeEach(() => {
  stored = [
    { part: 1, arm_mm: 100 },
    { part: 2, arm_mm: -80 },
  ]
  sent = []
  undoable.value = null
  vi.spyOn(api, 'GET').mockImplementation(() => Promise.resolve(good({ items: [rig()], count: 1 })))
  vi.spyOn(api, 'POST').mockImplementation(() =>
    Promise.resolve(good({ verdicts: [], drawing: { pieces: [] }, power: null })),
  )
  vi.spyOn(api, 'PUT').mockImplementation(((_: string, asked: { body: { placed: typeof stored } }) => {
    const { placed } = asked.body
    sent.push(placed.map((one) => one.arm_mm))
    if (placed.some((one) => Math.abs(one.arm_mm) > 1500)) {
      const faults = [{ field: 'placed.0.arm_mm', value: 9000, message: '9000 mm cannot be right.' }]
      return Promise.resolve({ error: { faults }, response: new Response(null, { status: 422 }) })
    }
    stored = placed.map(({ part, arm_mm }) => ({ part, arm_mm }))
    return Promise.resolve(good(rig()))
  }) as never)
})
afterEach(() => vi.restoreAllMocks())

async function hand() {
  let made: ReturnType<typeof useBench> | null = null
  const page = defineComponent({
    setup: () => {
      made = useBench()
    },
    template: '<div />',
  })
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/bench', component: page }] })
  await router.push('/bench?rig=5')
  mount(page, {
    global: {
      plugins: [
        router,
        [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
      ],
    },
  })
  await flushPromises()
  return made as unknown as ReturnType<typeof useBench>
}
const arms = (bench: ReturnType<typeof useBench>) => bench.draft.value?.placed?.map((one) => one.arm_mm)

it('drags without keeping, and keeps on letting go', async () => {
  const bench = await hand()
  bench.drag(2, -90)
  bench.drag(2, -95)
  expect([arms(bench), sent]).toEqual([[100, -95], []])
  await bench.letGo('weight')
  expect([sent, stored[1]?.arm_mm]).toEqual([[[100, -95]], -95])
})

it('offers the way back of the latest change only, and goes back one step', async () => {
  const bench = await hand()
  const first = bench.changePlaced(2, { arm_mm: -90 }, 'first')
  const second = bench.changePlaced(2, { arm_mm: -100 }, 'second')
  await Promise.all([first, second])
  await flushPromises()
  expect(sent).toEqual([
    [100, -90],
    [100, -100],
  ])
  expect(undoable.value?.text).toBe('second')
  await undoable.value?.undo?.()
  expect(stored[1]?.arm_mm).toBe(-90)
})

it('leaves what was refused in hand, with its fault, and offers nothing to undo', async () => {
  const bench = await hand()
  expect(await bench.changePlaced(1, { arm_mm: 9000 }, 'moved')).toBe(false)
  expect([arms(bench), stored[0]?.arm_mm]).toEqual([[9000, -80], 100])
  expect(bench.faults.value).toEqual({ 'placed.0.arm_mm': '9000 mm cannot be right.' })
  expect(undoable.value).toBeNull()
  await bench.changePlaced(1, { arm_mm: 120 }, 'moved')
  expect([stored[0]?.arm_mm, bench.faults.value]).toEqual([120, {}])
})
