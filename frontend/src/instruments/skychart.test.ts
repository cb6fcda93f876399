import { expect, it } from 'vitest'

import {
  awayDeg,
  axes,
  discRadius,
  frameEdge,
  inFrame,
  moved,
  openPath,
  positionAngle,
  projector,
  raDec,
  toward,
  under,
  type View,
} from './skychart'

const VIEW: View = { ra: 83, dec: -40, angle: 20, scale: 900, width: 800, height: 500, mirrored: false }

it('finds under a place on the drawing what is drawn there, mirrored or not', () => {
  for (const mirrored of [false, true]) {
    const view = { ...VIEW, mirrored }
    const place = projector(view)(under(view, 123, 321))
    expect(place?.x).toBeCloseTo(123, 6)
    expect(place?.y).toBeCloseTo(321, 6)
  }
  expect(projector(VIEW)(toward(263, 40))).toBeNull()
})

it('has east to the left of north, as one sees it', () => {
  const drawn = projector({ ...VIEW, angle: 0 })
  expect(drawn(toward(84, -40))?.x).toBeLessThan(400)
  expect(drawn(toward(83, -39))?.y).toBeLessThan(250)
  const { up } = axes({ ra: 10, dec: 0, angle: 90 }) // the upper edge to the east
  expect(raDec(up).ra).toBeCloseTo(100, 6)
})

it('moves a frame by its own right and up, keeping its upper edge, over a pole as well', () => {
  const edge = frameEdge({ ra: 0, dec: 0, angle: 0 }, 90, 60, 1)
  expect(raDec(edge[0] ?? [1, 0, 0]).ra).toBeCloseTo(45, 6) // upper left is east
  const there = moved({ ra: 0, dec: 89, angle: 0 }, 0, Math.tan((2 * Math.PI) / 180))
  expect(there.dec).toBeCloseTo(89, 6)
  expect(there.ra).toBeCloseTo(180, 6)
  expect(Math.abs(there.angle - 180)).toBeLessThan(1e-6) // up is now away from the pole
  const back = moved(moved({ ra: 200, dec: -30, angle: 33 }, 0.02, 0), -0.02, 0)
  expect(back.ra).toBeCloseTo(200, 3)
  expect(back.angle).toBeCloseTo(33, 2)
})

it('draws a brighter star larger', () => {
  expect(discRadius(2, 9)).toBeGreaterThan(discRadius(3, 9))
  expect(discRadius(9, 9)).toBeGreaterThan(0)
})

it('breaks a line where it leaves the drawing, and tells what a frame holds', () => {
  expect(openPath([{ x: 1, y: 2 }, { x: 3, y: 4 }, null, { x: 5, y: 6 }])).toMatch(
    /^M1\.0,2\.0 L3\.0,4\.0 +M5\.0,6\.0$/,
  )
  const held = { ra: 359.5, dec: 0, angle: 90 }
  expect(inFrame(held, 4, 2, toward(0.4, 0))).toBe(true)
  expect(inFrame(held, 4, 2, toward(1.6, 0))).toBe(false) // turned on its side it is 2° wide
  expect(inFrame(held, 4, 2, toward(179.5, 0))).toBe(false)
  expect(awayDeg(held, { ra: 0.5, dec: 0 })).toBeCloseTo(1, 9)
  expect(positionAngle({ ra: 10, dec: 0 }, { ra_deg: 11, dec_deg: 0 })).toBeCloseTo(90, 6)
  expect(positionAngle({ ra: 10, dec: 20 }, { ra_deg: 10, dec_deg: 0 })).toBeCloseTo(180, 6)
})
