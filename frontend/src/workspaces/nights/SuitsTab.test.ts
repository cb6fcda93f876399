// @vitest-environment jsdom
import { expect, it } from 'vitest'

import { undoable } from '@/composables/useUndo'
import { choose, mounted, press, refused, settled, shown, type, useAnswers, verdict } from '@/mounted.test.helper'

import SuitsTab from './SuitsTab.vue'

const suit = (key: string, name: string, more: object = {}) => ({
  entry: { key, name, kind: 'emission nebula', constellation: 'Vel', numbers: '', extent_deg: 0.5 },
  worth: 71.6,
  fills_percent: 12.4,
  usable_min: 249,
  highest_deg: 61.4,
  sky_mag: 21.5,
  moon_adds_mag: 0.02,
  season: 'at its best',
  neighbours: [],
  note: '',
  verdict: verdict(name),
  ...more,
})

let suits: object = {}
let taken: object = {}
const { sent } = useAnswers(() => {
  suits = {
    items: [suit('NGC1', 'Wisp'), suit('NGC2', 'Feather', { moon_adds_mag: 0.31, neighbours: ['Wisp'] })],
    count: 30,
    dark_minutes: 400,
    frame_long_deg: 24.4,
    frame_short_deg: 16.1,
    narrow: true,
  }
  taken = { id: 44, name: 'Wisp', version: 1 }
  return {
    'GET /api/nights/suits': () => suits,
    'GET /api/targets/kinds': { kinds: ['emission nebula', 'galaxy'] },
    'GET /api/nights/lanes': {
      chosen: true,
      targets: [3],
      lanes: { start: '', step_min: 2, lanes: [{ name: 'Feather' }] },
    },
    'POST /api/targets/catalogue': () => taken,
  }
})

it('ranks for this rig, spot and night, and tells what the Moon adds only where it does', async () => {
  const { page } = await mounted(SuitsTab)
  expect(sent('GET', '/api/nights/suits')[0]?.query).toMatchObject({
    rig: 1,
    spot: 2,
    night: '2026-12-08',
    smallest_percent: 3,
    largest_percent: 200,
    kinds: [],
    limit: 12,
    offset: 0,
  })
  expect(shown()).toContain('30 of them tonight; frame 24.4° × 16.1°, narrow filter')
  const [wisp, feather] = page.findAll('tbody tr').map((row) => row.text().replace(/\s+/g, ' '))
  expect(wisp).toContain('12 %30′4 h 09')
  expect(wisp).not.toContain('Moon')
  expect(feather).toContain('Moon 0.3 mag')
})

it('begins at the first page again when what is looked for changes', async () => {
  await mounted(SuitsTab)
  document.querySelector<HTMLElement>('.ant-pagination-item-2')?.click()
  await settled(2)
  expect(sent('GET', '/api/nights/suits').at(-1)?.query).toMatchObject({ offset: 12, words: '' })
  await type('Name or number', 'wisp')
  await settled(8)
  expect(sent('GET', '/api/nights/suits').at(-1)?.query).toMatchObject({ offset: 0, words: 'wisp' })
  await choose('Size in the frame', 'larger')
  await settled(2)
  expect(sent('GET', '/api/nights/suits').at(-1)?.query).toMatchObject({
    smallest_percent: 100,
    largest_percent: 10_000,
  })
})

it('adds what is not there yet to the night, and can take it back', async () => {
  await mounted(SuitsTab)
  const there = document.querySelector<HTMLButtonElement>('[aria-label="Add Feather to this night"]')
  expect([there?.disabled, there?.textContent?.trim()]).toEqual([true, 'added'])
  await press('Add Wisp to this night')
  await settled(2)
  expect(sent('POST', '/api/targets/catalogue')[0]?.body).toEqual({ key: 'NGC1' })
  const kept = sent('PUT', '/api/nights/targets')
  expect(kept[0]?.body.targets).toEqual([3, 44])
  expect(undoable.value?.text).toBe('Added Wisp to the night.')
  await undoable.value?.undo?.()
  expect(sent('PUT', '/api/nights/targets').at(-1)?.body.targets).toEqual([3])
})

it('says why something cannot be added, and what to do where nothing suits', async () => {
  taken = refused('key', 'This entry is not in the catalogue.')
  await mounted(SuitsTab)
  await press('Add Wisp to this night')
  expect(shown()).toContain('This entry is not in the catalogue.')
  document.body.innerHTML = ''
  for (const [dark, words] of [
    [400, 'Widen the choice above'],
    [0, 'choose nautical darkness'],
  ] as const) {
    suits = { items: [], count: 0, dark_minutes: dark, frame_long_deg: 24, frame_short_deg: 16, narrow: false }
    const { page } = await mounted(SuitsTab)
    expect(page.text()).toContain(words)
    page.unmount()
  }
})
