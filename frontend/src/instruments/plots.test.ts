// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import LinePlot from '@/parts/LinePlot.vue'

import { RADIUS } from './axis'
import ErrorCross from './ErrorCross.vue'

const off = (altitude: number, azimuth: number, sigma = 0.2) => ({
  altitude_arcmin: altitude, azimuth_arcmin: azimuth, altitude_sigma: sigma, azimuth_sigma: sigma,
}) // prettier-ignore
const points = (text = '') => text.split(' ').map((one) => one.split(',').map(Number) as [number, number])

it('draws the axis as one sees it who faces the pole: east to the right in the north, to the left in the south', () => {
  const drawn = (south: boolean) => {
    const cross = mount(ErrorCross, { props: { errors: [off(3, 4)], toleranceArcmin: 2, south } })
    const [, x, y] = /translate\((\S+) (\S+)\)/.exec(cross.get('.stake').attributes('transform') ?? '') ?? []
    return {
      x: Number(x),
      y: Number(y),
      label: cross.get('svg').attributes('aria-label'),
      sides: cross.findAll('.side'),
    }
  }
  const [north, south] = [drawn(false), drawn(true)]
  expect(north.x).toBeGreaterThan(0)
  expect(south.x).toBeCloseTo(-north.x)
  expect([north.y < 0, south.y]).toEqual([true, north.y]) // too high is up in both
  expect(north.x / -north.y).toBeCloseTo(4 / 3) // the scale bends with the distance, never with the direction
  expect(north.label).toBe('Axis and pole, facing north. Tolerated 2.0′. 1: 5.0′ off: 3.0′ too high, 4.0′ to the east')
  expect(south.sides.map((one) => one.text()).slice(0, 2)).toEqual(['east', 'west'])
})

it('leads home along the azimuth screw first, and ends at the pole', () => {
  const cross = mount(ErrorCross, { props: { errors: [off(-20, 1), off(3, -4)], toleranceArcmin: 2, south: false } })
  const way = points(cross.get('.home').attributes('points'))
  expect(way.at(-1)).toEqual([expect.closeTo(0), expect.closeTo(0)])
  const corner = way[12]
  expect(corner?.[0]).toBeCloseTo(0) // azimuth is done where the altitude is still as it was
  expect(corner?.[1]).toBeLessThan(-5)
  expect(cross.findAll('.stake.now text').map((one) => one.text())).toEqual(['2'])
  expect(points(cross.get('.trail').attributes('points'))).toHaveLength(2)
  for (const [x, y] of points(cross.get('.spread').attributes('points'))) expect(Math.hypot(x, y)).toBeLessThan(RADIUS)
  expect(cross.findAll('tbody td').map((one) => one.text())).toEqual([
    '20.0′ off: 20.0′ too low, 1.0′ to the east',
    '5.0′ off: 3.0′ too high, 4.0′ to the west',
  ])
})

it('says so where nothing was measured, and draws no way', () => {
  const cross = mount(ErrorCross, { props: { errors: [], toleranceArcmin: 0.5, south: true } })
  expect(cross.text()).toContain('Nothing measured yet. Facing south.')
  expect(cross.find('.home').exists()).toBe(false)
  expect(cross.text()).toContain('30″')
})

const plot = (more: object = {}) =>
  mount(LinePlot, {
    props: {
      lines: [{ name: 'kept', points: [[0, 0], [60, 50], [120, 100]] }],
      xName: 'sub, s', yName: '%', label: 'Kept against length', ...more,
    },
  }) // prettier-ignore
const dots = (drawn: ReturnType<typeof plot>) =>
  drawn.findAll('circle').map((one) => [Number(one.attributes('cx')), Number(one.attributes('cy'))] as const)

it('plots in proportion: twice as far along and up is twice as far drawn', () => {
  const [first, middle, last] = dots(plot())
  if (!first || !middle || !last) throw new Error('three dots')
  expect(middle[0] - first[0]).toBeCloseTo((last[0] - first[0]) / 2)
  expect(first[1] - middle[1]).toBeCloseTo((first[1] - last[1]) / 2)
  expect(
    plot()
      .findAll('title')
      .map((one) => one.text()),
  ).toEqual(['kept: 0 at 0', 'kept: 50 at 60', 'kept: 100 at 120'])
  expect(plot().find('.legend').exists()).toBe(false)
})

it('sets steps at even distances whatever their figures', () => {
  const iso = { name: 'noise', points: [[100, 5], [400, 4], [6400, 3]] as const } // prettier-ignore
  const [first, middle, last] = dots(plot({ lines: [iso], steps: true }))
  if (!first || !middle || !last) throw new Error('three dots')
  expect(middle[0] - first[0]).toBeCloseTo(last[0] - middle[0])
})

it('gives the line on the right a scale of its own, names levels and the mark, and tells the lines apart', () => {
  const second = { name: 'hours', points: [[0, 1], [120, 4]] as const, right: true, dashed: true } // prettier-ignore
  const first = { name: 'kept', points: [[0, 0], [120, 100]] as const } // prettier-ignore
  const drawn = plot({
    lines: [first, second], rightName: 'h', mark: { at: 110, name: 'in use' }, levels: [{ at: 250, name: 'full' }],
  }) // prettier-ignore
  const [, most, , four] = dots(drawn)
  expect(four?.[1]).toBeLessThan(most?.[1] ?? 0) // 100 of a scale that reaches the level at 250; 4 of one of its own
  expect(drawn.findAll('.said').map((one) => one.text())).toEqual(['full', 'in use'])
  expect(drawn.findAll('.said')[1]?.attributes('text-anchor')).toBe('end') // on the right side its name goes to the left
  expect(drawn.findAll('.legend span').map((one) => one.text())).toEqual(['kept', 'hours'])
  expect(drawn.get('g.second path').classes()).toContain('dashed')
})
