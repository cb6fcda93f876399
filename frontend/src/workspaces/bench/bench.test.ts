// @vitest-environment jsdom
import { expect, it } from 'vitest'

import type { Piece } from '@/composables/useBench'
import type { Rig, RigIn } from '@/composables/useRecords'
import { mounted, press, refused, settled, shown, useAnswers } from '@/mounted.test.helper'

import PackingTab from './PackingTab.vue'
import PlacementTable from './PlacementTable.vue'

const placed = (part: number, kind: string, name: string, more: object = {}) => ({
  part,
  kind,
  name,
  shared_with: [],
  carried: true,
  needs_current: false,
  fed_by: null,
  arm_mm: 0,
  along_mm: 0,
  ...more,
})
const PLACED = [
  placed(1, 'tracker', 'Light tracker', { needs_current: true, fed_by: 4 }),
  placed(2, 'camera', 'Body', { shared_with: ['Sparrow'] }),
  placed(3, 'hub', 'Four ways', { carried: false, fed_by: 4 }),
  placed(4, 'battery', 'Brick', { carried: false }),
  placed(5, 'heater', 'Dew strap', { needs_current: true, fed_by: 3 }),
]
const RECORD = { id: 1, version: 3, name: 'Heron', placed: PLACED } as unknown as Rig
const DRAFT = {
  name: 'Heron',
  placed: PLACED.map(({ part, fed_by }) => ({ part, fed_by, arm_mm: 0, along_mm: 0 })),
} as unknown as RigIn
const PIECES = [
  { name: 'Body', arm_mm: -80, arm_text: '−80', along_text: '12', moment: '0.44 N m' },
] as unknown as Piece[]

const item = (key: string, group: string, more: object = {}) => ({
  key,
  group,
  name: key,
  mass: '',
  why: 'of this night',
  clash: false,
  ...more,
})
const PACKING = {
  rigs: [],
  ticked: ['tripod'],
  forgotten: [],
  packing: {
    items: [item('tripod', 'Rig'), item('tape', 'Rig'), item('blanket', 'You', { mass: '900 g' })],
    mass: '7.9 kg',
    carries: 1,
    carry_limit: '12 kg',
    unweighed: 2,
    clashes: ['Brick in Heron and Sparrow'],
    too_heavy: [],
    verdict: null,
  },
}

let packing: object = PACKING
let keeping: object = {}
const { sent } = useAnswers(() => {
  packing = PACKING
  keeping = {}
  return {
    'GET /api/parts': {
      items: [
        { id: 2, kind: 'camera', name: 'Body' },
        { id: 9, kind: 'camera', name: 'Older body' },
        { id: 10, kind: 'lens', name: 'Lens' },
      ],
      count: 3,
    },
    'GET /api/habits': { length_unit: 'mm', mass_unit: 'g', carry_limit: '12 kg' },
    'GET /api/rigs': {
      items: [
        { id: 1, name: 'Heron' },
        { id: 2, name: 'Sparrow' },
      ],
      count: 2,
    },
    'GET /api/packing': () => packing,
    'PUT /api/packing': () => keeping,
  }
})

async function table(faults = {}) {
  const { page } = await mounted(PlacementTable, {
    record: RECORD,
    draft: DRAFT,
    pieces: PIECES,
    faults,
    selected: 'Body',
  })
  const select = (label: string) => page.get<HTMLSelectElement>(`select[aria-label="${label}"]`)
  const change = () => page.emitted<[RigIn, string]>('change')?.at(-1)
  return { page, select, change }
}

it('tells each part with its arm and moment, and that what stands on the ground has none', async () => {
  const { page } = await table()
  const rows = page.findAll('tbody tr')
  expect(rows.map((row) => row.find('.moment').exists())).toEqual([false, true, false, false, true])
  expect(rows[1]?.get('.moment').text()).toBe('−0.44 N m')
  expect(rows[0]?.text()).toContain('tracker, not on the arm')
  expect(rows[1]?.classes()).toContain('chosen')
  expect(rows.filter((row) => row.text().includes('shared'))).toHaveLength(1)
})

it('offers for a swap what is of the same kind, and what it fed is fed by the new part', async () => {
  const { select, change } = await table()
  const camera = select('camera: Body; swap for another')
  expect([...camera.element.options].map((one) => one.text)).toEqual(['Body', 'Older body'])
  await camera.setValue('9')
  expect(change()?.[0].placed?.map((one) => one.part)).toEqual([1, 9, 3, 4, 5])
  expect(change()?.[1]).toBe('Swapped Body.')
})

it('takes off a battery together with every line that hung on it', async () => {
  const { change } = await table()
  await press('Take Brick off')
  expect(change()?.[0].placed?.map((one) => [one.part, one.fed_by])).toEqual([
    [1, null],
    [2, null],
    [3, null],
    [5, 3],
  ])
})

it('feeds a hub from batteries only, everything else from hubs, too, and never from itself', async () => {
  const { page, select } = await table()
  const offered = (name: string) => [...select(`What feeds ${name}`).element.options].map((one) => one.text)
  expect(offered('Four ways')).toEqual(['nothing', 'Brick'])
  expect(offered('Dew strap')).toEqual(['nothing', 'Four ways', 'Brick'])
  await select('What feeds Dew strap').setValue('')
  expect(page.emitted('place')).toEqual([[5, { fed_by: null }, 'Changed what feeds Dew strap.']])
})

it('shows a refusal at the arm it is about', async () => {
  const { page } = await table({ 'placed.1.arm_mm': 'An arm is between −500 and 500 mm.' })
  expect(page.findAll('tbody tr')[1]?.text()).toContain('An arm is between −500 and 500 mm.')
})

const hand = { record: { value: { id: 1, name: 'Heron' } } }

it('packs for the rig in hand at first, counts what is left, and keeps every tick at once', async () => {
  await mounted(PackingTab, { hand })
  expect(sent('GET', '/api/packing').at(-1)?.query).toMatchObject({ spot: 2, night: '2026-12-08', rigs: [1] })
  expect(shown()).toContain('7.9 kg in 1 walk of 12 kg; 2 things not weighed')
  expect(shown()).toContain('2 things still to pack')
  expect(shown()).toContain('One part, two rigs: Brick in Heron and Sparrow.')
  const tick = (name: string) =>
    [...document.querySelectorAll<HTMLInputElement>('input[type=checkbox]')]
      .find((one) => one.closest('label')?.textContent?.includes(name))
      ?.click()
  tick('blanket')
  await settled(1)
  expect(sent('PUT', '/api/packing')[0]?.body).toMatchObject({
    ticked: ['tripod', 'blanket'],
    rigs: [1],
    forgotten: [],
  })
  tick('Sparrow')
  await settled(1)
  expect(sent('PUT', '/api/packing')[1]?.body).toMatchObject({ rigs: [1, 2] })
})

it('takes down what stayed at home by its name, and says why nothing could be kept', async () => {
  await mounted(PackingTab, { hand })
  keeping = refused('forgotten', 'At most 200 things can be on a list.')
  await press('forgot it: tape')
  expect(sent('PUT', '/api/packing')[0]?.body).toMatchObject({ forgotten: ['tape'] })
  expect(shown()).toContain('At most 200 things can be on a list.')
  expect(document.querySelector('[aria-label="left at home: tape"]')?.getAttribute('aria-pressed')).toBe('true')
})

it('asks for a place and a night before there is a list', async () => {
  await mounted(PackingTab, { hand }, 'rig=1')
  expect(sent('GET', '/api/packing')).toHaveLength(0)
  expect(shown()).toContain('Choose a place and a night above')
})
