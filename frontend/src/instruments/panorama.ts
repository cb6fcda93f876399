/** Paths of the sky on the drawing of all round: pieces of one look, marks of the hours, room for names. */
import type { Schemas } from '@/api/client'

import { turned } from './profile'

export const DIRECTIONS = ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW'] as const
export const direction = (azimuth: number) => DIRECTIONS[Math.round(turned(azimuth) / 45) % 8]

export interface Spot {
  azimuth_deg: number
  altitude_deg: number
}
export interface Scales {
  x: (azimuth: number) => number
  y: (altitude: number) => number
  wide: number
  crowded: boolean
}
interface Piece {
  d: string
  usable: boolean
}

/** A path in pieces of one look, broken where it leaves at one side and comes in at the other, or sets. */
function pieces(path: Schemas['SkyPath'], { x, y, wide }: Scales): Piece[] {
  const found: Piece[] = []
  path.points.forEach((point, place) => {
    const before = path.points[place - 1]
    const usable = point.state === 'usable'
    const here = `${x(point.azimuth_deg).toFixed(1)},${y(point.altitude_deg).toFixed(1)}`
    const jump =
      !before ||
      Math.abs(x(point.azimuth_deg) - x(before.azimuth_deg)) > wide / 2 ||
      Math.abs(point.altitude_deg - before.altitude_deg) > 12
    const open = found[found.length - 1]
    if (jump || !open) found.push({ d: `M${here}`, usable })
    else if (open.usable === usable) open.d += ` L${here}`
    else {
      open.d += ` L${here}`
      found.push({ d: `M${here}`, usable })
    }
  })
  return found
}

/** One path as it is drawn; on a narrow drawing every third hour is marked. */
export function drawing(path: Schemas['SkyPath'], scales: Scales) {
  const hours = path.points.filter((point) => point.clock !== '')
  return {
    name: path.name,
    pieces: pieces(path, scales),
    ticks: hours.filter((_, place) => !scales.crowded || place % 3 === 0),
    top: path.points.reduce((best, point) => (point.altitude_deg > best.altitude_deg ? point : best)),
  }
}

/** Whether a mark can keep its number: nothing is written near it. */
export function clear(top: Spot, tick: Spot, pole: Spot, { x, y }: Scales): boolean {
  const away = (from: Spot, across: number, up: number) =>
    Math.abs(x(tick.azimuth_deg) - x(from.azimuth_deg)) > across ||
    Math.abs(y(tick.altitude_deg) - y(from.altitude_deg)) > up
  return away(pole, 70, 16) && away(top, 80, 30)
}
