/** Places on the drawing of the sky: pixels and projections, nothing of the trade. Directions are unit vectors [x, y, z]. */

export type Vector = readonly [number, number, number]
const RADIAN = Math.PI / 180

export function toward(raDeg: number, decDeg: number): Vector {
  const [ra, dec] = [raDeg * RADIAN, decDeg * RADIAN]
  return [Math.cos(dec) * Math.cos(ra), Math.cos(dec) * Math.sin(ra), Math.sin(dec)]
}
export function raDec([x, y, z]: Vector): { ra: number; dec: number } {
  return { ra: (Math.atan2(y, x) / RADIAN + 360) % 360, dec: Math.atan2(z, Math.hypot(x, y)) / RADIAN }
}

const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const mix = (...parts: [number, Vector][]): Vector => {
  const sum = [0, 1, 2].map((axis) => parts.reduce((all, [share, one]) => all + share * (one[axis] ?? 0), 0))
  const length = Math.hypot(...sum)
  return [(sum[0] ?? 0) / length, (sum[1] ?? 0) / length, (sum[2] ?? 0) / length]
}

export interface Held {
  ra: number
  dec: number
  /** Position angle of the upper edge, north through east. */
  angle: number
}
/** Right, up and towards of something held against the sky; seen from inside, east is to the left of north. */
export function axes({ ra, dec, angle }: Held): { right: Vector; up: Vector; ahead: Vector } {
  const ahead = toward(ra, dec)
  const east: Vector = [-Math.sin(ra * RADIAN), Math.cos(ra * RADIAN), 0]
  const north = cross(ahead, east)
  const up = mix([Math.cos(angle * RADIAN), north], [Math.sin(angle * RADIAN), east])
  return { right: cross(ahead, up), up, ahead }
}

/** The sky as it is drawn: a middle with its upward angle, pixels to the radian, mirrored or not. Angles stay true (stereographic). */
export interface View extends Held {
  scale: number
  width: number
  height: number
  mirrored: boolean
}
export function projector(view: View) {
  const { right, up, ahead } = axes(view)
  const side = view.mirrored ? -1 : 1
  return (one: Vector): { x: number; y: number } | null => {
    const depth = 1 + dot(one, ahead)
    if (depth < 0.2) return null
    return {
      x: view.width / 2 + (side * 2 * view.scale * dot(one, right)) / depth,
      y: view.height / 2 - (2 * view.scale * dot(one, up)) / depth,
    }
  }
}
/** The direction under a place on the drawing. */
export function under(view: View, x: number, y: number): Vector {
  const { right, up, ahead } = axes(view)
  const across = ((view.mirrored ? -1 : 1) * (x - view.width / 2)) / view.scale / 2
  const along = -(y - view.height / 2) / view.scale / 2
  const square = across * across + along * along
  return mix([2 * across, right], [2 * along, up], [1 - square, ahead])
}

/** The edge of a frame as directions, closed, bending as straight lines of a picture do on the sky. */
export function frameEdge(held: Held, widthDeg: number, heightDeg: number, steps = 8): Vector[] {
  const { right, up, ahead } = axes(held)
  const [x, y] = [Math.tan((widthDeg / 2) * RADIAN), Math.tan((heightDeg / 2) * RADIAN)]
  const corners: [number, number][] = [
    [-x, y],
    [x, y],
    [x, -y],
    [-x, -y],
  ]
  return corners.flatMap(([fromX, fromY], place) => {
    const [toX, toY] = corners[(place + 1) % 4] ?? [0, 0]
    return Array.from({ length: steps }, (_, step) => {
      const share = step / steps
      return mix([1, ahead], [fromX + (toX - fromX) * share, right], [fromY + (toY - fromY) * share, up])
    })
  })
}

/** The edge of an ellipse on the sky. */
export function ellipseEdge(
  ra: number,
  dec: number,
  longDeg: number,
  shortDeg: number,
  angle: number,
  steps = 40,
): Vector[] {
  const { right, up, ahead } = axes({ ra, dec, angle })
  const [along, across] = [Math.tan((longDeg / 2) * RADIAN), Math.tan((shortDeg / 2) * RADIAN)]
  return Array.from({ length: steps }, (_, step) => {
    const turn = (2 * Math.PI * step) / steps
    return mix([1, ahead], [along * Math.cos(turn), up], [across * Math.sin(turn), right])
  })
}

/** Something held, moved by shares of a radian to its own right and up. */
export function moved(held: Held, right: number, up: number): Held {
  const own = axes(held)
  const ahead = mix([1, own.ahead], [right, own.right], [up, own.up])
  const { ra, dec } = raDec(ahead)
  // What was up stays up: its angle to the new north.
  const { right: west, up: north } = axes({ ra, dec, angle: 0 })
  const angle = Math.atan2(-dot(own.up, west), dot(own.up, north)) / RADIAN
  return { ra, dec, angle: (angle + 360) % 360 }
}

export const path = (points: ({ x: number; y: number } | null)[]): string =>
  points.some((one) => one === null)
    ? ''
    : `M${points.map((one) => `${one?.x.toFixed(1)},${one?.y.toFixed(1)}`).join(' L')} Z`

/** Degrees from the middle of something held to a place. */
export function awayDeg(held: Held, place: { ra: number; dec: number }): number {
  const [one, two] = [toward(held.ra, held.dec), toward(place.ra, place.dec)]
  return Math.atan2(Math.hypot(...cross(one, two)), dot(one, two)) / RADIAN
}

/** Whether a direction lies in a frame. */
export function inFrame(held: Held, widthDeg: number, heightDeg: number, one: Vector): boolean {
  const { right, up, ahead } = axes(held)
  const depth = dot(one, ahead)
  const [wide, high] = [widthDeg, heightDeg].map((side) => Math.tan((side / 2) * RADIAN))
  return depth > 0 && Math.abs(dot(one, right) / depth) <= (wide ?? 0) && Math.abs(dot(one, up) / depth) <= (high ?? 0)
}

/** A line that breaks where it leaves the drawing behind. */
export function openPath(points: ({ x: number; y: number } | null)[]): string {
  let begun = false
  return points
    .map((one) => {
      const step = one ? `${begun ? 'L' : 'M'}${one.x.toFixed(1)},${one.y.toFixed(1)}` : ''
      begun = one !== null
      return step
    })
    .join(' ')
    .trim()
}

/** Position angle, north through east, of one place as seen from another; places as [right ascension, declination]. */
export function positionAngle(from: { ra: number; dec: number }, to: { ra_deg: number; dec_deg: number }): number {
  const { right, up } = axes({ ...from, angle: 0 })
  const there = toward(to.ra_deg, to.dec_deg)
  return (Math.atan2(-dot(there, right), dot(there, up)) / RADIAN + 360) % 360
}

/** About how wide a letter of a label is. */
export const LETTER_PX = 6.4

/** How large a star is drawn: by its magnitude against the faintest shown, so that each of two is told from the next. */
export const discRadius = (magnitude: number, faintest: number) =>
  Math.min(0.55 + 0.42 * Math.max(0, faintest - magnitude) ** 0.95, 6.5)
