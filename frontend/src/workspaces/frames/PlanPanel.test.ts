// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import type { Beside } from '@/composables/useFrames'
import type { Verdict } from '@/composables/useTonight'

import PlanPanel from './PlanPanel.vue'

const figure = (more: Partial<Beside>): Beside => ({
  key: 'wind',
  name: 'Spoiled by wind',
  expected: '0 %, wind “none”',
  measured: '30 %, 6 of 20: as in wind “fresh”',
  agrees: false,
  wind: 'fresh',
  spoils_per_h: null,
  ...more,
})
const verdict = { topic: 'As planned, and as measured', sentence: '1 of 2 figures are as planned.' } as Verdict

it('says what agrees, offers a plan that would, and opens the working of each figure', async () => {
  const dry = figure({ key: 'dew', name: 'Dew', expected: 'none', measured: 'none', agrees: null, wind: null })
  const panel = mount(PlanPanel, { props: { figures: [figure({}), dry], verdict } })
  const [windy, dew] = panel.findAll('tbody tr')
  expect(windy?.text()).toContain('differs')
  expect(dew?.text()).not.toMatch(/agrees|differs|Plan with/)
  await windy
    ?.findAll('button')
    .find((one) => one.text() === 'Plan with wind “fresh”')
    ?.trigger('click')
  expect(panel.emitted('planWith')).toEqual([[figure({})]])
  await dew?.get('button').trigger('click')
  expect(panel.emitted('working')).toEqual([['dew']])
})
