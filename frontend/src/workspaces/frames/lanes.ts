/** The lanes of a run's drawing: which figures, how far each reaches, and where a frame stands on the screen. */
import { scaleLinear, type ScaleLinear } from 'd3-scale'

import type { Columns, JudgedFrame, JudgedRun } from '@/composables/useFrames'
import { wordOf } from '@/composables/useFrames'

export type LaneKey = 'elongation' | 'width' | 'clear' | 'sky' | 'drift'
export interface Lane {
  key: LaneKey
  label: string
  unit: string
  /** Frames beyond it are culled, above or below. */
  limit: number | null
  beyond: 'above' | 'below'
  scale: ScaleLinear<number, number>
  /** One or two values a frame. */
  values: (number | null)[][]
}

export const LANES: Record<LaneKey, { label: string; unit: string; beyond: 'above' | 'below' }> = {
  elongation: { label: 'Elongation', unit: '×', beyond: 'above' },
  width: { label: 'Star width', unit: 'px', beyond: 'above' },
  clear: { label: 'Starlight', unit: '%', beyond: 'below' },
  sky: { label: 'Background', unit: '×', beyond: 'above' },
  drift: { label: 'Drift', unit: 'px', beyond: 'above' },
}
/** Those by which frames can be culled with a line. */
export const BY_LINE = ['elongation', 'width', 'clear', 'sky'] as const

export function valuesOf(columns: Columns, key: LaneKey): (number | null)[][] {
  if (key === 'clear') return [columns.clear.map((one) => (one === null ? null : one * 100))]
  if (key === 'drift') return [columns.east, columns.north]
  return [columns[key]]
}

/** Ends of a lane: all but the wildest of what is there, the limit, and a little room. */
function reach(key: LaneKey, values: (number | null)[][], limit: number | null): [number, number] {
  const known = values.flat().filter((one): one is number => one !== null)
  const sorted = [...known].sort((a, b) => a - b)
  const low = sorted[0] ?? 0
  const high = sorted[Math.max(Math.ceil(sorted.length * 0.99) - 1, 0)] ?? 1
  if (key === 'elongation') return [1, Math.max(high, (limit ?? 1) * 1.1, 1.4) * 1.02]
  if (key === 'clear') return [0, Math.max(high, 105)]
  if (key === 'sky') return [0, Math.max(high, 1.5) * 1.05]
  if (key === 'width') return [Math.min(low, limit ?? low) * 0.85, Math.max(high, limit ?? high) * 1.05]
  const most = Math.max(Math.abs(low), Math.abs(high), 2) * 1.1
  return [-most, most]
}

/** The lanes one below the other; `top` and `tall` of the first lane, px. */
export function lanesOf(run: JudgedRun, top: number, tall: number, gap: number): Lane[] {
  const limits: Partial<Record<LaneKey, number>> = { elongation: run.elongation_limit, width: run.width_limit_px }
  return (Object.keys(LANES) as LaneKey[]).map((key, place) => {
    const values = valuesOf(run.columns, key)
    const limit = limits[key] ?? null
    const upper = top + place * (tall + gap)
    return {
      key,
      ...LANES[key],
      limit,
      values,
      scale: scaleLinear(reach(key, values, limit), [upper + tall, upper]).clamp(true),
    }
  })
}

/** Which frames lie beyond a line. */
export function beyond(run: JudgedRun, key: LaneKey, at: number): JudgedFrame[] {
  const values = valuesOf(run.columns, key)[0] ?? []
  const above = LANES[key].beyond === 'above'
  return run.frames.filter((_, place) => {
    const value = values[place]
    return value !== null && value !== undefined && (above ? value > at : value < at)
  })
}

export type SortKey = 'time' | 'worth' | 'elongation' | 'width' | 'clear' | 'sky' | 'word'
const ORDER = { cull: 0, less: 1, keep: 2 }

/** Places of the frames, sorted and filtered by cause; those that do not tell come last. */
export function sorted(run: JudgedRun, by: SortKey, cause: string): number[] {
  const wanted = run.causes.find((one) => one.key === cause)
  const places = wanted ? [...wanted.frames] : run.frames.map((_, place) => place)
  const rank = (place: number) => {
    const frame = run.frames[place]
    return frame ? ORDER[wordOf(frame)] : 0
  }
  if (by === 'time') return places
  if (by === 'word') return places.sort((a, b) => rank(a) - rank(b) || a - b)
  const values = run.columns[by]
  const sign = by === 'worth' || by === 'clear' ? 1 : -1
  return places.sort((a, b) => {
    const [one, other] = [values[a] ?? null, values[b] ?? null]
    if (one === null || other === null) return Number(one === null) - Number(other === null)
    return sign * (one - other) || a - b
  })
}
