// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import type { Schemas } from '@/api/client'

import PoleView, { type Reticle } from './PoleView.vue'

const NOW = '2026-12-08T20:00:00Z'
const mark = (name: string, clock: number, radius: number, magnitude = 5) => ({
  name, clock_deg: clock, radius_arcmin: radius, polar_distance_arcmin: radius, magnitude,
}) // prettier-ignore
const later = (minutes: number) => new Date(Date.parse(NOW) + minutes * 60_000).toISOString()
/** A star that goes round by 15° an hour, forwards in the south. */
const turning = (name: string, from: number, south: boolean, radius: number) => ({
  moments: [-60, -30, 0, 30, 60, 90, 120].map(later),
  clocks: ['21:00', '21:30', '22:00', '22:30', '23:00', '23:30', '00:00'],
  arcs: [{
    name,
    clock_deg: [-60, -30, 0, 30, 60, 90, 120].map((minutes) => (from + ((south ? 1 : -1) * minutes) / 4 + 360) % 360),
    radius_arcmin: Array<number>(7).fill(radius),
  }],
}) // prettier-ignore
const NORTH = { south: false, view: 'upright', marks: [mark('Polaris', 90, 38, 2)] } as unknown as Schemas['Dial']
const SOUTH = {
  south: true,
  view: 'inverted',
  marks: [mark('σ Oct', 10, 64), mark('χ Oct', 80, 110), mark('υ Oct', 170, 120), mark('τ Oct', 260, 90)],
} as unknown as Schemas['Dial']

function drawn(dial: Schemas['Dial'], reticle: Reticle, more: object = {}) {
  const [first] = dial.marks
  if (!first) throw new Error('a star')
  const arcs = turning(first.name, first.clock_deg, dial.south, first.radius_arcmin) as unknown as Schemas['Turning']
  return mount(PoleView, { props: { dial, turning: arcs, at: NOW, clock: '22:00', reticle, ...more } })
}
const far = (text: string) => {
  const [x = 0, y = 0] = text.split(',').map(Number)
  return Math.hypot(x, y)
}

it('reads the star as the dial of the person’s own reticle counts', () => {
  const text = (reticle: Reticle) => drawn(NORTH, reticle).text()
  expect(text('12-hour dial')).toContain('3:00 of your reticle')
  expect(text('24-part dial')).toContain('6.0 of 24 parts')
  expect(text('degree dial')).toContain('90° clockwise from the top')
})

it('draws as many ticks as the dial has, and none where the reticle has none', () => {
  const labels = (reticle: Reticle) =>
    drawn(NORTH, reticle)
      .findAll('text')
      .map((one) => one.text())
  expect(labels('12-hour dial')).toEqual(expect.arrayContaining(['12', '1', '11']))
  expect(labels('12-hour dial')).not.toContain('0')
  expect(labels('24-part dial')).toEqual(expect.arrayContaining(['0', '22']))
  expect(labels('24-part dial')).not.toContain('23')
  expect(labels('degree dial')).toEqual(expect.arrayContaining(['0°', '330°']))
  for (const label of ['6', '330°']) expect(labels('none')).not.toContain(label)
})

it('says which way the sky turns there, and in which glass it is seen', () => {
  expect(drawn(NORTH, 'none').text()).toContain('anticlockwise')
  const south = drawn(SOUTH, 'none').text()
  expect(south).toContain('clockwise')
  expect(south).not.toContain('anticlockwise')
  expect(south).toContain('inverting scope')
  const sides = (dial: Schemas['Dial']) =>
    drawn(dial, 'none')
      .findAll('.side')
      .map((one) => one.text())
  expect([sides(NORTH), sides(SOUTH)]).toEqual([
    ['west', 'east'],
    ['west', 'east'],
  ]) // half a turn of the picture
  expect(sides({ ...SOUTH, view: 'upright' })).toEqual(['east', 'west'])
})

it('matches four stars as one figure in the south, and one star where a reticle asks for one', () => {
  const outline = drawn(SOUTH, 'southern pattern').get('polygon').attributes('points') ?? ''
  expect(outline.split(' ')).toHaveLength(4)
  const names = (reticle: Reticle) =>
    SOUTH.marks.filter((one) => drawn(SOUTH, reticle).text().includes(one.name)).length
  expect(names('none')).toBe(4)
  expect(names('12-hour dial')).toBe(1)
})

it('parts the way of a star into what is behind it, the half hour ahead, and later', () => {
  const ways = drawn(NORTH, 'none')
    .findAll('polyline')
    .map((one) => (one.attributes('points') ?? '').split(' ').filter(Boolean))
  const [behind, after, near] = ways
  expect([behind?.length, near?.length, after?.length]).toEqual([4, 2, 5])
  expect(behind?.at(-1)).toBe(near?.[0]) // they meet where the star stands now
  expect(near?.at(-1)).toBe(after?.[0])
  const radii = ways.flat().map(far)
  expect(Math.max(...radii) - Math.min(...radii)).toBeLessThan(0.2) // round the pole
})

it('says of two rings which is whose, and has room for the larger one', () => {
  const view = drawn(NORTH, 'two rings', { otherRingArcmin: 64 })
  expect(view.text()).toContain('north, yours')
  expect(view.text()).toContain('south')
  const radii = view.findAll('circle').map((one) => Number(one.attributes('r')))
  const own = Math.max(...radii.filter((one) => one < 80))
  const other = Math.max(...radii.filter((one) => one < 140))
  expect(other / own).toBeCloseTo(64 / 38, 1)
})
