// @vitest-environment jsdom
import { expect, it } from 'vitest'

import type { Schemas } from '@/api/client'
import { undoable } from '@/composables/useUndo'
import { mounted, press, refused, settled, shown, type, useAnswers, value } from '@/mounted.test.helper'

import GatheredPanel from './GatheredPanel.vue'

const NIGHT = {
  id: 5, name: '7 Dec', night: '2026-12-07', f_number: 4, iso: 800, filter_name: 'none', rig_name: 'Heron', frames: 60, exposure_s: 90,
  version: 1,
} // prettier-ignore
const ADDED = {
  hours: 1.5,
  equivalent_hours: 0.75,
  weighted_hours: 0.61,
  working: { name: 'Earlier night', steps: [] },
}
const DATA = { f_number: 2.8, rig: { filters: [] }, filters: [], filter_names: [] } as unknown as Schemas['ExposureOut']
const MANY = {
  added: [ADDED],
  gathered: { frames: 60, kept_hours: 1.5, equivalent_hours: 0.75, weighted_hours: 0.61 },
} as unknown as NonNullable<Schemas['ExposureOut']['many']>

let adding: object = {}
const { sent } = useAnswers(() => {
  adding = { id: 6 }
  return {
    'GET /api/sessions': { items: [NIGHT], count: 1 },
    'GET /api/rigs': { items: [{ id: 1, name: 'Heron' }], count: 1 },
    'POST /api/sessions': () => adding,
  }
})

it('tells earlier nights in hours of the setting in use, each with its working', async () => {
  const { page } = await mounted(GatheredPanel, { data: DATA, many: MANY })
  expect(page.get('thead').text()).toContain('at f/2.8')
  expect(page.get('tbody tr').text().replace(/\s+/g, ' ')).toContain('f/4, ISO 800, Heron60 × 90 s1.500.75')
  expect(page.get('tbody th').text()).not.toContain('none')
  await page.get('button.dotted').trigger('click')
  expect(page.emitted('working')).toEqual([['Earlier night', '7 Dec', ADDED.working]])
})

it('adds a night as typed, with the night and rig in use, and begins afresh', async () => {
  await mounted(GatheredPanel, { data: DATA, many: MANY })
  await type('Frames kept', '48')
  await type('Each', '1 m')
  adding = refused('exposure_s', 'Give seconds, as 60.')
  await press('Add this night')
  expect(shown()).toContain('Give seconds, as 60.')
  expect([value('Frames kept'), value('Each')]).toEqual(['48', '1 m'])
  await type('Each', '60')
  adding = { id: 6 }
  await press('Add this night')
  await settled(1)
  expect(sent('POST', '/api/sessions')[1]?.body).toMatchObject({
    night: '2026-12-08', frames: 48, exposure_s: 60, rig: 1, spot: 2, target: 3, iso: null,
  }) // prettier-ignore
  expect(value('Frames kept')).toBe('')
})

it('deletes a night with a way back', async () => {
  await mounted(GatheredPanel, { data: DATA, many: MANY })
  await press('Delete the night of 7 Dec')
  expect(sent('DELETE', '/api/sessions/{record_id}')[0]?.id).toBe(5)
  await undoable.value?.undo?.()
  expect(sent('POST', '/api/sessions/{record_id}/restore')[0]?.id).toBe(5)
})
