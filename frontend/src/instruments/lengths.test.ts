import { expect, test } from 'vitest'

import { along, free, lengthWords, nearest } from './lengths'
import CASES from './lengths.cases.json'

test('the axis is logarithmic from a second to twenty minutes', () => {
  expect([along(1), along(1200), along(0.2), along(5000)]).toEqual([0, 1, 0, 1])
  expect(along(Math.sqrt(1200))).toBeCloseTo(0.5)
})

test('a place on the axis finds the nearest length, by ratio and not by difference', () => {
  const lengths = [1, 2, 4, 60, 90]
  expect(nearest(lengths, along(2.9))).toBe(2) // 2.9 is nearer to 4 than to 2 in ratio
  expect(nearest(lengths, 1)).toBe(4)
})

test('limits beyond the axis end at its ends; one below a second leaves nothing free', () => {
  expect(free({ from_s: 10, to_s: null })).toEqual({ from: along(10), to: 1 })
  expect(free({ from_s: null, to_s: 0.4 })).toEqual({ from: 0, to: 0 })
  expect(free({ from_s: null, to_s: 9000 })).toEqual({ from: 0, to: 1 })
})

test('lengths read as they are keyed', () => {
  const told = Object.fromEntries(Object.keys(CASES).map((seconds) => [seconds, lengthWords(Number(seconds))]))
  expect(told).toEqual(CASES) // the server is held to the same
})
