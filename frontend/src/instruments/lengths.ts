/** Places on the time axis of the sub window. */

export const AXIS = [1, 1200] as const

/** Share of the axis at which a length stands, 0 left to 1 right; beyond the ends it stays there. */
export function along(seconds: number): number {
  const inside = Math.min(Math.max(seconds, AXIS[0]), AXIS[1])
  return Math.log(inside / AXIS[0]) / Math.log(AXIS[1] / AXIS[0])
}

/** Which of rising lengths lies nearest to a share of the axis. */
export function nearest(lengths: readonly number[], share: number): number {
  let best = 0
  lengths.forEach((one, place) => {
    if (Math.abs(along(one) - share) < Math.abs(along(lengths[best] ?? 1) - share)) best = place
  })
  return best
}

/** A length as people key it. */
export function lengthWords(seconds: number): string {
  if (seconds < 120) return `${seconds % 1 ? seconds.toFixed(1) : seconds} s`
  const minutes = Math.floor(seconds / 60)
  const rest = Math.round(seconds % 60)
  return rest ? `${minutes} min ${String(rest).padStart(2, '0')} s` : `${minutes} min`
}

export const TICKS = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200] as const

/** The bar in which a limit leaves the sub free, as shares of the axis. */
export function free(span: { from_s?: number | null; to_s?: number | null }): { from: number; to: number } {
  return {
    from: span.from_s == null ? 0 : along(span.from_s),
    to: span.to_s == null ? 1 : span.to_s < AXIS[0] ? 0 : along(span.to_s),
  }
}
