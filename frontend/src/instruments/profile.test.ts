import { expect, test } from 'vitest'

import { heightAt, withPoint, withStroke } from './profile'

const at = (azimuth_deg: number, altitude_deg: number) => ({ azimuth_deg, altitude_deg })

test('a stroke replaces what it covers and nothing else', () => {
  const before = [at(0, 5), at(90, 5), at(180, 5), at(270, 5)]
  const after = withStroke(before, [at(100, 30), at(140, 40)])
  expect(heightAt(after, 120)).toBeCloseTo(35, 0)
  for (const azimuth of [0, 60, 98, 142, 200, 300]) expect(heightAt(after, azimuth)).toBeCloseTo(5, 1)
})

test('a stroke from an open horizon through north either way round', () => {
  for (const stroke of [
    [at(340, 20), at(355, 20), at(10, 20), at(20, 20)],
    [at(20, 20), at(10, 20), at(355, 20), at(340, 20)],
  ]) {
    const drawn = withStroke([], stroke)
    expect([345, 0, 15].map((azimuth) => Math.round(heightAt(drawn, azimuth)))).toEqual([20, 20, 20])
    expect([30, 180, 330].map((azimuth) => Math.round(heightAt(drawn, azimuth)))).toEqual([0, 0, 0])
  }
})

test('the hand’s last passage counts, nothing leaves the sky, and long strokes stay short lists', () => {
  const back = withStroke([], [at(50, 10), at(80, 10), at(50, 60)])
  expect(heightAt(back, 65)).toBeCloseTo(35, 0)
  expect(heightAt(withStroke([], [at(10, 120), at(30, -40)]), 10)).toBe(89)
  const flat = withStroke(
    [],
    Array.from({ length: 300 }, (_, place) => at(place, 12)),
  )
  expect(flat.length).toBeLessThan(40)
  expect(flat.every((point) => point.azimuth_deg >= 0 && point.azimuth_deg < 360)).toBe(true)
})

test('a single point is raised with the keys', () => {
  const raised = withPoint([at(0, 3), at(180, 3)], 90, 25)
  expect(heightAt(raised, 90)).toBe(25)
  expect(heightAt(raised, 80)).toBeCloseTo(3, 1)
  expect(heightAt([], 77)).toBe(0)
})
