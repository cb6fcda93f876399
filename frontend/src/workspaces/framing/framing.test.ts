// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { defineComponent, h, type Component } from 'vue'

import { api } from '@/api/client'
import { provideFraming, type Composing } from '@/composables/useFraming'
import { undoable } from '@/composables/useUndo'

import ChartTable from './ChartTable.vue'
import FindObject from './FindObject.vue'
import PanelsTab from './PanelsTab.vue'
import SecondCamera from './SecondCamera.vue'
import TestPicture from './TestPicture.vue'
import WantedPanel from './WantedPanel.vue'
import WayTab from './WayTab.vue'

const TARGET = { id: 3, name: 'Wisp', ra_deg: 80, dec_deg: -30, extent_deg: 2, width_deg: 1, angle_deg: 10, version: 1 }
const FRAME = { ra_deg: 80, dec_deg: -30, angle_deg: 0, width_deg: 7.5, height_deg: 5 }
const KEPT = {
  id: 8,
  version: 2,
  target_id: 3,
  name: 'Wisp and all',
  ra_deg: 81.5,
  dec_deg: -31,
  angle_deg: 25,
  columns: 3,
  rows: 2,
  overlap: 0.25,
  grid: 'turned',
  dropped: [{ row: 1, column: 2 }],
  wanted: [{ name: 'Wisp', ra_deg: 80, dec_deg: -30, long_deg: 2 }],
  avoided: [],
}
const VERDICT = {
  topic: 'Hop',
  level: 'go',
  sentence: '2 steps from Phact.',
  binding: 'steps of 5°',
  advice: '',
  figures: [],
  limits: [],
  workings: [],
  caution: '',
}
const way = (key: string, name: string, steps: string[]) => ({
  key,
  name,
  steps,
  error_deg: steps.length ? 1.5 : null,
  error_frames: steps.length ? 0.3 : null,
  path: [],
  verdict: { ...VERDICT, topic: name },
})
const ENTRY = {
  key: 'NGC1',
  name: 'NGC 1',
  kind: 'galaxy',
  constellation: 'Col',
  ra_deg: 80.4,
  dec_deg: -30.1,
  extent_deg: 0.3,
}
const panelsOf = (columns: number, rows: number) =>
  Array.from({ length: columns * rows }, (_, place) => ({
    row: Math.floor(place / columns),
    column: place % columns,
    dropped: false,
    frame: FRAME,
  }))

const good = (data: unknown) => ({ data, response: new Response() }) as never
const refusal = (field: string, message: string) =>
  ({
    error: { faults: [{ field, value: null, message }] },
    response: new Response(null, { status: 422 }),
  }) as never
let kept: object[] = []
let asked: { path: string; body: Record<string, unknown> }[] = []
let answers: Record<string, (body: Record<string, unknown>) => unknown> = {}

beforeEach(() => {
  kept = []
  asked = []
  answers = {
    '/api/framings': (body) => good({ ...KEPT, ...body, id: 9, version: 1 }),
    '/api/framings/panels': (body) =>
      good({
        columns: body.fewest ? 2 : body.columns,
        rows: body.fewest ? 2 : body.rows,
        grid: 'turned',
        overlap_percent: 20,
        covered_percent: 100,
        turn_deg: 0,
        panels: panelsOf(Number(body.columns), Number(body.rows)),
        cut: [],
        verdict: { ...VERDICT, topic: 'Cut', sentence: `${Number(body.columns) * Number(body.rows)} panels.` },
      }),
    '/api/framings/nights': () =>
      good({
        verdict: { ...VERDICT, topic: 'Panels' },
        panels: [
          { row: 0, column: 0, opens: '21:10', closes: '02:30', window_s: 19_200, highest_deg: 61, sky_mag: 21.5 },
          { row: 0, column: 1, opens: '', closes: '', window_s: 0, highest_deg: 9, sky_mag: null },
        ],
      }),
    '/api/framings/ways': () =>
      good({
        clock: '23:03',
        chosen: 'picture',
        ways: [
          way('picture', 'By test picture', ['Take a picture.']),
          way('star', 'From a bright star', []),
          way('hop', 'Hop over stars', ['Find Phact.', '4° down.']),
          way('compass', 'Compass and inclinometer', ['Turn to 170°.']),
        ],
      }),
    '/api/framings/pair': () =>
      good({
        second: FRAME,
        of_first_percent: 40,
        of_second_percent: 90,
        both_deg2: 15.25,
        either_deg2: 60,
        verdict: { ...VERDICT, topic: 'Two cameras', sentence: 'Both see 15.3 deg².' },
      }),
    '/api/framings/nudge': () =>
      good({
        verdict: { ...VERDICT, topic: 'Nudge', sentence: 'There: you are on Wisp.' },
        there: true,
        again: '2026-12-01',
      }),
    '/api/framings/arrived': () => good({ night: '2026-12-08', ra_deg: 80, dec_deg: -30, angle_deg: 0 }),
  }
  vi.spyOn(api, 'POST').mockImplementation(((path: string, given: { body: Record<string, unknown> }) => {
    asked.push({ path, body: given.body })
    return Promise.resolve(answers[path]?.(given.body) ?? good({}))
  }) as never)
  vi.spyOn(api, 'GET').mockImplementation(((path: string) => {
    const found: Record<string, unknown> = {
      '/api/targets': { items: [TARGET], count: 1 },
      '/api/rigs': {
        items: [
          { id: 1, name: 'Heron' },
          { id: 2, name: 'Sparrow' },
        ],
        count: 2,
      },
      '/api/framings': { items: kept, count: kept.length },
      '/api/framings/sky': {
        ra_deg: [80.2],
        dec_deg: [-30],
        magnitude: [3.1],
        colour: [null],
        faintest: 9,
        objects: [ENTRY],
      },
      '/api/framings/figures': {
        lines: [],
        labels: [],
        stars: [{ name: 'Phact', ra_deg: 80.2, dec_deg: -30, magnitude: 3.1 }],
        ecliptic: [],
      },
      '/api/framings/angles': { only_deg: null, why: 'The lens turns freely.', meridian: '' },
      '/api/targets/catalogue': { items: [ENTRY], count: 1 },
      '/api/pictures/measurements': {
        items: [{ id: 40, task: 'pointing', state: 'done', pictures: [{ pointing: { ...FRAME, mirrored: false } }] }],
        count: 1,
      },
      '/api/pictures/measurements/{record_id}': { id: 40, task: 'pointing', state: 'done', pictures: [], notes: [] },
      '/api/pictures/folder': { items: [], count: 0 },
    }
    return Promise.resolve(good(found[path] ?? { items: [], count: 0 }))
  }) as never)
  vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null)
})
afterEach(() => {
  vi.restoreAllMocks()
  document.body.innerHTML = ''
  undoable.value = null
})

/** A part of the workspace with its composition, as the page has it. */
async function within(part: Component, props: object = {}, query = 'rig=1&spot=1&night=2026-12-08&target=3') {
  const routes = ['/framing', '/exposure'].map((path) => ({
    path,
    name: path === '/exposure' ? 'exposure-card' : 'framing',
    component: {},
  }))
  const router = createRouter({ history: createMemoryHistory(), routes })
  await router.push(`/framing?${query}`)
  let made: Composing | null = null
  const page = mount(
    defineComponent({
      setup() {
        made = provideFraming()
        return () => h(part, props)
      },
    }),
    {
      attachTo: document.body,
      global: {
        plugins: [
          router,
          [VueQueryPlugin, { queryClient: new QueryClient({ defaultOptions: { queries: { retry: false } } }) }],
        ],
        stubs: { ChartPane: true, WorkingDrawer: true, FocusSteps: true },
      },
    },
  )
  await settled()
  return { page, router, framing: made as unknown as Composing }
}
async function settled() {
  for (let turn = 0; turn < 4; turn += 1) {
    await flushPromises()
    await new Promise((done) => setTimeout(done, 110))
  }
  await flushPromises()
}
const last = (path: string) => asked.filter((one) => one.path === path).at(-1)?.body ?? {}
const nothing = { template: '<i />' }

it('begins with the target itself, at its own middle', async () => {
  const { framing } = await within(nothing)
  expect(framing.held.value).toEqual({ ra: 80, dec: -30, angle: 0 })
  expect(framing.wanted.value.map((one) => one.name)).toEqual(['Wisp'])
  expect(last('/api/framings/panels')).toMatchObject({ columns: 1, rows: 1, overlap: 0.2, rig: 1 })
})

it('takes up what was kept, and keeps it over itself with its version', async () => {
  kept = [KEPT]
  vi.spyOn(api, 'PUT').mockResolvedValue(good({ ...KEPT, version: 3 }))
  const { framing, router } = await within(nothing)
  expect(framing.held.value).toEqual({ ra: 81.5, dec: -31, angle: 25 })
  expect([framing.columns.value, framing.rows.value, framing.overlapPercent.value]).toEqual([3, 2, 25])
  await framing.keep()
  const given = vi.mocked(api.PUT).mock.calls[0]?.[1] as unknown as { body: object; params: { path: object } }
  expect(given.params.path).toEqual({ record_id: 8 })
  expect(given.body).toMatchObject({ version: 2, target: 3, dropped: [{ row: 1, column: 2 }] })
  expect(router.currentRoute.value.query.framing).toBe('8')
})

it('keeps a new one, puts it into the address, and can take it back', async () => {
  vi.spyOn(api, 'DELETE').mockResolvedValue(good({}))
  const { framing, router } = await within(nothing)
  await framing.keep()
  expect(last('/api/framings')).toMatchObject({ target: 3, version: null, name: 'Wisp' })
  expect(router.currentRoute.value.query.framing).toBe('9')
  await undoable.value?.undo?.()
  expect(api.DELETE).toHaveBeenCalled()
  expect(router.currentRoute.value.query.framing).toBeUndefined()
})

it('leaves out panels by hand, and forgets those that are no panels any more', async () => {
  const { framing } = await within(nothing)
  framing.columns.value = 3
  framing.rows.value = 2
  framing.drop(1, 2)
  framing.drop(0, 0)
  expect(framing.shape.value.dropped).toHaveLength(2)
  framing.drop(0, 0)
  expect(framing.shape.value.dropped).toEqual([{ row: 1, column: 2 }])
  framing.columns.value = 2
  expect(framing.shape.value.dropped).toEqual([])
  await framing.fewest()
  expect([framing.columns.value, framing.rows.value]).toEqual([2, 2])
})

it('sends a figure that is no figure as it was typed, so that the server can name it', async () => {
  const { framing } = await within(nothing)
  framing.overlapPercent.value = 'a fifth'
  await settled()
  expect(last('/api/framings/panels').overlap).toBe('a fifth')
})

it('wants and no longer wants, and offers bright stars by their names to be kept out', async () => {
  const { page, framing } = await within(WantedPanel, { composed: null, busy: false, faults: {} })
  expect(page.text()).toContain('The lens turns freely.')
  const boxes = page.findAll('details')[0]?.findAll('input') ?? []
  await boxes[0]?.setValue(true)
  expect(framing.wanted.value.map((one) => one.name)).toEqual(['Wisp', 'NGC 1'])
  const stars = page.findAll('details').at(-1)
  expect(stars?.text()).toContain('Phact')
  await stars?.get('input').setValue(true)
  expect(framing.avoided.value).toMatchObject([{ name: 'Phact', long_deg: 0.5 }])
  await framing.compose('rig', 'any').catch(() => null)
  expect(last('/api/framings/compose')).toMatchObject({ turn: 'rig', avoided: [{ name: 'Phact' }] })
})

it('finds an object by its name', async () => {
  const found = vi.fn()
  const { page } = await within(FindObject, { onFound: found })
  await page.get('input').setValue('ngc 1')
  await settled()
  await page.get('button').trigger('click')
  expect(found).toHaveBeenCalledWith(expect.objectContaining({ key: 'NGC1' }))
  expect((page.get('input').element as HTMLInputElement).value).toBe('')
})

it('lists each panel with its window, and says where there is none', async () => {
  const { page, framing } = await within(PanelsTab)
  framing.columns.value = 2
  await settled()
  const rows = page.findAll('tbody tr').map((row) => row.text())
  expect(rows).toHaveLength(2)
  expect(rows[0]).toContain('21:10–02:30')
  expect(rows[1]).toContain('none')
  await page.findAll('tbody input')[1]?.setValue(false)
  expect(framing.shape.value.dropped).toEqual([{ row: 0, column: 1 }])
})

it('says what a file lacks and keeps what was composed', async () => {
  answers['/api/framings/file'] = () => refusal('file', 'Column “grid” is missing.')
  const { page, framing } = await within(PanelsTab)
  const before = JSON.stringify(framing.shape.value)
  const input = page.get('input[type=file]').element as HTMLInputElement
  Object.defineProperty(input, 'files', { value: [new File(['a,b'], 'panels.csv')], configurable: true })
  input.dispatchEvent(new Event('change'))
  await settled()
  expect(page.text()).toContain('Column “grid” is missing.')
  expect(JSON.stringify(framing.shape.value)).toBe(before)
})

it('puts four ways side by side, and remembers the one chosen', async () => {
  const { page, router } = await within(WayTab)
  expect(page.findAll('.ways tbody tr').map((row) => row.find('td').text())).toEqual(['1', 'none', '2', '1'])
  expect(page.text()).toContain('not from here')
  await page.findAll('.ways th button')[2]?.trigger('click')
  await settled()
  expect(router.currentRoute.value.query.way).toBe('hop')
  expect(page.findAll('.steps li').map((one) => one.text())).toEqual(['Find Phact.', '4° down.'])
})

it('tells a refused time beside the ways', async () => {
  answers['/api/framings/ways'] = () => refusal('at', '“99:99” is no time of day.')
  const { page } = await within(WayTab)
  expect(page.get('[role=alert]').text()).toContain('no time of day')
})

it('shows the last picture’s nudge, against which night it is held, and remembers where one stands', async () => {
  kept = [KEPT]
  const tries = vi.fn()
  const { page } = await within(TestPicture, { onTries: tries })
  expect(last('/api/framings/nudge')).toMatchObject({ measurement: 40, id: 8, rig: 1, angle_deg: 25 })
  expect(page.text()).toContain('There: you are on Wisp.')
  expect(page.text()).toContain('1 Dec 2026')
  expect(tries).toHaveBeenLastCalledWith([expect.objectContaining({ ra_deg: 80 })])
  await page
    .findAll('button')
    .find((one) => one.text().startsWith('Come back'))
    ?.trigger('click')
  await settled()
  expect(last('/api/framings/arrived')).toEqual({ framing: 8, rig: 1, measurement: 40 })
})

it('says in words when the picture is of another lens', async () => {
  answers['/api/framings/nudge'] = () => refusal('measurement', 'another lens or zoom?')
  const { page } = await within(TestPicture)
  expect(page.get('[role=alert]').text()).toContain('another lens')
})

it('tells what two cameras see together', async () => {
  const { page } = await within(SecondCamera)
  expect(asked.some((one) => one.path === '/api/framings/pair')).toBe(false)
  await page.get('select').setValue(1)
  await settled()
  expect(last('/api/framings/pair')).toMatchObject({ rig: 1, other: 2, right_deg: 0 })
  expect(page.get('[role=status]').text()).toContain('15.3 deg²')
})

it('reads out what the chart shows, the nearest first', async () => {
  const page = mount(ChartTable, {
    props: {
      sky: { objects: [ENTRY, { ...ENTRY, key: 'far', name: 'Far', ra_deg: 95 }] } as never,
      stars: [{ name: 'Phact', ra_deg: 80.1, dec_deg: -30, magnitude: 2.6 }],
      held: { ra: 80, dec: -30, angle: 0 },
      widthDeg: 7.5,
      heightDeg: 5,
    },
  })
  const rows = page.findAll('tbody tr').map((row) => row.findAll('th, td').map((cell) => cell.text()))
  expect(rows.map(([name]) => name)).toEqual(['Phact', 'NGC 1', 'Far'])
  expect(rows.map((row) => row.at(-1))).toEqual(['yes', 'yes', 'no'])
})
