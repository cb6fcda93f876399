/** The phone comes to the same as the server: both read tests/field_events.json. */
import { readFileSync } from 'node:fs'

import { expect, test } from 'vitest'

import { fold, type FieldEvent } from './fold'

interface Case {
  name: string
  events: FieldEvent[]
  comes_to: Record<string, unknown>
}
const cases = JSON.parse(readFileSync('../tests/field_events.json', 'utf8')) as Case[]

test.each(cases)('$name', ({ events, comes_to }) => {
  const iso = (moment: number | null) =>
    moment === null ? null : new Date(moment).toISOString().replace('.000Z', '+00:00')
  for (const order of [events, [...events].reverse(), [...events, ...events]]) {
    const state = fold(order)
    expect({
      checked: [...state.checked].sort(),
      put_off: [...state.putOff].sort(),
      acknowledged: [...state.acknowledged].sort(),
      forgotten: [...state.forgotten].sort(),
      standing: state.standing.map((one) => one.id),
      runs: [...state.runs.values()]
        .sort((one, other) => (one.run < other.run ? -1 : 1))
        .map((one) => [one.run, iso(one.begun), iso(one.ended), one.frames]),
      pauses: [...state.runs.values()]
        .sort((one, other) => (one.run < other.run ? -1 : 1))
        .flatMap((run) => run.pauses.map((one) => [run.run, iso(one.begun), one.frames, iso(one.ended), one.follow])),
    }).toEqual(comes_to)
  }
})
