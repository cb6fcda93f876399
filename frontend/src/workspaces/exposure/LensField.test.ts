// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import type { AtStop, Lens } from '@/composables/useLens'

import LensField from './LensField.vue'
import LensTable from './LensTable.vue'

const worst = {
  elongation: 1.4,
  elongation_zone: 'upper left',
  width: 1.2,
  width_zone: 'right',
  good: false,
  close: true,
}
const star = (long_px: number, short_px: number) => ({ long_px, short_px, angle_deg: 30 })
const zones = [star(3, 2), null, ...Array.from({ length: 13 }, () => star(2, 2))]
const stop: AtStop = {
  name: 'a.fits',
  f_number: 2.8,
  by: 'ring',
  stars: 300,
  middle_px: 2.01,
  middle_elongation: 1,
  corner_px: 2.5,
  radial_px: 0.7,
  soft_px: 0.1,
  soft_deg: 0,
  faults: ['coma'],
  words: 'corners drawn out away from the middle',
  red: 1.16,
  blue: null,
  red_out: 0.52,
  blue_out: null,
  corner_light: 0.55,
  spikes: 0,
  broad: worst,
  narrow: { ...worst, good: true, close: false },
  trailed: false,
  zones,
}

it('draws each zone, to one scale, and a line through those that fail the limits', () => {
  const field = mount(LensField, { props: { stop, sharpest: 2, widthLimit: 1.3, elongationLimit: 1.3 } })
  const ellipses = field.findAll('ellipse')
  expect(ellipses).toHaveLength(14) // one zone has no star
  expect(field.findAll('g line')).toHaveLength(1)
  expect(ellipses.filter((one) => one.classes('fails'))).toHaveLength(1)
  const [first, second] = ellipses.map((one) => Number(one.attributes('rx')))
  expect((first ?? 0) / (second ?? 1)).toBeCloseTo(1.5)
  expect(field.get('g').attributes('transform')).toContain('rotate(30)')
  expect(field.get('title').text()).toBe('1.50 times as long as wide, 1.22 of the sharpest width')
  expect(field.get('svg').attributes('aria-label')).toBe(
    'Stars over the picture at f/2.8: corners drawn out away from the middle',
  )
  const lax = mount(LensField, { props: { stop, sharpest: 2, widthLimit: 2, elongationLimit: 2 } })
  expect(lax.findAll('.fails')).toHaveLength(0)
})

it('tables what was measured; what a file cannot tell is a dash, and costs stand only beside the rig that has the lens', () => {
  const price = { hours: null, against: null, working: {} }
  const lens = {
    seen: { id: 1, lens: 'A lens', focal_mm: 180, at: '', stops: [2.8] },
    stops: [stop],
    costs: [],
    in_use: null,
  } as unknown as Lens
  const cells = (one: Lens) =>
    mount(LensTable, { props: { lens: one } })
      .findAll('tbody td')
      .map((cell) => cell.text().replace(/\s+/g, ' '))
  expect(cells(lens)).toEqual([
    'soft, close',
    'good',
    '2.01 px',
    '2.50 px',
    '1.40 upper left',
    '1.16 ×, –',
    '+0.5 px, –',
    '55 %',
    'none',
  ])
  expect(cells({ ...lens, costs: [{ exposure_s: 90, price }] } as unknown as Lens).slice(-2)).toEqual([
    '90 s',
    'out of reach',
  ])
})
