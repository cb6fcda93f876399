// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import HorizonPanorama from './HorizonPanorama.vue'
import { heightAt, type Point } from './profile'

const at = (azimuth_deg: number, altitude_deg: number, clock = '', state = 'usable') => ({
  azimuth_deg,
  altitude_deg,
  clock,
  state,
})
/** A target that crosses the south from 150° to 210°, usable but for its last two points; the pole behind a wall. */
const panorama = {
  profile: Array.from({ length: 361 }, () => 5),
  paths: [
    {
      name: 'Cloud',
      points: [
        at(150, 30, '21:00'),
        at(170, 40),
        at(190, 42, '23:00'),
        at(200, 41, '', 'twilight'),
        at(210, 39, '05:00', 'twilight'),
      ],
    },
  ],
  sun: { name: 'Sun', points: [at(90, 2, '06:00', ''), at(80, 30, '', '')] },
  moon: { name: 'Moon', points: [] },
  pole: { azimuth_deg: 180, altitude_deg: 24.7, horizon_deg: 30, hidden: 'The south pole is hidden.' },
  verdict: {
    topic: 'Pole in sight',
    level: 'stop' as const,
    sentence: 'hidden',
    binding: '',
    advice: '',
    figures: [],
    limits: [],
    workings: [],
    caution: '',
  },
}
const points: Point[] = [
  { azimuth_deg: 0, altitude_deg: 5 },
  { azimuth_deg: 180, altitude_deg: 9 },
]
const show = (more = {}) =>
  mount(HorizonPanorama, {
    props: { panorama, points, pencil: false, middle: 180, sun: false, moon: false, stale: false, ...more },
  })

it('reads out a direction in words and turns by keys, closed through north', async () => {
  const slider = show().get('[role=slider]')
  expect(slider.attributes('aria-valuetext')).toBe('azimuth 180°, S, horizon profile 9° up')
  await slider.trigger('keydown', { key: 'ArrowRight', shiftKey: true })
  expect(slider.attributes('aria-valuenow')).toBe('190')
  for (let step = 0; step < 6; step += 1) await slider.trigger('keydown', { key: 'PageUp' })
  expect(slider.attributes('aria-valuetext')).toBe('azimuth 10°, N, horizon profile 5° up')
})

it('raises the profile with the keys, only with the pencil in hand', async () => {
  const idle = show()
  await idle.get('[role=slider]').trigger('keydown', { key: 'ArrowUp' })
  expect(idle.emitted('drawn')).toBeUndefined()
  const drawing = show({ pencil: true })
  await drawing.get('[role=slider]').trigger('keydown', { key: 'ArrowUp', shiftKey: true })
  const drawn = drawing.emitted('drawn')?.[0]?.[0] as Point[]
  expect(heightAt(drawn, 180)).toBe(14)
  expect(heightAt(drawn, 90)).toBeCloseTo(7, 0)
})

it('draws what is usable apart from what is not, hours beside it, and says that the pole is hidden', () => {
  const shown = show()
  expect(shown.findAll('.target path.usable')).toHaveLength(1)
  expect(shown.findAll('.target path:not(.usable)')).toHaveLength(1)
  expect(shown.findAll('.target .tick').map((tick) => tick.text())).toEqual(['21', '23', '05'])
  expect(shown.get('.pole text').text()).toBe('south pole, hidden')
  expect(shown.find('.body').exists()).toBe(false)
  expect(
    show({ sun: true, moon: true })
      .findAll('.body .title')
      .map((title) => title.text()),
  ).toEqual(['Sun'])
})

it('puts the middle where one looks, so that nothing near it is torn apart', () => {
  const across = (shown: ReturnType<typeof show>) => Number(shown.findAll('.target circle')[0]?.attributes('cx'))
  expect(across(show()) / across(show({ middle: 150 }))).toBeCloseTo((150 - 0) / 180, 2)
  expect(show({ middle: 0 }).findAll('.target path').length).toBeGreaterThan(2)
})

it('draws the frame over the ground, broken where the ground cuts it, whole across the edge of the drawing', () => {
  const outline = [
    [350, 20],
    [10, 20],
    [10, 32],
    [350, 32],
    [350, 20],
  ]
  const frames = [
    { clock: '21:00', outline, clear_deg: 4 },
    {
      clock: '02:00',
      outline: outline.map(([azimuth, altitude]) => [(azimuth ?? 0) + 5, altitude ?? 0]),
      clear_deg: -2,
    },
  ]
  const drawn = show({ frames, middle: 0 }).findAll('path.framed')
  expect(drawn.map((one) => one.classes('cut'))).toEqual([false, true])
  // One piece of 20° in the middle of the drawing, and the same a turn to either side of it.
  const xs = [...(drawn[0]?.attributes('d') ?? '').matchAll(/[ML](-?[\d.]+),/g)].map((found) => Number(found[1]))
  expect(Math.max(...xs.slice(0, 5)) - Math.min(...xs.slice(0, 5))).toBeLessThan(320 / 10)
  expect(show({ frames: [] }).find('path.framed').exists()).toBe(false)
})
