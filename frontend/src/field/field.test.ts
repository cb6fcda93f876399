// @vitest-environment jsdom
/** A night on a phone that can keep nothing: steps, a run by its table, what calls and when. */
import { afterEach, beforeEach, expect, test, vi } from 'vitest'

import * as store from './store'
import type { Pack } from './store'
import { countdown, useCues } from './useCues'
import { useField } from './useField'
import { useSteps } from './useSteps'

const DUSK = Date.parse('2026-12-08T18:00:00Z')
const at = (seconds: number) => new Date(DUSK + seconds * 1000).toISOString()
const run = {
  key: '1-2.0-0.1',
  rig: 0,
  target: 0,
  name: 'Nebula',
  frames: 3,
  done_after_s: [100, 202, 304],
  cues: [{ key: 'look30', after_s: 202, name: 'Check polar alignment' }],
}
const steps = ['walk', 'level:0', 'run:1-2.0-0.1'].map((key) => ({
  key,
  kind: key.startsWith('run') ? 'run' : 'check',
  run: key.startsWith('run') ? run.key : '',
  sentence: key,
  due: at(0),
}))
const pack = {
  night: 7,
  made_at: at(0),
  time_zone: 'Africa/Windhoek',
  rigs: [{ name: 'one' }],
  runs: [run],
  steps,
  cues: [
    { key: 'sunset1', name: 'Sunset', moment: at(50), loud: false },
    { key: 'moonrise1', name: 'Moonrise', moment: at(400), loud: true },
  ],
} as unknown as Pack

beforeEach(() => void vi.useFakeTimers({ now: DUSK, toFake: ['Date', 'setInterval', 'clearInterval'] }))
afterEach(() => void vi.useRealTimers())
const wait = (seconds: number) => vi.advanceTimersByTimeAsync(seconds * 1000)

test('what is pressed counts though nothing can be kept, and it is said', async () => {
  const field = useField()
  await field.begin(pack)
  expect(field.told.value).toContain('keeps nothing')
  const { current, done, putOff, underWay, framesDone } = useSteps()
  const { ringing, missed, nextCall } = useCues()
  expect(current.value?.key).toBe('walk')
  await field.record('put off', 'step:walk')
  expect(current.value?.key).toBe('level:0')
  await field.record('checked', 'step:level:0')
  expect(current.value?.key).toBe('run:1-2.0-0.1')
  expect(field.clock(field.now.value)).toBe('20:00') // the place's, whatever zone this phone is set to

  expect([field.planned(at(29)), field.planned(at(30)), field.clock(at(59))]).toEqual(['20:00', '20:01', '20:00'])

  await field.record('begun', `run:${run.key}:begun`, { at: new Date(Date.now()).toISOString() })
  expect(current.value?.key).toBe('walk') // what was put off comes back
  expect(putOff(steps[0] as never) && done(steps[2] as never)).toBe(true)
  expect(underWay.value.map((one) => one.key)).toEqual([run.key])
  await wait(99)
  expect(framesDone(run as never)).toBe(0)
  expect(nextCall.value?.name).toBe('Check polar alignment')
  await wait(2)
  expect(framesDone(run as never)).toBe(1)
  await wait(102)
  expect([framesDone(run as never), ringing.value.map((one) => one.name)]).toEqual([2, ['Check polar alignment']])
  await field.record('acknowledged', ringing.value[0]?.subject ?? '')
  expect(ringing.value).toEqual([])
  await wait(102)
  expect(ringing.value.map((one) => one.name)).toEqual(['All frames taken: Nebula'])
  await field.record('ended', `run:${run.key}:ended`, { at: new Date(Date.now()).toISOString(), frames: 3 })
  expect([underWay.value, ringing.value]).toEqual([[], []])
  await wait(100)
  expect(ringing.value.map((one) => one.name)).toEqual(['Moonrise'])
  await wait(21 * 60)
  expect(ringing.value).toEqual([]) // nobody saw it, and it is long past
  expect(missed.value.map((one) => one.name)).toEqual(['Moonrise']) // it is told when the phone wakes

  const [last] = field.state.value.standing.filter((one) => one.kind === 'ended')
  if (last) await field.takeBack(last)
  expect(underWay.value.map((one) => one.key)).toEqual([run.key])
})

test('a countdown is read at a glance', () => {
  expect([0, 59_000, 125_000, 3_600_000, 9_840_000].map(countdown)).toEqual([
    '0:00 min',
    '0:59 min',
    '2:05 min',
    '1:00 h',
    '2:44 h',
  ])
  expect(countdown(-5_000)).toBe('0:00 min')
})

test('what frames say calls once, until it is seen', async () => {
  const field = useField()
  await field.begin(pack)
  const { ringing } = useCues()
  const dew = { key: '7:dew', name: 'Dew on the glass', now: 'Warm the glass.', target_name: 'Nebula' }
  field.alarms.value = [{ ...dew, since: field.now.value }]
  await wait(1)
  expect(ringing.value.map((one) => one.name)).toContain('Dew on the glass. Warm the glass.')
  await field.record('acknowledged', 'cue:frames:7:dew')
  field.alarms.value = [{ ...dew, since: field.now.value }]
  await wait(1)
  expect(ringing.value.map((one) => one.subject)).not.toContain('cue:frames:7:dew')
})

test('what is pressed counts when it is on the disk, or late, and then it is said', async () => {
  vi.useRealTimers()
  vi.useFakeTimers({ now: DUSK })
  const field = useField()
  let written = () => {}
  vi.spyOn(store, 'keepOwnEvent').mockImplementation(() => new Promise((done) => (written = done)))
  const pressed = field.record('noted', 'noted:1', { words: 'Cold' })
  const counts = () => field.events.value.filter((one) => one.event.subject === 'noted:1').length
  field.told.value = ''
  await wait(2.9)
  expect([counts(), field.told.value]).toEqual([0, ''])
  await wait(0.2)
  await pressed // what is pressed next is heard, however long the disk takes
  expect([counts(), field.told.value]).toEqual([1, expect.stringContaining('Leave this page open')])
  written()
  await vi.waitFor(() => expect([counts(), field.told.value]).toEqual([1, '']))
})
