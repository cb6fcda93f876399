// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import FortnightRow from './FortnightRow.vue'
import YearColumns from './YearColumns.vue'

const dayAfter = (days: number) => new Date(Date.UTC(2026, 11, 8 + days)).toISOString().slice(0, 10)
const year = {
  nights: Array.from({ length: 365 }, (_, place) => ({
    night: dayAfter(place),
    dark_minutes: 450,
    clear_minutes: place < 100 ? 60 + place : 0,
    usable_minutes: place < 100 ? place : 0,
  })),
  best: dayAfter(99),
  first_before_midnight: dayAfter(20),
  last_worth_it: dayAfter(99),
  verdict: {
    topic: 'Season',
    level: 'go' as const,
    sentence: '',
    binding: '',
    advice: '',
    figures: [],
    limits: [],
    workings: [],
    caution: '',
  },
}

it('reads out a night by keys and goes to it on Enter', async () => {
  const shown = mount(YearColumns, { props: { year, stale: false } })
  const slider = shown.get('[role=slider]')
  expect(slider.attributes('aria-valuetext')).toBe('Tue 8 Dec 2026: dark 7 h 30, clear 1 h 00, with the Moon none')
  await slider.trigger('keydown', { key: 'PageUp' })
  await slider.trigger('keydown', { key: 'ArrowRight' })
  expect(slider.attributes('aria-valuetext')).toBe('Fri 8 Jan 2027: dark 7 h 30, clear 1 h 31, with the Moon 0 h 31')
  await slider.trigger('keydown', { key: 'Enter' })
  expect(shown.emitted('pick')).toEqual([['2027-01-08']])
  await slider.trigger('keydown', { key: 'End' })
  await slider.trigger('keydown', { key: 'ArrowRight' })
  expect(slider.attributes('aria-valuenow')).toBe('364')
})

it('marks the best night and the first before midnight, and never more clear time than darkness', () => {
  const shown = mount(YearColumns, { props: { year, stale: false } })
  expect(shown.findAll('.mark text').map((mark) => mark.text())).toEqual(['best', 'before midnight from'])
  const top = (name: string) =>
    Math.min(
      ...[...(shown.get(`path.${name}`).attributes('d') ?? '').matchAll(/,(-?[\d.]+)/g)].map((found) =>
        Number(found[1]),
      ),
    )
  expect(top('dark')).toBeLessThan(top('clear'))
  expect(top('clear')).toBeLessThan(top('usable'))
})

it('tells each night of the fortnight in words and goes to the one that is pressed', async () => {
  const nights = [0, 1].map((place) => ({
    night: dayAfter(place),
    dark_minutes: 450 * place,
    moonless_minutes: 90 * place,
    moon_up_percent: 80,
    moon_lit_percent: 61.4,
    dark_words: place ? '7 h 30 min' : 'no darkness',
  }))
  const shown = mount(FortnightRow, { props: { nights, current: dayAfter(1) } })
  const [first, second] = shown.findAll('button')
  expect(first?.text()).toContain('not dark')
  expect(second?.attributes('aria-label')).toBe(
    'Wed 9 Dec: 7 h 30 min dark, 1.5 h of it without the Moon, Moon 61 % lit',
  )
  expect(second?.attributes('aria-current')).toBe('date')
  await first?.trigger('click')
  expect(shown.emitted('pick')).toEqual([['2026-12-08']])
})
