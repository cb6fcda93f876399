// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'

import type { Schemas } from '@/api/client'

import RunLanes from './RunLanes.vue'

const START = Date.UTC(2026, 11, 8, 17)
const at = (minute: number) => new Date(START + minute * 60_000).toISOString()
const run = (stand: number, wish: number, from: number, to: number, held = false) =>
  ({
    name: `picture ${wish}`,
    run: {
      stand, wish, panel: 0, change: from, first: from + 10, last: to - 1, frames: 40, exposure_s: 120, held,
      held_from: at(from), held_to: at(to), begins_clock: '21:00', ends_clock: '22:00',
    },
  }) as unknown as Schemas['PlannedRun'] // prettier-ignore
const whole = {
  start: at(0),
  time_zone: 'UTC',
  minutes: 600,
  slot: 5,
  asleep: { first: 300, last: 480 },
  windows: [
    { stand: 0, wish: 0, panel: 0, spans: [{ first: 60, last: 300 }] },
    { stand: 0, wish: 1, panel: 0, spans: [{ first: 200, last: 500 }] },
  ],
  runs: [run(0, 0, 60, 180), run(0, 1, 180, 400, true), run(1, 0, 70, 250)],
} as unknown as Schemas['WholeNight']

describe('the runs of a night', () => {
  const shown = () => mount(RunLanes, { props: { whole, rigs: ['long', 'wide'], selected: null } })

  it('has a lane a rig and a block a run, each with its words', () => {
    const lanes = shown().findAll('li')
    expect(lanes.map((one) => one.findAll('.block').length)).toEqual([2, 1])
    expect(lanes[0]?.findAll('.block')[1]?.attributes('aria-label')).toBe(
      'long, picture 1: 21:00 to 22:00, 40 frames, fixed',
    )
    expect(shown().text()).toContain('you sleep, 22:00 to 01:00')
  })

  it('moves a run by a slot, its end with Shift, its beginning with Alt, never to nothing', async () => {
    const page = shown()
    const block = page.get('.block')
    await block.trigger('keydown', { key: 'ArrowRight' })
    await block.trigger('keydown', { key: 'ArrowLeft', shiftKey: true })
    await block.trigger('keydown', { key: 'ArrowRight', altKey: true })
    expect(page.emitted('move')).toEqual([
      [0, 65, 185],
      [0, 60, 175],
      [0, 65, 180],
    ])
    for (const key of ['f', 's', 'Delete', 'Enter']) await block.trigger('keydown', { key })
    expect([page.emitted('hold'), page.emitted('split'), page.emitted('drop'), page.emitted('select')]).toEqual(
      Array(4).fill([[0]]),
    )
  })

  it('shows when the chosen one can be taken', async () => {
    const page = shown()
    expect(page.get('li').findAll('.window')).toHaveLength(2)
    await page.setProps({ selected: 1 })
    expect(page.get('li').findAll('.window')).toHaveLength(1)
  })
})
