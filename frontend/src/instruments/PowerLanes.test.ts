// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import PowerLanes from './PowerLanes.vue'

/** Ten hours from 20:00 local; one lane swaps after six, the other is empty after eight. */
const power = {
  begin: '2026-12-08T18:00:00Z',
  time_zone: 'Africa/Johannesburg',
  minutes: 600,
  planned: true,
  air_c: Array.from({ length: 41 }, (_, step) => 10 - step / 4),
  unfed: [] as string[],
  lanes: [
    {
      battery: 'cell 1',
      loads: ['body, 1.8 W'],
      watts: 1.8,
      uses: [
        { battery: 'cell 1', first: 0, last: 360 },
        { battery: 'cell 2', first: 360, last: 600 },
      ],
      lasts_min: 600,
      runs_out: '',
    },
    {
      battery: 'bank',
      loads: ['strap, 4.0 W'],
      watts: 4,
      uses: [{ battery: 'bank', first: 0, last: 480 }],
      lasts_min: 480,
      runs_out: '04:00',
    },
  ],
}

it('says in words what feeds what and until when', () => {
  const shown = mount(PowerLanes, { props: { power } })
  expect(shown.get('svg').attributes('aria-label')).toBe(
    'cell 1: cell 1 from 20:00 to 02:00, cell 2 from 02:00 to 06:00, lasts to the end; bank: bank from 20:00 to 04:00, empty at 04:00',
  )
  expect(shown.get('figcaption').text()).toBe('From set-up at 20:00 to 06:00, the end of the plan with its darks.')
})

it('marks the swap and the hours with nothing left, in proportion', () => {
  const shown = mount(PowerLanes, { props: { power } })
  expect(shown.findAll('.swap')).toHaveLength(1)
  const width = (at: number) => Number(shown.findAll('.use')[at]?.attributes('width'))
  expect(width(0) / width(1)).toBeCloseTo(360 / 240)
  expect(Number(shown.get('.dead').attributes('width')) / width(2)).toBeCloseTo(120 / 480)
})

it('tells what nothing feeds, and that dawn is the end where there is no programme', () => {
  const shown = mount(PowerLanes, { props: { power: { ...power, planned: false, unfed: ['strap'] } } })
  expect(shown.get('figcaption').text()).toContain('dawn; there is no programme this night')
  expect(shown.get('.unfed').text()).toBe('Fed by nothing: strap.')
})
