// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import DuskStrip from './DuskStrip.vue'

/** Ten hours from 16:30 UTC, two hours ahead by the local clock; the middle six are usable, two of them planned. */
const MINUTES = 600
const fill = (value: number | string) => Array.from({ length: MINUTES }, () => value)
const strip = {
  start: '2026-12-08T16:30:00Z',
  time_zone: 'Africa/Johannesburg',
  moon_lit_percent: 1,
  sky_mag: fill(21.4) as number[],
  target_altitude: Array.from({ length: MINUTES }, (_, minute) => minute / 10 - 5),
  obstruction: fill(7) as number[],
  moon_altitude: fill(-12) as number[],
  state: [
    ...fill('twilight').slice(0, 120),
    ...fill('usable').slice(0, 360),
    ...fill('twilight').slice(0, 120),
  ] as string[],
  exposures: { first: 120, last: 240 },
  weather: null,
}
const cue = (name: string, moment: string) => ({ key: name, name, moment, clock: moment.slice(11, 16) })
const props = {
  strip,
  cues: [cue('Dark', '2026-12-08T18:30:00Z'), cue('Window opens', '2026-12-08T18:31:00Z')],
  now: '2026-12-08T20:30:00Z',
  programme: '60 × 120 s',
  stale: false,
}

it('reads out a minute in words and steps by keys, never past the ends', async () => {
  const shown = mount(DuskStrip, { props })
  const slider = shown.get('[role=slider]')
  await slider.trigger('keydown', { key: 'Home' })
  expect(slider.attributes('aria-valuetext')).toBe(
    '18:30, twilight, target below the horizon, sky 21.40 mag/arcsec², Moon down',
  )
  await slider.trigger('keydown', { key: 'ArrowLeft' })
  expect(slider.attributes('aria-valuenow')).toBe('0')
  await slider.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
  expect(slider.attributes('aria-valuenow')).toBe('15')
  await slider.trigger('keydown', { key: 'End' })
  expect(slider.attributes('aria-valuenow')).toBe(String(MINUTES - 1))
})

it('draws the usable stretch, the planned part of it, and now', () => {
  const shown = mount(DuskStrip, { props })
  const width = (selector: string) => Number(shown.get(selector).attributes('width'))
  expect(width('.exposures') / width('rect.usable')).toBeCloseTo(120 / 359, 3)
  expect(shown.find('.now').exists()).toBe(true)
  expect(
    mount(DuskStrip, { props: { ...props, now: '2026-12-09T12:00:00Z' } })
      .find('.now')
      .exists(),
  ).toBe(false)
})
