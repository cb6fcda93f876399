import { expect, test } from 'vitest'

import type { Schemas } from '@/api/client'

import { armAt, boxOf, pointAt, radiusOf, spread, viewOf } from './rigview'

const piece = (arm_mm: number, along_mm = 0, length_mm = 0) => ({
  name: 'x',
  kind: 'other',
  mass_g: 1,
  mass: '',
  arm_mm,
  arm: '',
  arm_text: '',
  along_text: '',
  along_mm,
  moment_g_mm: 0,
  moment: '',
  length_mm,
})
const drawing = (latitude_deg: number, pieces: ReturnType<typeof piece>[]) =>
  ({ latitude_deg, pieces }) as unknown as Schemas['Drawing']

test.each([-70, -24.6, 0, 58.6, 90])(
  'at latitude %d everything is inside the drawing and a drag finds the arm again',
  (latitude) => {
    const pieces = [piece(96, 118), piece(-150, 0, 210), piece(-420)]
    const view = viewOf(drawing(latitude, pieces), 560, 340)
    for (const { arm_mm, along_mm } of pieces) {
      const at = pointAt(view, arm_mm, along_mm)
      expect(at.x).toBeGreaterThan(0)
      expect(at.x).toBeLessThan(560)
      expect(at.y).toBeGreaterThan(0)
      expect(at.y).toBeLessThan(340)
      expect(armAt(view, at)).toBeCloseTo(arm_mm, 6)
    }
  },
)

test('the axis rises by the latitude towards the pole, and the arm stands square to it', () => {
  const { a, u } = viewOf(drawing(-30, []), 560, 340)
  expect(Math.atan2(-a.y, a.x)).toBeCloseTo(Math.PI / 6)
  expect(a.x * u.x + a.y * u.y).toBeCloseTo(0)
})

test('four times the mass has twice the radius', () => {
  expect(radiusOf(2000, 2000)).toBeCloseTo(2 * radiusOf(500, 2000))
})

test('a box has the area of its circle, whatever its kind', () => {
  for (const kind of ['lens', 'camera', 'other'])
    expect(boxOf(kind, 10).long * boxOf(kind, 10).broad).toBeCloseTo(100 * Math.PI)
})

test('labels keep their order and their distance', () => {
  expect(spread([50, 10, 12, 11], 15, 5, 300)).toEqual([55, 10, 40, 25])
  const low = spread([295, 296, 297], 15, 5, 300)
  expect(Math.max(...low)).toBe(300)
  expect(low).toEqual([270, 285, 300])
})
