/** Places on the time axis of the sub window. */

import { scaleLog } from 'd3-scale'

import { number } from '@/composables/figures'

export const AXIS = [1, 1200] as const
const axis = scaleLog(AXIS, [0, 1]).clamp(true)

/** Share of the axis at which a length stands, 0 left to 1 right; beyond the ends it stays there. */
export function along(seconds: number): number {
  return axis(seconds)
}

/** Which of rising lengths lies nearest to a share of the axis. */
export function nearest(lengths: readonly number[], share: number): number {
  let best = 0
  lengths.forEach((one, place) => {
    if (Math.abs(along(one) - share) < Math.abs(along(lengths[best] ?? 1) - share)) best = place
  })
  return best
}

/** A length of time in the words of the server (`duration_words`); the cases that both are held to are in lengths.cases.json. */
export function lengthWords(seconds: number): string {
  if (seconds < 29.95 && seconds % 1) return `${Number(seconds.toFixed(1))} s`
  const whole = Math.round(seconds)
  const two = (part: number) => String(part).padStart(2, '0')
  if (whole < 120) return `${whole} s`
  if (whole >= 3600) {
    const minutes = Math.round(whole / 60)
    return `${Math.floor(minutes / 60)} h ${two(minutes % 60)} min`
  }
  const rest = whole % 60
  return rest ? `${Math.floor(whole / 60)} min ${two(rest)} s` : `${whole / 60} min`
}

export const TICKS = [1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200] as const

/** The bar in which a limit leaves the sub free, as shares of the axis. */
export function free(span: { from_s?: number | null; to_s?: number | null }): { from: number; to: number } {
  return {
    from: span.from_s == null ? 0 : along(span.from_s),
    to: span.to_s == null ? 1 : span.to_s < AXIS[0] ? 0 : along(span.to_s),
  }
}

export const percent = (share: number, decimals = 0) => `${number(share * 100, decimals)} %`

/** Hours to the goal of one length of a sub. */
export const hoursWords = (one: { hours?: number | null }) =>
  one.hours == null ? 'out of reach' : `${number(one.hours, 1)} h`
