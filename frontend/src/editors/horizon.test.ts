import { expect, it } from 'vitest'

import { horizonPoints, horizonText } from './horizon'

it('reads pairs however they are parted, and writes them back', () => {
  const points = horizonPoints('0 5\n 90, 20.5 \n\n180;3')
  expect(points.map((point) => [point.azimuth_deg, point.altitude_deg])).toEqual([
    [0, 5],
    [90, 20.5],
    [180, 3],
  ])
  expect(horizonPoints(horizonText(points))).toEqual(points)
})

it('keeps what is no number, so that the server can name it', () => {
  expect(horizonPoints('north 5\n90')).toEqual([
    { azimuth_deg: 'north', altitude_deg: 5 },
    { azimuth_deg: 90, altitude_deg: null },
  ])
})
