// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'

import { api } from '@/api/client'

import TogetherTable from './TogetherTable.vue'

const GROUP = {
  names: ['Rosette', 'Cone'],
  keys: ['NGC2237', 'NGC2264'],
  subjects: [{ name: 'Rosette', ra_deg: 97.9, dec_deg: 5, long_deg: 1.3 }],
  worth: 84.2,
  usable_min: 350,
  margin_deg: 0.48,
  margin_percent: 9.6,
  ra_deg: 99,
  dec_deg: 7,
  angle_deg: 130,
  verdict: { topic: 'Together', level: 'go', sentence: '', binding: '', figures: [], limits: [], workings: [] },
}
const good = (data: unknown) => ({ data, response: new Response() }) as never
afterEach(() => vi.restoreAllMocks())

async function table(items: object[]) {
  vi.spyOn(api, 'GET').mockResolvedValue(good({ items, count: items.length }))
  const posted = vi.spyOn(api, 'POST')
  const routes = ['nights-suits', 'framing'].map((name) => ({ path: `/${name}`, name, component: {} }))
  const router = createRouter({ history: createMemoryHistory(), routes })
  await router.push('/nights-suits?rig=1&spot=2&night=2026-12-08&target=3&iso=800')
  const page = mount(TogetherTable, {
    global: { plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]], stubs: { WorkingDrawer: true } },
  })
  await flushPromises()
  return { page, router, posted }
}

it('lists groups with what they leave to spare, and frames one with a press', async () => {
  const { page, router, posted } = await table([GROUP])
  expect(page.get('tbody').text()).toContain('Rosette + Cone')
  expect(page.get('tbody').text()).toContain('5 h 50')
  expect(page.get('tbody').text()).toContain('0.48°, 10 %')
  posted.mockImplementation(((path: string) =>
    Promise.resolve(good(path === '/api/framings' ? { id: 21 } : { id: 14, name: 'Rosette' }))) as never)
  await page.get('[aria-label="Frame Rosette and Cone"]').trigger('click')
  await flushPromises()
  const [taken, framed] = posted.mock.calls.map((one) => one[1] as unknown as { body: object })
  expect(taken?.body).toEqual({ key: 'NGC2237' })
  expect(framed?.body).toMatchObject({
    target: 14,
    ra_deg: 99,
    angle_deg: 130,
    name: 'Rosette, Cone',
    wanted: GROUP.subjects,
  })
  expect(router.currentRoute.value.name).toBe('framing')
  expect(router.currentRoute.value.query).toMatchObject({ target: '14', framing: '21', iso: '800' })
})

it('says so when nothing fits together, and tells what the server refuses', async () => {
  const { page } = await table([])
  expect(page.text()).toContain('No two worthwhile objects fit one frame')
  const { page: other, posted, router } = await table([GROUP])
  posted.mockResolvedValue({
    error: { faults: [{ field: 'name', value: 'x', message: 'You already have a framing of that name.' }] },
    response: new Response(null, { status: 422 }),
  } as never)
  await other.get('[aria-label="Frame Rosette and Cone"]').trigger('click')
  await flushPromises()
  expect(other.get('[role=alert]').text()).toContain('already have')
  expect(router.currentRoute.value.name).toBe('nights-suits')
})
