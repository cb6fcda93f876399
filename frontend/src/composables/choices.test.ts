import { describe, expect, it } from 'vitest'

import { choicesIn, choicesOut, fieldWord, shiftedNight, typed } from './choices'
import { figure, inUtc, number } from './figures'

const quantity = (part: object) => ({
  name: 'x',
  value: null,
  unit: '',
  symbol: '',
  decimals: 1,
  text: '',
  working: '',
  ...part,
})

describe('choices in the address', () => {
  it('survive the way out and back', () => {
    const choices = { f_number: 4, sub_school: 'tracks' as const, setup_time: '20:30', iso: 800, gap_s: 0 }
    expect(choicesIn(choicesOut(choices))).toEqual(choices)
  })

  it('leave out what is empty or the default', () => {
    expect(choicesOut({ f_number: null, gap_s: 2, darks: 12 }, { gap_s: 2 })).toEqual({ darks: '12' })
  })

  it('pass on what is no number as it was typed, so that the server can say what is wrong', () => {
    expect(typed(' 2.8 ')).toBe(2.8)
    expect(typed('two')).toBe('two')
    expect(typed('  ')).toBeNull()
    expect(choicesIn({ f_number: 'f/2,8' })).toEqual({ f_number: 'f/2,8' })
    expect(typed('1,250')).toBe('1,250')
  })

  it('take a comma and any minus sign as a point and a hyphen', () => {
    expect(['2,8', ',5', '−24,625', '–3', '0,125'].map(typed)).toEqual([2.8, 0.5, '-24,625', -3, 0.125])
  })

  it('have a name for people', () => {
    expect(['f_number', 'night', 'elsewhere'].map(fieldWord)).toEqual(['f-number', 'Night', 'elsewhere'])
  })

  it('step through nights over months and leave nonsense alone', () => {
    expect(shiftedNight('2026-12-31', 1)).toBe('2027-01-01')
    expect(shiftedNight('2028-03-01', -1)).toBe('2028-02-29')
    expect(shiftedNight('soon', 1)).toBe('soon')
  })
})

describe('figures', () => {
  it('carry their unit, degrees and minutes close by', () => {
    expect(figure(quantity({ value: 34.24, unit: '°' }))).toBe('34.2°')
    expect(figure(quantity({ value: 9.167, unit: '″/px', decimals: 2 }))).toBe('9.17″/px')
    expect(figure(quantity({ value: 12500, unit: 'g', decimals: 0 }))).toBe('12\u202f500 g')
    expect(figure(quantity({ text: '21:43' }))).toBe('21:43')
    expect(figure(quantity({}))).toBe('–')
    expect(number(-0.5, 2)).toBe('−0.50')
    expect(number(-0.04, 1)).toBe('0.0')
  })

  it('tell the instant in UTC', () => {
    expect(inUtc('2026-12-09T19:43:10Z')).toBe('19:43 UTC')
    expect(inUtc(null)).toBeUndefined()
  })
})
