// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import NightLanes from './NightLanes.vue'

const fill = (state: string, count: number) => Array.from({ length: count }, () => state)
const verdict = (sentence: string, advice = '') => ({
  topic: 'Window',
  level: 'go' as const,
  sentence,
  binding: '',
  advice,
  figures: [],
  limits: [],
  workings: [],
  caution: '',
})
/** Five hours from 20:00 local in steps of two minutes. */
const slot = { first: 60, last: 180, from_clock: '21:00', to_clock: '23:00' }
const good = {
  name: 'Cloud',
  state: [...fill('twilight', 30), ...fill('usable', 60), ...fill('blocked', 30), ...fill('moonlit', 30)],
  altitude: Array.from({ length: 150 }, () => 40),
  obstruction: Array.from({ length: 150 }, () => 5),
  usable_minutes: 120,
  usable_words: '2 h 00 min',
  transit: '2026-12-08T20:00:00Z',
  transit_clock: '22:00',
  transit_deg: 41,
  best: slot,
  usable: [slot],
  minutes_by_state: {},
  verdict: verdict('Cloud is usable 21:00 to 23:00.'),
}
const none = {
  ...good,
  name: 'Cup',
  state: fill('low', 150),
  usable_minutes: 0,
  usable_words: 'none',
  transit: null,
  transit_clock: '',
  best: null,
  usable: [],
  verdict: verdict('Cup never rises.', 'Go north.'),
}
const lanes = { start: '2026-12-08T18:00:00Z', step_min: 2, lanes: [good, none] }
const show = (more = {}) =>
  mount(NightLanes, {
    props: { lanes, ids: [7, 9], current: 7, timeZone: 'Africa/Johannesburg', minutes: 300, removable: true, ...more },
  })

it('says of each lane what it gives, and of an empty one why and what to do', () => {
  const [first, second] = show().findAll('ol > li')
  expect(first?.get('.said').text()).toContain('2 h 00 min usable, 21:00–23:00')
  expect(first?.get('.said').text()).toContain('best 21:00–23:00')
  expect(second?.text()).toContain('Cup never rises. Go north.')
  expect(second?.find('.best').exists()).toBe(false)
})

it('lays every state with a look of its own, in proportion to its minutes', () => {
  const lane = show().findAll('ol > li')[0]
  const width = (name: string) => Number(lane?.get(`rect.${name}`).attributes('width'))
  expect(width('usable') / width('blocked')).toBeCloseTo(2, 1)
  expect(lane?.get('rect.blocked').attributes('fill')).toContain('grain')
  expect(lane?.get('rect.moonlit').attributes('fill')).toContain('dots')
  expect(lane?.find('rect.twilight').exists()).toBe(false)
})

it('picks and removes by the id of the lane, and cannot remove where it may not', async () => {
  const shown = show()
  await shown.findAll('.name')[1]?.trigger('click')
  await shown.get('button[aria-label="Take Cup off this night"]').trigger('click')
  await shown.findAll('.sentence')[0]?.trigger('click')
  expect(shown.emitted()).toMatchObject({ pick: [[9]], remove: [[9]], working: [[0]] })
  expect(show({ removable: false }).find('.off').exists()).toBe(false)
})
