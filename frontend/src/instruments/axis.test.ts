import { describe, expect, it } from 'vitest'

import { drawn, place, RADIUS, reach, ringWords } from './axis'

describe('the drawing of the axis error', () => {
  it('puts east on the right facing north and on the left facing south, and high above', () => {
    expect(place(0, 10, false, 60, 1).x).toBeGreaterThan(0)
    expect(place(0, 10, true, 60, 1).x).toBeLessThan(0)
    expect(place(10, 0, true, 60, 1).y).toBeLessThan(0)
    expect(place(0, 0, false, 60, 1)).toEqual({ x: 0, y: 0 })
  })

  it('grows with the distance and ends on the rim', () => {
    const far = [0, 0.5, 1, 5, 60].map((one) => drawn(one, 60, 1))
    expect(far).toEqual([...far].sort((a, b) => a - b))
    expect(far.at(-1)).toBeCloseTo(RADIUS)
  })

  it('keeps all that was measured inside the rim', () => {
    expect(reach([0.7, 64, 8])).toBe(180)
    expect(reach([])).toBe(3)
    expect(reach([2000])).toBeGreaterThan(2000)
  })

  it('names rings as people do', () => {
    expect([0.3, 10, 180].map(ringWords)).toEqual(['18″', '10′', '3°'])
  })
})
