// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'

import { api } from '@/api/client'

import TripNights from './TripNights.vue'
import WhatIfs from './WhatIfs.vue'

const VERDICT = {
  topic: 'Trip', level: 'go', sentence: '3 runs over 2 nights.', binding: '', advice: 'No order brings 1 % more.', figures: [],
  limits: [], workings: [{ key: 'frames', title: '', formula: '', inputs: [], result: {}, source: '', basis: 'definition' }],
} // prettier-ignore
const work = (state: string, share = 0) => ({
  state, silent: false, share, doing: 'night 1 of 2', faults: [] as object[], asked_at: '2026-12-08T12:00:00Z',
}) // prettier-ignore
const RUN = {
  stand: 0, wish: 0, panel: 0, side: 1, rig: 'Heron', name: 'Wisp', held_from: '2026-12-08T19:00:00Z', held: false,
  held_to: '2026-12-08T21:00:00Z', change_clock: '21:00', begins_clock: '21:10', ends_clock: '23:00', frames: 40, exposure_s: 120,
  iso: 800, f_number: 4, signal: 1,
} // prettier-ignore
const PLAN = {
  rigs: ['Heron', 'Sparrow'],
  nights: [
    { evening: '2026-12-08', spot: 'by the tank', runs: [RUN], frames: 40, open_s: 4_800 },
    { evening: '2026-12-09', spot: 'by the tank', runs: [], frames: 0, open_s: 0 },
  ],
  panels: [
    { wish: 0, panel: 0, name: 'Wisp', frames: [[40, 12], [0, 0]], in_all: 52, stacks: 2, storage_gb: 1.6, hours: 1.5, gathered_h: 0 },
  ],
  stacks: 2, storage_gb: 1.6, gap_percent: 0.4, verdict: VERDICT,
} // prettier-ignore
const TRIP = {
  id: 7, version: 1, name: 'Two nights', first_night: '2026-12-08', spots: [2, 2], rigs: [1, 5], targets: [3, 4], wake_time: '07:00',
  drive_h: 0,
} // prettier-ignore
const good = (data: unknown) => ({ data, response: new Response() }) as never
let answers: object = {}
let posted: [string, { body?: object }][] = []

beforeEach(() => {
  posted = []
  vi.spyOn(api, 'POST').mockImplementation(((path: string, given: { body?: object }) => {
    posted.push([path, JSON.parse(JSON.stringify(given)) as { body?: object }])
    if (path.endsWith('/keep')) return Promise.resolve(good({ nights: 2 }))
    answers = {
      ...answers,
      work: work(path.endsWith('cancel') ? 'cancelled' : 'running', 0.4),
      plan: null,
      what_ifs: [],
    }
    return Promise.resolve(good(answers))
  }) as never)
  vi.spyOn(api, 'GET').mockImplementation(((path: string) => {
    if (path.includes('plan') || path.includes('what-ifs')) return Promise.resolve(good(answers))
    const items = path === '/api/targets' ? [3, 4].map((id) => ({ id, name: ['Wisp', 'Cloud'][id - 3] })) : []
    return Promise.resolve(good({ items, count: items.length }))
  }) as never)
})
afterEach(() => vi.restoreAllMocks())

async function shown(component: object, props: object) {
  const routes = ['nights-trips', 'nights-whole'].map((name) => ({ path: `/${name}`, name, component: {} }))
  const router = createRouter({ history: createMemoryHistory(), routes })
  await router.push('/nights-trips?rig=1&spot=2&night=2026-12-08&target=3')
  const page = mount(component, {
    props,
    global: { plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]], stubs: { WorkingDrawer: true } },
  })
  await flushPromises()
  return page
}
const press = async (page: Awaited<ReturnType<typeof shown>>, name: string) => {
  const found = page.findAll('button').find((one) => one.text() === name)
  if (!found) throw new Error(`no button ${name} in ${page.text()}`)
  await found.trigger('click')
  await flushPromises()
}
const EVENINGS = ['2026-12-08', '2026-12-09']

it('asks for a trip as it was asked before, a new target as it comes, and shows how far it is', async () => {
  answers = { work: null, plan: null, asked: { rigs: [1], wishes: [{ target: 3, weight: 2 }], lost: ['2026-12-09'] } }
  const page = await shown(TripNights, { trip: TRIP, evenings: EVENINGS })
  await press(page, 'Find the best order')
  expect(posted[0]?.[1].body).toMatchObject({
    rigs: [1, 5],
    wishes: [
      { target: 3, weight: 2, least_h: 0, framing: null },
      { target: 4, weight: 1, least_h: 0, framing: null },
    ],
    lost: ['2026-12-09'],
  })
  expect(page.text()).toContain('night 1 of 2')
  await press(page, 'Cancel')
  expect(page.text()).toContain('Cancelled.')
})

it('shows frames by night and rig, says where nothing is taken, and keeps all nights at once', async () => {
  answers = { work: work('done', 1), plan: PLAN, asked: { rigs: [1], wishes: [], lost: [] } }
  const page = await shown(TripNights, { trip: TRIP, evenings: EVENINGS })
  const row = page.get('tbody tr').text()
  expect(row).toContain('40 + 12')
  expect(row).toContain('–')
  expect(row).toContain('52')
  expect(page.text()).toContain('40 × 120 s, camera turned over')
  expect(page.text()).toContain('No run is worth it.')
  await press(page, 'Keep as the plan of each night')
  expect(posted.map(([path]) => path)).toEqual(['/api/trips/{record_id}/plan/keep'])
})

it('works out what if for a kept night only, and opens the working of each', async () => {
  const verdict = { ...VERDICT, sentence: '4 runs; 31 % less than planned.' }
  answers = {
    work: work('done', 1), asked: { late_h: 2 }, outdated: true,
    what_ifs: [{ name: 'Cloud until 00:00', loses_percent: 31, runs: [RUN], verdict }],
  } // prettier-ignore
  const where = { spot: 2, night: '2026-12-08' }
  expect((await shown(WhatIfs, { where, kept: false })).text()).toContain('Keep this plan first')
  const page = await shown(WhatIfs, { where, kept: true })
  expect(page.text()).toContain('Cloud until 00:00: 4 runs; 31 % less than planned.')
  expect(page.text()).toContain('The plan was changed since')
  await press(page, 'Working')
  expect(page.emitted('working')).toEqual([[verdict]])
  await press(page, 'Recalculate')
  expect(posted[0]?.[1].body).toEqual({ ...where, late_h: 2, cloud_until: '00:00', wind: 'fresh', home_h: 1 })
})
