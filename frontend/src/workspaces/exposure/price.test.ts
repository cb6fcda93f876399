import { expect, it } from 'vitest'

import { priceWords } from './price'

it('tells hours, and by how much they differ from those in hand', () => {
  expect(priceWords({ hours: 3.04, against: 1 })).toBe('3.0 h')
  expect(priceWords({ hours: 4.2, against: 1.39 })).toBe('4.2 h, +39 %')
  expect(priceWords({ hours: 1.4, against: 0.47 })).toBe('1.4 h, −53 %')
  expect(priceWords({ hours: 1.4, against: null })).toBe('1.4 h')
  expect(priceWords({ hours: null, against: null })).toBe('out of reach')
})
