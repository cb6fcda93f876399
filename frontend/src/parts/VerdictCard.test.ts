// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { beforeEach, expect, it } from 'vitest'

import type { Verdict } from '@/composables/useTonight'

import VerdictCard from './VerdictCard.vue'

const figure = (name: string, part: object) => ({
  name,
  value: null,
  unit: '',
  symbol: '',
  decimals: 0,
  text: '',
  moment: null,
  working: '',
  ...part,
})
const verdict: Verdict = {
  topic: 'Payload',
  level: 'care',
  sentence: '2.1 kg is 70 % of the rating: strained.',
  binding: '60 % of the rating',
  advice: '300 g less would fit.',
  figures: [
    figure('Carried', { value: 2100, unit: 'g', working: 'carried' }),
    figure('Set-up', { text: '20:16', moment: '2026-12-08T18:16:00Z' }),
  ],
  limits: [
    { name: 'School', kind: 'at most', quantity: figure('Load', { value: 60, unit: '%' }), binds: true, note: '' },
  ],
  workings: [],
  caution: 'Counterweights fall on feet.',
}
const card = (more = {}) => mount(VerdictCard, { props: { verdict, night: '2026-12-08', ...more } })
beforeEach(() => localStorage.clear())

it('says the level in a word, the sentence, what decides, and each figure with its unit', () => {
  const text = card().text()
  for (const part of [
    'With care',
    verdict.sentence,
    'Decides: 60 % of the rating',
    '2100 g',
    '20:16',
    '300 g less would fit.',
  ])
    expect(text).toContain(part)
})

it('opens the working that a figure names, and marks times with UTC', async () => {
  const shown = card()
  await shown.get('button[aria-label^="Carried"]').trigger('click')
  expect(shown.emitted('working')).toEqual([['carried']])
  expect(shown.find('[title="18:16 UTC"]').text()).toBe('20:16')
})

it('lists limits only where asked, with the binding one marked', () => {
  expect(card().find('.limits').exists()).toBe(false)
  const line = card({ showLimits: true }).get('.limits .binds')
  expect(line.text()).toContain('decides')
  expect(line.text()).toContain('≤ 60 %')
})

it('shows a caution until it is understood, once a night', async () => {
  const shown = card()
  await shown.get('.caution button').trigger('click')
  expect(shown.find('.caution').exists()).toBe(false)
  expect(card().find('.caution').exists()).toBe(false)
  expect(card({ night: '2026-12-09' }).find('.caution').exists()).toBe(true)
})
