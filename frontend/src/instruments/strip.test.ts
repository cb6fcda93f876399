import { describe, expect, it } from 'vitest'

import { clock, fullHours, labelRows, skyColour, stretches } from './strip'

describe('the dusk strip', () => {
  it('gives each brightness a colour between two neighbouring shades, and the ends their own', () => {
    expect(skyColour(3)).toBe('var(--sky-bright)')
    expect(skyColour(22.5)).toBe('var(--sky-dark)')
    expect(skyColour(12.5)).toBe('color-mix(in oklab, var(--sky-sunset), var(--sky-rose) 50%)')
  })

  it('joins equal minutes and loses none', () => {
    const found = stretches(['day', 'day', 'twilight', 'usable', 'usable', 'twilight'])
    expect(found.map(({ state, first, last }) => `${state} ${first}-${last}`)).toEqual([
      'day 0-1',
      'twilight 2-2',
      'usable 3-4',
      'twilight 5-5',
    ])
    expect(stretches([])).toEqual([])
  })

  it('never lets two labels of a row overlap', () => {
    const places = [0, 10, 20, 30, 200].map((x) => ({ x, width: 50 }))
    expect(labelRows(places, 3)).toEqual([0, 1, 2, -1, 0])
  })

  it('strikes full hours by the local clock, half-hour zones too', () => {
    const start = new Date('2026-12-09T16:50:00Z')
    expect(fullHours(start, 'Africa/Johannesburg', 140)).toEqual([
      { minute: 10, label: '19:00' },
      { minute: 70, label: '20:00' },
      { minute: 130, label: '21:00' },
    ])
    expect(fullHours(start, 'Australia/Darwin', 60)[0]).toEqual({ minute: 40, label: '03:00' })
    expect(clock(start, 'Africa/Johannesburg', 310)).toBe('00:00')
    // The night on which New Zealand's clocks are put on: 01:59 is followed by 03:00.
    const spring = new Date('2026-09-26T13:00:00Z')
    expect([clock(spring, 'Pacific/Auckland', 59), clock(spring, 'Pacific/Auckland', 60)]).toEqual(['01:59', '03:00'])
    expect(fullHours(spring, 'Pacific/Auckland', 130).map((one) => one.label)).toEqual(['01:00', '03:00', '04:00'])
  })
})

it('reads clocks to the nearest minute, as the server does, and still finds full hours', () => {
  const start = new Date(Date.UTC(2026, 11, 8, 18, 59, 50))
  expect(clock(start, 'UTC', 0)).toBe('19:00')
  expect(clock(start, 'UTC', 61)).toBe('20:01')
  expect(fullHours(start, 'UTC', 121)).toEqual([
    { minute: 0, label: '19:00' },
    { minute: 60, label: '20:00' },
    { minute: 120, label: '21:00' },
  ])
})
