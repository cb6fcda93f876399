import { expect, it } from 'vitest'

import { dateWords, momentWords, readDate, readMoment } from './dates'

it('reads a date in any spelling that can only mean one', () => {
  for (const text of [
    '2026-12-09',
    '9 Dec 2026',
    'Wed 9 December 2026',
    'Dec 9, 2026',
    '9. dec. 2026',
    ' Wed, Dec 09, 2026 ',
  ])
    expect(readDate(text)).toBe('2026-12-09')
})

it('leaves what could be two dates, or none, for the server to name', () => {
  for (const text of ['9/12/2026', '12.9.26', 'tomorrow', '9 Brumaire 2026', '']) expect(readDate(text)).toBe(text)
})

it('writes what it can read again, the clock of a camera too', () => {
  for (let day = 0; day < 400; day += 1) {
    const date = new Date(Date.UTC(2027, 0, 1 + day)).toISOString().slice(0, 10)
    for (const shape of ['full', 'whole'] as const) expect(readDate(dateWords(date, shape))).toBe(date)
  }
  expect(readMoment(momentWords('2026-12-08T21:04:30'))).toBe('2026-12-08 21:04:30')
  expect(dateWords('never')).toBe('never')
})
