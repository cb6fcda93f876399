// @vitest-environment jsdom
/** Nights in a list, and one night run by run: planned, started, shot, kept, and who says so. */
import { expect, it } from 'vitest'

import { undoable } from '@/composables/useUndo'
import { mounted, press, refused, settled, shown, useAnswers } from '@/mounted.test.helper'

import MyNightsPage from './MyNightsPage.vue'
import NightPage from './NightPage.vue'
import { asScheduled, runSummary, stateName, type Run } from './runs'

const NIGHT = {
  ...{ spot: 2, night: '2026-12-08', spot_name: 'Salt pan', coming: true, rigs: ['Heron'], targets: ['Wisp'], rig: 1 },
  ...{ target: 3, runs: 1, done: 0, dropped: 0, frames_planned: 211, hours_planned: 5.3, frames: 0, kept: 0, hours: 0 },
}
const PAST = { ...NIGHT, night: '2026-11-08', coming: false, done: 1, frames: 64, kept: 60, hours: 1.52 }
const statement = (figure: string, source: string, value: object, stands = true) => ({
  ...{ figure, source, stands, moment: null, number: null, words: null },
  ...value,
})
const SHOT = {
  ...{
    id: 5,
    name: 'Wisp, 8 Dec',
    state: 'done',
    origin: 'schedule',
    night: '2026-12-08',
    spot: 2,
    target: 3,
    framing: null,
  },
  ...{ time_zone: 'Africa/Windhoek', target_name: 'Wisp', panel: '1·2', rig: 1, rig_name: 'Heron', in_plan: true },
  ...{
    planned_frames: 62,
    planned_exposure_s: 60,
    planned_from: '2026-12-08T22:20:00Z',
    planned_to: '2026-12-08T23:30:00Z',
  },
  ...{ begins_at: '2026-12-08T22:31:00Z', ends_at: '2026-12-08T23:32:00Z', frames: 58, kept: 51, exposure_s: 60 },
  ...{ f_number: 4, iso: 800, sky_mag: 21.4, filter_name: '', recognition: 'planned' },
  statements: [
    statement('begins_at', 'phone', { moment: '2026-12-08T22:31:00Z' }),
    statement('frames', 'files', { number: 58 }),
    statement('frames', 'phone', { number: 60 }, false),
    statement('frames', 'plan', { number: 62 }, false),
    statement('kept', 'user', { number: 51 }),
  ],
}
const PLAN = {
  ...SHOT,
  ...{
    id: 9,
    name: 'First night',
    state: 'planned',
    origin: 'plan',
    panel: '',
    begins_at: null,
    ends_at: null,
    frames: null,
  },
  ...{ kept: null, recognition: '', statements: [], planned_frames: 10, target_name: 'Kite' },
}
const GONE = { ...PLAN, id: 11, origin: 'schedule', state: 'dropped', in_plan: false, target_name: 'Moth' }
const LOST = {
  ...SHOT,
  id: 12,
  origin: 'files',
  state: 'running',
  kept: null,
  in_plan: false,
  recognition: 'other lens',
}

let nights: object = {}
const { sent } = useAnswers(() => {
  nights = { items: [NIGHT, PAST], count: 45 }
  return {
    'GET /api/nights': () => nights,
    'GET /api/runs': { items: [SHOT, PLAN, LOST, GONE], count: 4 },
    'GET /api/nights/whole': { asked: { rigs: [1], wishes: [] }, runs: [{ rig: 0 }], trips: [] },
    'GET /api/plans/{record_id}': { id: 9, name: 'First night' },
  }
})
const text = (part: { text: () => string }) => part.text().replace(/\s+/g, ' ')

it('lists upcoming and past nights with what is planned and what was kept, a page at a time', async () => {
  const { page } = await mounted(MyNightsPage)
  const sections = page.findAll('section')
  expect(sections.map((section) => section.attributes('aria-label'))).toEqual(['Upcoming', 'Past'])
  expect(text(sections[0] as never)).toContain('0 of 12115.3 h–––')
  expect(text(sections[1] as never)).toContain('1 of 12115.3 h64601.5 h')
  document.querySelector<HTMLElement>('.ant-pagination-item-3')?.click()
  await settled(2)
  expect(sent('GET', '/api/nights').at(-1)?.query).toEqual({ limit: 20, offset: 40 })
})

it('says that there is no night yet, and that the server failed, with a way to ask again', async () => {
  nights = refused('', 'The server is busy.', 503)
  await mounted(MyNightsPage)
  expect(shown()).toContain('The server is busy.')
  nights = { items: [], count: 0 }
  await press('Try again')
  await settled(2)
  expect(shown()).toContain('No nights yet.')
})

it('shows of each run what was planned, started, shot and kept, and opens who says so', async () => {
  const { page } = await mounted(NightPage)
  const rows = page.findAll('tbody tr').map(text)
  expect(rows[0]).toContain('Wisp, panel 1·2')
  expect(rows[0]).toContain('62 × 60 s00:20–01:3000:31phone58files51you')
  expect(page.get('[role=status]').text()).toBe('62 frames planned, 116 shot, 51 kept: 0.8 h.')
  expect(shown()).toContain('Not recognised, so nothing is counted.')
  expect(rows[2]).toContain('Running')
  expect(page.findAll('section').at(-1)?.attributes('aria-label')).toBe('Dropped from the plan')
  await press('Sources')
  const sources = page.findAll('.statements li').map(text)
  expect(sources).toContain('Start00:31the phone')
  expect(sources).toContain('Frames60the phone, not used')
})

it('drops a run and undoes it, and deletes a plan', async () => {
  await mounted(NightPage)
  await press('Drop Wisp')
  expect(sent('POST', '/api/runs/{record_id}/drop')[0]?.id).toBe(5)
  await undoable.value?.undo?.()
  expect(sent('POST', '/api/runs/{record_id}/undrop')[0]?.id).toBe(5)
  await press('Delete the plan First night')
  expect(sent('DELETE', '/api/plans/{record_id}')[0]?.id).toBe(9)
})

it('withdraws the schedule, and saves it again as it was', async () => {
  await mounted(NightPage)
  await press('Withdraw the schedule')
  expect(sent('DELETE', '/api/nights/whole')[0]?.query).toEqual({ spot: 2, night: '2026-12-08' })
  await undoable.value?.undo?.()
  expect(sent('PUT', '/api/nights/whole')[0]?.body).toMatchObject({ spot: 2, rigs: [1], runs: [{ rig: 0 }] })
})

it('puts the schedule before what a target would get all night', () => {
  const verdict = { topic: 'Card', sentence: '290 frames of 90 s' }
  expect(asScheduled(verdict, [SHOT as unknown as Run]).sentence).toBe('62 × 60 s, 00:20 to 01:30, as scheduled.')
  expect(asScheduled(verdict, [])).toBe(verdict)
  expect([true, false].map((scheduled) => stateName(PLAN as unknown as Run, scheduled))).toEqual([
    'Not in the schedule',
    'Planned',
  ])
})

it('sums up a night by its schedule, else by its plans', () => {
  expect(runSummary([PLAN as unknown as Run])).toBe('10 frames planned, 0 shot, 0 kept.')
})
