import { expect, it } from 'vitest'

import type { JudgedFrame, JudgedRun } from '@/composables/useFrames'

import { beyond, lanesOf, sorted } from './lanes'

const frame = (id: number, word: JudgedFrame['word'], said: JudgedFrame['said'] = ''): JudgedFrame => ({
  id,
  name: `frame ${id}`,
  at: null,
  word,
  said,
  weight: 1,
  reasons: [],
  cause: '',
})
const none = [null, null, null]
const run = {
  frames: [frame(1, 'keep'), frame(2, 'cull'), frame(3, 'keep', 'cull')],
  causes: [{ key: 'wind', name: 'Wind', frames: [2, 1], sure: 1, verdict: {} }],
  columns: {
    minutes: [0, 1, 2],
    elongation: [1.1, 1.9, null],
    width: [2.5, 2.6, 2.4],
    clear: [1, 0.4, 0.8],
    sky: [1, 1.2, 1],
    east: [0, -3, 2],
    north: [0, 1, 5],
    trail: none,
    trail_deg: none,
    worth: [1, 0.1, null],
  },
  elongation_limit: 1.3,
  width_limit_px: 3.2,
} as unknown as JudgedRun

it('takes frames beyond a line on the side that is bad, and none that does not tell', () => {
  expect(beyond(run, 'elongation', 1.5).map((one) => one.id)).toEqual([2])
  expect(beyond(run, 'clear', 90).map((one) => one.id)).toEqual([2, 3])
})

it('sorts the worst first, those that do not tell last, and by the word that counts', () => {
  expect(sorted(run, 'worth', '')).toEqual([1, 0, 2])
  expect(sorted(run, 'elongation', '')).toEqual([1, 0, 2])
  expect(sorted(run, 'word', '')).toEqual([1, 2, 0])
  expect(sorted(run, 'time', 'wind')).toEqual([2, 1])
})

it('keeps limits and every frame inside the lane, drift around nothing', () => {
  const lanes = lanesOf(run, 10, 50, 6)
  expect(lanes.map((one) => one.key)).toEqual(['elongation', 'width', 'clear', 'sky', 'drift'])
  const at = (key: string, value: number) => lanes.find((one) => one.key === key)?.scale(value) ?? -1
  expect(at('elongation', 1.3)).toBeGreaterThan(10)
  expect(at('elongation', 1.3)).toBeLessThan(60)
  expect(at('drift', 0)).toBeCloseTo(10 + 4 * 56 + 25)
})
