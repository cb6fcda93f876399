/** Places on the drawing of the axis error: distance from the pole on a scale that keeps 30″ and 3° in sight together. */

import { scaleSymlog } from 'd3-scale'

export const RADIUS = 150

/** Rings that people think in, arcminutes. */
export const RINGS = [0.3, 1, 3, 10, 30, 60, 180, 600] as const

export const ringWords = (arcmin: number) =>
  arcmin >= 60 ? `${arcmin / 60}°` : arcmin < 1 ? `${Math.round(arcmin * 60)}″` : `${arcmin}′`

/** How far out a distance is drawn: nearly even up to the softening, then by its logarithm; the farthest lies on the rim. */
export function drawn(arcmin: number, farthest: number, soft: number): number {
  return scaleSymlog([0, farthest], [0, RADIUS]).constant(soft)(arcmin)
}

/** The farthest distance that must be seen: the next ring beyond all of them. */
export function reach(distances: readonly number[]): number {
  const most = Math.max(...distances, 1) * 1.15
  return RINGS.find((ring) => ring >= most) ?? most
}

/** Where an error stands, x to the right and y down, as seen by somebody who faces the pole: east is right in the north. */
export function place(
  altitudeArcmin: number,
  azimuthArcmin: number,
  south: boolean,
  farthest: number,
  soft: number,
): { x: number; y: number } {
  const far = Math.hypot(altitudeArcmin, azimuthArcmin)
  if (far === 0) return { x: 0, y: 0 }
  const out = drawn(far, farthest, soft) / far
  return { x: (south ? -azimuthArcmin : azimuthArcmin) * out, y: -altitudeArcmin * out }
}
