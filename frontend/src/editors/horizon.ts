/** A horizon profile as people type it: one "azimuth altitude" pair a line. */
import { typed } from '@/composables/choices'

export interface Point {
  azimuth_deg: number
  altitude_deg: number
}

export function horizonText(points: readonly Point[]): string {
  return points.map((point) => `${point.azimuth_deg} ${point.altitude_deg}`).join('\n')
}

/** Pairs out of text. What is no number stays as typed, for the server to name; a line with one value gets an empty second. */
export function horizonPoints(text: string): Point[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== '')
    .map((line) => {
      const words = line.split(/[\s,;]+/)
      return { azimuth_deg: typed(words[0] ?? ''), altitude_deg: typed(words[1] ?? '') } as unknown as Point
    })
}
