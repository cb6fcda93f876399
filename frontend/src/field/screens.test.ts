// @vitest-environment jsdom
/** What is pressed on the screens of a night, and what is written down of it. */
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'

import NightScreen from './NightScreen.vue'
import * as store from './store'
import type { Pack } from './store'
import { useCues } from './useCues'
import { useField } from './useField'
import { useWake } from './useWake'

const DUSK = Date.parse('2026-12-08T18:00:00Z')
const at = (minutes: number) => new Date(DUSK + minutes * 60_000).toISOString()
const step = (key: string, more: object = {}) => ({
  key, kind: 'check', run: '', rig: 0, phase: 'Setting up', sentence: `Do ${key}.`, due: at(0), caution: '', figures: [], view: null,
  lasts_min: 0, yours: false, goes_on_min: 0,
  ...more,
}) // prettier-ignore
const run = (key: string, target: number, from: number, to: number) => ({
  key, rig: 0, target, name: key, frames: 60, exposure_s: 60, iso: 800, f_number: 2.8, begins_at: at(from), ends_at: at(to),
  done_after_s: Array.from({ length: 60 }, (_, frame) => 62 * (frame + 1)), cues: [],
  subs: [
    { wind: 'calm', axis_arcmin: 2, exposure_s: 60, keeps_percent: 96, better_percent: 96, frames_an_hour: 58 },
    { wind: 'fresh', axis_arcmin: 2, exposure_s: 40, keeps_percent: 70, better_percent: 88, frames_an_hour: 84 },
    { wind: 'fresh', axis_arcmin: 6, exposure_s: 25, keeps_percent: 31, better_percent: 82, frames_an_hour: 130 },
  ],
}) // prettier-ignore
const replanned = (name: string, from: number, to: number) => ({
  rig: 0, name, change_at: at(from), ends_at: at(to), frames: 70, exposure_s: 60, iso: 800, f_number: 2.8,
}) // prettier-ignore
const PACK = {
  night: 12, made_at: at(-30), first: at(0), time_zone: 'Africa/Windhoek', whole: true,
  rigs: [{ name: 'Heron', scope_view: 'none', focal_mm: 85 }], poles: [],
  targets: [{ altitude_deg: Array.from({ length: 300 }, (_, minute) => minute / 4), azimuth_deg: Array(300).fill(131) }],
  runs: [run('Wisp', 0, 0, 62), run('Cloud', 0, 70, 200)],
  replans: [
    { moment: at(0), so_far: false, runs: [] },
    { moment: at(40), so_far: true, runs: [replanned('Cloud', 40, 190)] },
    { moment: at(40), so_far: false, runs: [replanned('Wisp', 40, 100), replanned('Cloud', 100, 190)] },
  ],
  steps: [step('level', { caution: 'Legs on firm ground.' }), step('begin', { kind: 'run', run: 'Wisp', phase: 'Shooting' })],
  cues: [],
  left: [{ moment: at(0), percent: 100 }, { moment: at(60), percent: 41 }, { moment: at(120), percent: 9 }],
  other_nights: [{
    name: 'An hour late', sentence: 'Wisp first, and less of Cloud.',
    runs: [{ change_clock: '21:00', ends_clock: '23:00', name: 'Wisp', rig: 'Heron', frames: 90, exposure_s: 60 }],
  }],
} as unknown as Pack // prettier-ignore

beforeEach(() => void vi.useFakeTimers({ now: DUSK, toFake: ['Date', 'setInterval', 'clearInterval'] }))
afterEach(() => {
  vi.useRealTimers()
  document.body.innerHTML = ''
})

async function night(name: number) {
  const field = useField()
  const pack = { ...PACK, night: name }
  await field.begin(pack)
  const screen = mount(NightScreen, { props: { pack }, attachTo: document.body })
  const press = async (words: string) => {
    const found = screen
      .findAll('button')
      .find((one) => one.text().replace(/\s+/g, ' ') === words || one.attributes('aria-label') === words)
    if (!found) throw new Error(`no “${words}” in ${screen.text()}`)
    // A tap right after another one counts for nothing: a hand takes longer than that.
    for (let times = 0; times < 40 && found.attributes('disabled') !== undefined; times++)
      await new Promise((later) => setTimeout(later, 50))
    await found.trigger('click')
    await flushPromises()
  }
  const wait = async (minutes: number) => {
    vi.setSystemTime(Date.now() + minutes * 60_000 - 1_000)
    await vi.advanceTimersByTimeAsync(1_000) // what goes by itself each second has gone by once
    await flushPromises()
  }
  const said = () =>
    field.events.value.map(({ event }) => ({ kind: event.kind, subject: event.subject, data: event.data }))
  return { screen, press, wait, said, field }
}

test('a step is put off and comes back after the others; a caution stands with its step', async () => {
  const { screen, press, said } = await night(12)
  expect(screen.text()).toContain('Do level.')
  expect(screen.text()).toContain('Legs on firm ground.')
  await press('Not now')
  expect(screen.text()).toContain('Do begin.')
  await press('Not now')
  expect(screen.text()).toContain('Do level.')
  expect(said().map((one) => [one.kind, one.subject])).toEqual([
    ['put off', 'step:level'],
    ['put off', 'step:begin'],
  ])
})

test('a run is begun by a press, counts its frames, and ends with the number the person says', async () => {
  const { screen, press, wait, said } = await night(13)
  await press('Done')
  await press('Started now')
  expect(screen.get('[aria-label="Run"]').text()).toContain('60 s at ISO 800, f/2.8')
  await wait(31)
  const figures = () => screen.findAll('dd').map((one) => one.text())
  expect(figures()).toEqual(['30', '31:00 min']) // 62 s each: 1860 s are thirty of sixty
  expect(screen.text()).toContain('Frame 31 of 60, in 2 s')
  await wait(0.5)
  expect(screen.text()).toContain('Frame 31 of 60, 32 s left')
  await wait(-0.5)
  expect(screen.text()).toContain('Began at 20:00, ends at 21:02.')
  expect(screen.text()).toContain('Now 8° high, azimuth 131°.')
  await press('It ended now')
  expect(screen.text()).toContain('It ended at 20:31. How many frames?')
  await press('−1 frames')
  await press('−10 frames')
  await press('+1 frames')
  await press('Save')
  const ended = said().find((one) => one.kind === 'ended')
  expect(ended).toEqual({ kind: 'ended', subject: 'run:Wisp:ended', data: { at: at(31), frames: 20 } })
  expect(screen.text()).toContain('All steps are done. Good night.')
})

test('another sub is looked up for the wind and the axis, for runs that are still to end', async () => {
  const { screen, press, wait, said } = await night(14)
  await press('Change plan')
  await press('Wind, or the axis is off')
  expect(screen.get('.answer').text()).toMatch(/60 s: 31 % stay sharp.\s*Best now 25 s: 82 %, 130 an hour./)
  await press('2′')
  expect(screen.get('.answer').text()).toContain('Best now 40 s')
  await press('calm')
  await press('Use 60 s')
  expect(said()).toEqual([
    { kind: 'otherwise', subject: 'run:Wisp:sub', data: { what: 'sub', run: 'Wisp', wind: 'calm', axis_arcmin: 2, exposure_s: 60 } },
  ]) // prettier-ignore
  await wait(65)
  await press('Change plan')
  await press('Wind, or the axis is off')
  expect(screen.text()).not.toContain('Wisp') // over by now
})

test('a night that comes otherwise is shown with its runs, and gone by', async () => {
  const { screen, press, said } = await night(15)
  await press('Change plan')
  await press('Late, cloud, a rig fails')
  await press('An hour lateWisp first, and less of Cloud.')
  expect(screen.get('ol').text()).toBe('21:00 to 23:00 Wisp: 90 × 60 s')
  await press('Go by this')
  expect(said()).toEqual([{ kind: 'otherwise', subject: 'night', data: { what: 'An hour late' } }])
})

test('what packing up costs is told for now, with the caution about driving', async () => {
  const { screen, press, wait, said } = await night(16)
  await wait(75)
  await press('Change plan')
  await press('Tired: pack up?')
  expect(screen.get('h2').text()).toBe('Pack up now: what is left brings 41 %.')
  expect(screen.text()).toContain('Tired driving is as dangerous as drunk driving.')
  await press('Pack up')
  expect(said().at(-1)?.data).toEqual({ what: 'pack up' })
})

test('what is seen is one press, words are kept as noted, touched or forgotten, and nothing empty is', async () => {
  const { screen, press, said } = await night(17)
  await press('Note')
  await press('gusts')
  await press('A degree colder')
  await press('A degree colder')
  await press('3 °C')
  const disabled = () => screen.findAll('button').filter((one) => one.attributes('disabled') !== undefined).length
  expect(disabled()).toBe(3)
  await screen.get('textarea').setValue('  A fox under the tripod ')
  expect(disabled()).toBe(0)
  await press('Bumped the rig')
  expect(screen.get('[role=status]').text()).toBe('Kept. Bumped the rig.')
  expect((screen.get('textarea').element as HTMLTextAreaElement).value).toBe('')
  await screen.get('textarea').setValue('Spare battery')
  await press('Forgot something')
  expect(said()).toEqual([
    { kind: 'seen', subject: 'seen:wind', data: { what: 'wind', value: 'gusts' } },
    { kind: 'seen', subject: 'seen:temperature', data: { what: 'temperature', value: 3 } },
    { kind: 'touched', subject: 'touched:2', data: { words: 'A fox under the tripod' } },
    { kind: 'forgotten', subject: 'forgotten:3', data: { words: 'Spare battery' } },
  ])
})

test('the head tells how old the pack is, and what a press on Dim does', async () => {
  const { screen, press, wait } = await night(18)
  const head = () => screen.get('header').text()
  expect(head()).toContain('saved 30 min ago')
  await wait(95)
  expect(head()).toContain('saved 2 h ago')
  await wait(3 * 1440)
  expect(head()).toContain('saved 3 days ago')
  expect(head()).toContain('Time there: 21:35')
  await press('Dimmer, step 1 of 3')
  await press('Dimmer, step 2 of 3')
  await press('Dimmer, step 3 of 3')
  await press('Dimmer, step 1 of 3')
})

test('a run of which nobody said whether it was started is asked about, with one tap to answer', async () => {
  const { screen, press, wait, said } = await night(19)
  await wait(35)
  expect(screen.text()).toContain('It is 20:35.')
  expect(screen.get('h2').text()).toBe('Wisp has been scheduled since 20:00. Started?')
  await press('Yes, at 20:00')
  expect(said()).toEqual([{ kind: 'begun', subject: 'run:Wisp:begun', data: { at: at(0) } }])
  expect(screen.text()).toContain('Wisp: 33 of 60')
})

test('a run that is over is asked about as what was planned, and what did not run is not asked about again', async () => {
  const { screen, press, wait, said } = await night(20)
  await wait(64)
  expect(screen.get('h2').text()).toBe('Wisp was planned from 20:00 to 21:02. Did it run?')
  await press('It did not run')
  expect(screen.text()).not.toContain('Did it run?')
  expect(said()).toEqual([{ kind: 'put off', subject: 'step:begin', data: {} }])
})

test('cloud stops a run and it goes on with as many frames as still fit', async () => {
  const { screen, press, wait, said } = await night(21)
  await press('Done')
  await press('Started now')
  await wait(20)
  await press('Cloud came')
  expect(screen.text()).toContain('Paused at 20:20 after 19 frames.')
  await wait(20)
  expect(screen.text()).toContain('21 frames still fit.') // 22 min are 1320 s of 62 s each
  await press('Cloud gone: started')
  await wait(10)
  expect(screen.text()).toContain('Frame 29 of 40') // 19 before, 9 since
  expect(screen.findAll('dd').map((one) => one.text())[0]).toBe('28')
  expect(said().slice(-2)).toEqual([
    { kind: 'paused', subject: 'run:Wisp:paused', data: { at: at(20), frames: 19 } },
    { kind: 'resumed', subject: 'run:Wisp:resumed', data: { at: at(40), frames: 21 } },
  ])
})

test('a second tap in the same moment counts for nothing, and the first can be undone', async () => {
  const { screen, press, said } = await night(22)
  const done = screen.findAll('button').find((one) => one.text() === 'Done')
  await press('Done')
  await done?.trigger('click')
  await flushPromises()
  expect(said()).toHaveLength(1)
  expect(screen.text()).toContain('Do begin.')
  await press('Undo')
  expect(screen.text()).toContain('Do level.')
})

test('a step that is planned for hours later asks once whether it is done', async () => {
  const { screen, press, said, field } = await night(23)
  field.kept.value = field.kept.value.map((one) =>
    one.pack.night === 23
      ? { ...one, pack: { ...one.pack, steps: [step('pack up', { due: at(300) })] as never } }
      : one,
  )
  await flushPromises()
  await press('Done')
  expect(screen.text()).toContain('Planned for 01:00, in 5:00 h. Done already?')
  expect(said()).toEqual([])
  await press('Done')
  expect(said().map((one) => one.subject)).toEqual(['step:pack up'])
})

test('the best from now on is looked up without a connection, by what was shot so far', async () => {
  const { screen, press, wait, said } = await night(24)
  await wait(31)
  await press('Change plan')
  await press('Late or cloud: best from now on')
  expect(screen.get('h2').text()).toBe('Best from 20:40 on')
  expect(screen.findAll('ol li')).toHaveLength(2) // nothing was shot
  await press('As planned so far')
  expect(screen.findAll('ol li').map((one) => one.text())).toEqual(['20:40 to 23:10 Cloud: 70 × 60 s, ISO 800, f/2.8'])
  await press('Go by this')
  expect(said().at(-1)?.data).toEqual({ what: 'best from 20:40 on', from: at(40), so_far: true })
  expect(screen.text()).toContain('Changed plan: 20:40 Cloud, 70 × 60 s')
})

test('an alarm rings until it is heard', async () => {
  const { screen, wait } = await night(25)
  const { calls, ringing } = useCues()
  const { wakeAt } = useWake()
  await wakeAt(DUSK + 45 * 60_000)
  await wait(30)
  expect([ringing.value, calls.value.map((one) => one.name)]).toEqual([[], ['Wake up']])
  await wait(50) // it is not stale after twenty minutes
  expect(screen.get('[role=alertdialog]').text()).toContain('20:45 Wake up')
  await screen.get('[role=alertdialog] button').trigger('click')
  await flushPromises()
  expect(screen.find('[role=alertdialog]').exists()).toBe(false)
})

test('an alarm that was set before the page was loaded again still rings', async () => {
  vi.spyOn(store, 'own').mockImplementation(async (name) => (name === 'wake:26' ? DUSK + 15 * 60_000 : undefined))
  const { screen, wait } = await night(26)
  await wait(14)
  expect(screen.find('[role=alertdialog]').exists()).toBe(false)
  await wait(16)
  expect(screen.get('[role=alertdialog]').text()).toContain('20:15 Wake up')
  vi.restoreAllMocks()
})
