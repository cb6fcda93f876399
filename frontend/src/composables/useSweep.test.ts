// @vitest-environment jsdom
/** Where a phone's long edge points, against the rotation matrices of the specification; and what is said where it cannot be read. */
import { afterEach, expect, it, vi } from 'vitest'

import { NO_SENSOR, NOT_SECURE, sighted, useSweep } from './useSweep'

const RAD = Math.PI / 180
type Matrix = number[][]
const times = (a: Matrix, b: Matrix): Matrix =>
  a.map((row) => [0, 1, 2].map((column) => row.reduce((sum, value, k) => sum + value * (b[k]?.[column] ?? 0), 0)))
const [sin, cos] = [(a: number) => Math.sin(a * RAD), (a: number) => Math.cos(a * RAD)]
const about = {
  x: (a: number): Matrix => [[1, 0, 0], [0, cos(a), -sin(a)], [0, sin(a), cos(a)]],
  y: (a: number): Matrix => [[cos(a), 0, sin(a)], [0, 1, 0], [-sin(a), 0, cos(a)]],
  z: (a: number): Matrix => [[cos(a), -sin(a), 0], [sin(a), cos(a), 0], [0, 0, 1]],
} // prettier-ignore

afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

it('agrees with the rotations of the W3C specification, Z by alpha, X by beta, Y by gamma, for the axis along the long edge', () => {
  let seed = 7
  const any = (from: number, to: number) => {
    seed = (seed * 16807) % 2147483647
    return from + ((to - from) * seed) / 2147483647
  }
  for (let times_ = 0; times_ < 300; times_ += 1) {
    const [alpha, beta, gamma] = [any(0, 360), any(-179, 179), any(-89, 89)]
    if (Math.abs(Math.abs(beta) - 90) < 1) continue // straight up there is no bearing
    const whole = times(times(about.z(alpha), about.x(beta)), about.y(gamma))
    const [east, north, up] = whole.map((row) => row[1] ?? 0) // the long edge of the device, on the ground's axes
    const theirs = {
      azimuth: (Math.atan2(east ?? 0, north ?? 0) / RAD + 360) % 360,
      altitude: Math.asin(up ?? 0) / RAD,
    }
    const ours = sighted({ alpha, beta, gamma, absolute: true } as DeviceOrientationEvent)
    const off = Math.abs((((ours?.azimuth_deg ?? NaN) - theirs.azimuth + 540) % 360) - 180)
    expect(off).toBeLessThan(1e-6)
    expect(ours?.altitude_deg).toBeCloseTo(theirs.altitude, 6)
  }
})

it('reads a heading of its own kind, and nothing where the compass is not absolute', () => {
  expect(sighted({ alpha: 10, beta: 5, absolute: false } as DeviceOrientationEvent)).toBeNull()
  expect(sighted({ beta: 5, webkitCompassHeading: 271 } as never)).toEqual({ azimuth_deg: 271, altitude_deg: 5 })
  expect(sighted({ alpha: 10, beta: null, absolute: true } as DeviceOrientationEvent)).toBeNull()
})

it('says clearly where there is no sensor, or no secure page', async () => {
  vi.useFakeTimers()
  vi.stubGlobal('isSecureContext', false)
  const sweep = useSweep()
  await sweep.begin()
  expect(sweep.trouble.value).toBe(NOT_SECURE)
  vi.stubGlobal('isSecureContext', true)
  vi.stubGlobal('DeviceOrientationEvent', undefined)
  await sweep.begin()
  expect(sweep.trouble.value).toBe(NO_SENSOR)
  vi.stubGlobal('DeviceOrientationEvent', class extends Event {})
  await sweep.begin()
  expect(sweep.trouble.value).toBe('')
  vi.advanceTimersByTime(3_100) // it is there, and never speaks
  expect(sweep.trouble.value).toBe(NO_SENSOR)
})

it('records while it is started and tells how much of the round was swept', async () => {
  vi.stubGlobal('isSecureContext', true)
  vi.stubGlobal('DeviceOrientationEvent', class extends Event {})
  let clock = 1_000
  vi.spyOn(performance, 'now').mockImplementation(() => (clock += 101))
  const sweep = useSweep()
  await sweep.begin()
  const turn = (alpha: number) =>
    window.dispatchEvent(
      Object.assign(new Event('deviceorientationabsolute'), { alpha, beta: 12, gamma: 0, absolute: true }),
    )
  turn(350)
  expect(sweep.now.value).toEqual({ azimuth_deg: 10, altitude_deg: 12 })
  expect(sweep.readings.value).toEqual([])
  sweep.recording.value = true
  for (let alpha = 359; alpha > 269; alpha -= 1) turn(alpha)
  expect(sweep.readings.value).toHaveLength(90)
  expect(sweep.covered.value).toBe(95)
  sweep.stop()
  turn(100)
  expect(sweep.readings.value).toHaveLength(90)
})
