/** Drawing a profile by hand: strokes over a profile of (azimuth, altitude) points. Pixels and lines, no astronomy. */

export interface Point {
  azimuth_deg: number
  altitude_deg: number
}

const STEP = 2
const EDGE = 0.5
const TOLERANCE = 0.35
export const HIGHEST = 89

export const turned = (azimuth: number) => ((azimuth % 360) + 360) % 360
const inOrder = (points: readonly Point[]) =>
  [...points].sort((first, second) => first.azimuth_deg - second.azimuth_deg)

/** Altitude of a profile at azimuths: straight lines between its points, closed through north. */
export function heightsAt(points: readonly Point[], azimuths: readonly number[]): number[] {
  const ordered = inOrder(points)
  const first = ordered[0]
  const last = ordered[ordered.length - 1]
  if (!first || !last) return azimuths.map(() => 0)
  const around = [
    { ...last, azimuth_deg: last.azimuth_deg - 360 },
    ...ordered,
    { ...first, azimuth_deg: first.azimuth_deg + 360 },
  ]
  return azimuths.map((azimuth) => {
    const at = turned(azimuth)
    const next = Math.max(
      around.findIndex((point) => point.azimuth_deg >= at),
      1,
    )
    const right = around[next] ?? first
    const left = around[next - 1] ?? last
    const wide = right.azimuth_deg - left.azimuth_deg
    return wide === 0
      ? right.altitude_deg
      : left.altitude_deg + ((right.altitude_deg - left.altitude_deg) * (at - left.azimuth_deg)) / wide
  })
}

export const heightAt = (points: readonly Point[], azimuth: number) => heightsAt(points, [azimuth])[0] ?? 0

/**
 * A profile with a stroke laid over it. The stroke is a run of points as the hand moved, either way round; outside of it
 * the profile stays as it was, with an upright edge at both ends.
 */
export function withStroke(points: readonly Point[], stroke: readonly Point[]): Point[] {
  if (!stroke.length) return [...points]
  // Unroll the stroke, so that one that passes north does not jump.
  const path: Point[] = []
  for (const point of stroke) {
    const before = path[path.length - 1]?.azimuth_deg ?? point.azimuth_deg
    const step = ((((point.azimuth_deg - before) % 360) + 540) % 360) - 180
    path.push({ azimuth_deg: before + step, altitude_deg: clamp(point.altitude_deg) })
  }
  const low = Math.min(...path.map((point) => point.azimuth_deg))
  const high = Math.min(Math.max(...path.map((point) => point.azimuth_deg)), low + 359)
  const inside = (azimuth: number) => turned(azimuth - low + EDGE) <= high - low + 2 * EDGE
  const drawn: Point[] = []
  for (let at = low; at < high + STEP; at += STEP) {
    const azimuth = Math.min(at, high)
    drawn.push({ azimuth_deg: turned(azimuth), altitude_deg: along(path, azimuth) })
  }
  const edges = [low - EDGE, high + EDGE].map((azimuth) => ({
    azimuth_deg: turned(azimuth),
    altitude_deg: heightAt(points, azimuth),
  }))
  const kept = points.filter((point) => !inside(point.azimuth_deg))
  return simplified(inOrder([...kept, ...edges, ...drawn].map(rounded)))
}

/** One point raised, lowered or set, for those who draw with keys. */
export function withPoint(points: readonly Point[], azimuth: number, altitude: number): Point[] {
  return withStroke(points, [
    { azimuth_deg: azimuth - 2, altitude_deg: altitude },
    { azimuth_deg: azimuth + 2, altitude_deg: altitude },
  ])
}

const clamp = (altitude: number) => Math.min(Math.max(altitude, 0), HIGHEST)
const rounded = (point: Point) => ({
  azimuth_deg: Math.round(point.azimuth_deg * 10) / 10,
  altitude_deg: Math.round(point.altitude_deg * 10) / 10,
})

/** Altitude of the last passage of the hand over an azimuth. */
function along(path: readonly Point[], azimuth: number): number {
  for (let place = path.length - 1; place > 0; place -= 1) {
    const [from, to] = [path[place - 1], path[place]]
    if (!from || !to) continue
    const [low, high] = from.azimuth_deg < to.azimuth_deg ? [from, to] : [to, from]
    if (azimuth >= low.azimuth_deg && azimuth <= high.azimuth_deg) {
      const wide = high.azimuth_deg - low.azimuth_deg
      return wide === 0
        ? to.altitude_deg
        : low.altitude_deg + ((high.altitude_deg - low.altitude_deg) * (azimuth - low.azimuth_deg)) / wide
    }
  }
  return path[0]?.altitude_deg ?? 0
}

/** Points that lie on the line between their neighbours say nothing; they go. */
function simplified(points: readonly Point[]): Point[] {
  const kept: Point[] = []
  points.forEach((point, place) => {
    const before = kept[kept.length - 1]
    const after = points[place + 1]
    if (before && after && after.azimuth_deg > before.azimuth_deg) {
      const straight =
        before.altitude_deg +
        ((after.altitude_deg - before.altitude_deg) * (point.azimuth_deg - before.azimuth_deg)) /
          (after.azimuth_deg - before.azimuth_deg)
      if (Math.abs(straight - point.altitude_deg) < TOLERANCE && after.azimuth_deg - before.azimuth_deg < 20) return
    }
    if (!before || before.azimuth_deg !== point.azimuth_deg) kept.push(point)
  })
  return kept
}
