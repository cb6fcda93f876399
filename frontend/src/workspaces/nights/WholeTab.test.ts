// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'

import { api } from '@/api/client'
import { undoable } from '@/composables/useUndo'

import WholeTab from './WholeTab.vue'

const START = Date.UTC(2026, 11, 8, 17)
const at = (minute: number) => new Date(START + minute * 60_000).toISOString()
const VERDICT = {
  topic: 'Whole night', level: 'go', sentence: 'No order of these runs brings 0.4 % more.', binding: '', advice: '',
  figures: [], limits: [], workings: [], caution: '',
} // prettier-ignore
const run = (stand: number, wish: number, from: number, to: number) => ({
  name: ['Wisp', 'Cloud'][wish],
  verdict: { ...VERDICT, topic: ['Wisp', 'Cloud'][wish], sentence: `Run of ${['Wisp', 'Cloud'][wish]}.` },
  run: {
    stand, wish, panel: 0, side: 0, change: from, first: from + 10, last: to, held: false, held_from: at(from), held_to: at(to),
    change_clock: '21:00', begins_clock: '21:10', ends_clock: '23:00', frames: 40, exposure_s: 120, pause_s: 2, iso: 800,
    f_number: 4, hours: 1.2, begins_with: 'its window opens', ends_with: 'the next run begins',
  },
}) // prettier-ignore
const total = (wish: number) => ({
  wish, panel: 0, name: ['Wisp', 'Cloud'][wish], frames: 40, open_s: 4_800, storage_gb: 1.2, hours: 1.2, gathered_h: 0, even_h: 1,
  stacks: [{ stand: 0, frames: 40, snr: 12 }], verdict: VERDICT,
}) // prettier-ignore
type Sent = {
  runs: { begins_at: string; ends_at: string; held: boolean; wish: number }[]
  moved?: number
  dropped: object[]
  chosen: object[]
  wishes: object[]
  limits: { sleep_from: string }
}

let asked: Sent[] = []
let put: Sent[] = []
let kept: object = { asked: null, runs: [], trips: [] }
const good = (data: unknown) => ({ data, response: new Response() }) as never
const refusal = (field: string, message: string) =>
  ({ error: { faults: [{ field, value: null, message }] }, response: new Response(null, { status: 422 }) }) as never
/** Held runs where they were put, the others as they come; like the server, with no astronomy. */
function answered(body: Sent) {
  if (body.limits.sleep_from === '25:00') return refusal('sleep_from', 'no time of day')
  const runs = [run(0, 0, 60, 180), run(0, 1, 180, 400)].map((one) => {
    const held = body.runs.find((each) => each.held && each.wish === one.run.wish)
    return held ? { ...one, run: { ...one.run, held: true, held_from: held.begins_at, held_to: held.ends_at } } : one
  })
  const whole = {
    start: at(0), time_zone: 'UTC', minutes: 600, slot: 5, dark: null, asleep: null, windows: [],
    runs: runs.slice(body.dropped.length), totals: [total(0), total(1)], verdict: VERDICT,
    gap_percent: body.moved === undefined ? 0.4 : null,
    suits: [
      { stand: 0, wish: 0, share_percent: 40, suits: true, on: true },
      { stand: 0, wish: 1, share_percent: 0.6, suits: false, on: body.chosen.length > 0 },
    ],
    schools: [{ name: 'an even split', loses_percent: 5 }],
    left: body.dropped.length ? [{ wish: 0, panel: 0, name: 'Wisp', reason: 'You dropped it.', returns: '2026-12-20' }] : [],
  } // prettier-ignore
  return good({ rigs: ['Heron'], wishes: [{ name: 'Wisp', panels: [''] }], whole })
}

beforeEach(() => {
  asked = []
  put = []
  kept = { asked: null, runs: [], trips: [] }
  vi.spyOn(api, 'POST').mockImplementation(((_: string, given: { body: Sent }) => {
    asked.push(JSON.parse(JSON.stringify(given.body)) as Sent)
    return Promise.resolve(answered(given.body))
  }) as never)
  vi.spyOn(api, 'PUT').mockImplementation(((_: string, given: { body: Sent }) => {
    put.push(given.body)
    kept = { asked: { rigs: [1], wishes: [{ target: 3 }, { target: 4 }] }, runs: given.body.runs, trips: [] }
    return Promise.resolve(good({ done: true }))
  }) as never)
  vi.spyOn(api, 'GET').mockImplementation(((path: string) => {
    const named = (...names: string[]) => names.map((name, place) => ({ id: place + 1, name, version: 1 }))
    const found: Record<string, unknown> = {
      '/api/nights/whole': kept,
      '/api/nights/whole/what-ifs': { work: null, asked: null, outdated: false, what_ifs: [] },
      '/api/nights/whole/sheet': { time_zone: 'UTC', cues: [], runs: [], calibration: [], cautions: [] },
      '/api/nights/lanes': { chosen: true, targets: [3, 4], lanes: { start: at(0), step_min: 2, lanes: [] } },
      '/api/rigs': { items: named('Heron', 'Sparrow'), count: 2 },
      '/api/targets': { items: named('-', '-', 'Wisp', 'Cloud'), count: 4 },
    }
    return Promise.resolve(good(found[path] ?? { items: [], count: 0 }))
  }) as never)
})
afterEach(() => {
  vi.restoreAllMocks()
  document.body.innerHTML = ''
  undoable.value = null
})

async function settled() {
  for (let turn = 0; turn < 6; turn += 1) {
    await flushPromises()
    await new Promise((done) => setTimeout(done, 110))
  }
  await flushPromises()
}
async function shown() {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/nights/whole', name: 'nights-whole', component: {} }],
  })
  await router.push('/nights/whole?rig=1&spot=1&night=2026-12-08&target=3')
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const page = mount(WholeTab, {
    attachTo: document.body,
    global: { plugins: [router, [VueQueryPlugin, { queryClient: queries }]], stubs: { WorkingDrawer: true } },
  })
  await settled()
  return page
}
const button = (page: Awaited<ReturnType<typeof shown>>, name: string) => {
  const found = page.findAll('button').find((one) => one.text() === name)
  if (!found) throw new Error(`no button ${name}`)
  return found
}

it('plans what the night is for with the rig in use, and shows runs, totals and what heads would lose', async () => {
  const page = await shown()
  expect(asked).toHaveLength(1)
  expect(asked[0]).toMatchObject({ rigs: [1], wishes: [{ target: 3, weight: 1 }, { target: 4 }], runs: [] })
  expect(page.findAll('.block')).toHaveLength(2)
  expect(page.text()).toContain('1 h 20 min')
  expect(page.text()).toContain('an even split −5 %')
  await button(page, 'Wisp').trigger('click')
  expect(page.getComponent({ name: 'WorkingDrawer' }).props('verdict')).toMatchObject({ topic: 'Wisp' })
})

it('fixes a moved run, answers at once, then looks for the best; undo takes it back', async () => {
  const page = await shown()
  await page.get('.block').trigger('keydown', { key: 'ArrowRight' })
  await settled()
  const [, quick, best] = asked
  expect(quick).toMatchObject({
    moved: 0,
    runs: [{ begins_at: at(65), ends_at: at(185), held: true }, { held: false }],
  })
  expect(best?.moved).toBeUndefined()
  expect(best?.runs).toHaveLength(1)
  expect(page.get('.block').attributes('aria-label')).toContain('fixed')
  await page.get('.block').trigger('keydown', { key: 'f' })
  await settled()
  expect(page.get('.block').attributes('aria-label')).not.toContain('fixed')
  await button(page, 'Undo').trigger('click')
  await settled()
  expect(page.get('.block').attributes('aria-label')).toContain('fixed')
})

it('drops a run and takes it back, and splits one', async () => {
  const page = await shown()
  await page.get('.block').trigger('keydown', { key: 'Delete' })
  await settled()
  expect(asked.at(-1)?.dropped).toEqual([{ rig: 0, wish: 0, panel: 0 }])
  expect(page.get('[aria-label="Left out"]').text()).toContain('Again on 20 Dec 2026')
  await button(page, 'Shoot them after all').trigger('click')
  await settled()
  expect(page.findAll('.block')).toHaveLength(2)
  await page.findAll('.block')[1]?.trigger('keydown', { key: 's' })
  await settled()
  expect(asked.at(-1)?.runs).toMatchObject([{ begins_at: at(180), ends_at: at(290), held: true }])
})

it('says what is wrong at its field, keeps what was typed, and keeps the plan when it is right', async () => {
  const page = await shown()
  const from = page.findAll('input').find((one) => one.element.labels?.[0]?.textContent?.includes('Asleep from'))
  await from?.setValue('25:00')
  await settled()
  expect(page.text()).toContain('no time of day')
  expect(from?.element.value).toBe('25:00')
  await from?.setValue('')
  await settled()
  await button(page, 'Keep this plan').trigger('click')
  await settled()
  expect(put[0]?.runs).toHaveLength(2)
  expect(button(page, 'Kept').attributes('disabled')).toBeDefined()
  page.unmount()
  const again = await shown()
  expect(asked.at(-1)).toMatchObject({ kept: true, runs: [{}, {}] })
  const weight = again.findAll('input').find((one) => one.element.labels?.[0]?.textContent?.includes('Matters'))
  await weight?.setValue('2')
  await settled()
  expect(asked.at(-1)).toMatchObject({ kept: false, runs: [], wishes: [{ weight: 2 }, {}] })
  await weight?.setValue('1')
  await settled()
  await button(again, 'Find the best order').trigger('click')
  await settled()
  expect(asked.at(-1)).toMatchObject({ kept: false, runs: [], wishes: [{ weight: 1 }, {}] })
}, 20_000)

it('ticks a rig for a target that is no size for its frame, and unticks one that is', async () => {
  const page = await shown()
  const rigsFor = (name: string) => page.get(`[aria-label="Rigs for ${name}"] input`)
  expect(page.find('[aria-label="Rigs for Wisp"]').exists()).toBe(false) // one rig, and it suits
  expect(page.get('[aria-label="Rigs for Cloud"]').text()).toContain('small for it: 0.6 % of the frame')
  await rigsFor('Cloud').setValue(true)
  await settled()
  expect(asked.at(-1)?.chosen).toEqual([{ rig: 0, wish: 1 }])
  await rigsFor('Cloud').setValue(false)
  await settled()
  expect(asked.at(-1)).toMatchObject({ chosen: [], dropped: [{ rig: 0, wish: 1, panel: 0 }] })
})
