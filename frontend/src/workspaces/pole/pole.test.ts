// @vitest-environment jsdom
import { flushPromises } from '@vue/test-utils'
import { expect, it } from 'vitest'
import { defineComponent, h } from 'vue'

import { undoable } from '@/composables/useUndo'
import {
  choose,
  mounted,
  offered,
  press,
  refused,
  settled,
  shown,
  type,
  useAnswers,
  value,
  verdict,
} from '@/mounted.test.helper'

import DriftTab from './DriftTab.vue'
import RecordTab from './RecordTab.vue'
import { OFFSETS, usePhotographs } from './usePhotographs'

const ERROR = { altitude_arcmin: 3, azimuth_arcmin: -4, altitude_sigma: 0.5, azimuth_sigma: 0.25 }
const MEASURED = { id: 21, name: '21:10, drift', words: '5.0′', error: ERROR, touched: '' }
const SET = { id: 22, name: '20:50, polar scope', words: 'about 6′', error: null, touched: '' }

let drift: object = {}
let turn: object = {}
const { sent } = useAnswers(() => {
  drift = {
    places: [{ tells: 'azimuth', words: 'Near the meridian.', minutes: 4.6, altitude_deg: 59.7, azimuth_deg: 180.2 }],
    axis: null,
  }
  turn = { tracker: 'Sparrow', screw: 'altitude', degrees_a_turn: 0.512, sigma: 0.004 }
  return {
    'GET /api/alignments': { items: [MEASURED, SET], count: 2 },
    'GET /api/pole/keeping': { verdict: verdict('Look again', 'Look again at 23:40.') },
    'GET /api/pole/need': { need: { tolerance_arcmin: 4 }, south: true, verdict: verdict('How good') },
    'POST /api/pole/drift': () => drift,
    'POST /api/alignments/turn': () => turn,
    'POST /api/pictures/measurements': { id: 50, state: 'waiting', pictures: [], notes: [] },
    'GET /api/pictures/measurements/{record_id}': { id: 50, state: 'done', pictures: [], notes: [] },
    'POST /api/pictures/folder': [
      { id: 8, name: 'B.JPG', taken: '2026-12-08T21:05:00', utc_offset_min: null, exposure_s: 20, focal_mm: 35 },
      { id: 7, name: 'A.JPG', taken: '2026-12-08T21:02:00', utc_offset_min: 345, exposure_s: 20, focal_mm: null },
    ],
  } // prettier-ignore
})

it('lists what was measured with its uncertainty, and what was only set without one', async () => {
  const { page } = await mounted(RecordTab)
  const rows = page.findAll('tbody tr').map((row) => row.findAll('td').map((cell) => cell.text()))
  expect(rows[0]?.slice(0, 3)).toEqual(['5.0′', '3.0 ± 0.50′', '−4.0 ± 0.25′'])
  expect(rows[1]?.slice(0, 2)).toEqual(['about 6′', 'not measured'])
  expect(shown()).toContain('Look again at 23:40.')
})

it('writes down an alignment by hand, deletes one with a way back, and notes what was touched', async () => {
  const { page } = await mounted(RecordTab)
  await press('Write it down')
  expect(sent('POST', '/api/alignments')[0]?.body).toMatchObject({
    method: 'scope',
    context: { rig: 1, spot: 2, target: 3 },
  })
  await press('Delete 21:10, drift')
  expect(sent('DELETE', '/api/alignments/{record_id}')[0]?.id).toBe(21)
  await undoable.value?.undo?.()
  expect(sent('POST', '/api/alignments/{record_id}/restore')[0]?.id).toBe(21)
  const touched = page.findAll('tbody input')[1]
  await touched?.setValue('the tripod')
  await touched?.trigger('keydown', { key: 'Enter' })
  await touched?.trigger('change')
  await touched?.trigger('blur')
  await settled(1)
  expect(sent('PUT', '/api/alignments/{record_id}')[0]).toMatchObject({ id: 22, body: { touched: 'the tripod' } })
})

it('learns a turn of a screw from two measurements, and says at the field what is missing', async () => {
  await mounted(RecordTab)
  const learn = () => [...document.querySelectorAll('button')].find((one) => one.textContent?.trim() === 'Learn it')
  expect(learn()?.disabled).toBe(true)
  await type('Turns made', '2')
  for (const label of ['Measured before', 'Measured after']) {
    expect(offered(label).join()).not.toContain('polar scope') // not measured: it tells nothing of a turn
    await choose(label, 'drift')
  }
  turn = refused('turns', 'Give turns other than 0.')
  await press('Learn it')
  expect(shown()).toContain('Give turns other than 0.')
  expect(value('Turns made')).toBe('2')
  turn = { tracker: 'Sparrow', screw: 'altitude', degrees_a_turn: 0.512, sigma: 0.004 }
  await press('Learn it')
  expect(sent('POST', '/api/alignments/turn')[1]?.body).toMatchObject({
    rig: 1,
    screw: 'altitude',
    turns: 2,
    before: 21,
    after: 21,
  })
  expect(shown()).toContain('One turn of the altitude screw of “Sparrow” is 0.51°, give or take 0.004°.')
})

it('asks where to look before anything is seen, and for the axis once every star is whole', async () => {
  await mounted(DriftTab)
  expect(sent('POST', '/api/pole/drift')[0]?.body.stars).toEqual([])
  expect([value('Azimuth'), value('Altitude'), value('Watched for')]).toEqual(['180', '60', '5'])
  expect(shown()).toContain('Near the meridian. Watch it for 5 min or more')
  drift = {
    ...drift,
    axis: {
      error: ERROR,
      words: '5.0′ off',
      verdict: verdict('Axis', 'Turn the altitude screw.'),
      screws: [],
    },
  }
  await type('It moved by', '12')
  await settled(2)
  const last = sent('POST', '/api/pole/drift').at(-1)?.body
  expect(last?.stars).toEqual([
    { altitude_deg: 60, azimuth_deg: 180, amount: 12, unit: 'px', towards: 'north', minutes: 5 },
  ])
  await press('One more star')
  await settled(2)
  expect(sent('POST', '/api/pole/drift').at(-1)?.body.stars).toEqual([]) // half a star tells nothing
})

it('puts what is wrong with a star at its field, and the last good answer stays', async () => {
  await mounted(DriftTab)
  drift = refused('stars.0.minutes', 'Watch it for a minute or longer.')
  await type('Watched for', '0')
  await type('It moved by', '3')
  await settled(2)
  expect(shown()).toContain('Watch it for a minute or longer.')
  expect(shown()).toContain('Near the meridian.')
})

it('puts pictures in the order of their clock, takes its zone from a file that says it, and sends what was put right', async () => {
  let work: ReturnType<typeof usePhotographs> | null = null
  const host = defineComponent({
    setup() {
      work = usePhotographs(() => 120)
      return () => h('p')
    },
  })
  await mounted(host)
  const photographs = work as unknown as ReturnType<typeof usePhotographs>
  await photographs.choose(['B.JPG', 'A.JPG'])
  expect(photographs.chosen.value.map((one) => one.picture.name)).toEqual(['A.JPG', 'B.JPG'])
  expect(photographs.offset.value).toBe(345) // A quarter hour is a zone, too.
  expect(OFFSETS.find((one) => one.value === 345)?.label).toBe('UTC+05:45')

  const [first, second] = photographs.chosen.value
  if (!first || !second) throw new Error('two pictures')
  first.taken = 'soon'
  await photographs.begin('axis')
  expect(sent('POST', '/api/pictures/measurements')).toHaveLength(0)
  expect(photographs.faults.value).toMatchObject([
    { field: 'pictures.0.taken', message: 'Write it like 8 Dec 2026 21:04:30.' },
  ])
  first.taken = '2026-12-08 21:02:00'
  second.focal_mm = 36
  photographs.fast.value = '-3'
  await photographs.begin('axis')
  await flushPromises()
  expect(sent('POST', '/api/pictures/measurements')[0]?.body).toMatchObject({
    task: 'axis', clock_offset_min: 345, clock_fast_s: -3, temperature_c: 10, keep_files: false,
    pictures: [
      { picture: 7, taken: '2026-12-08T21:02:00', exposure_s: 20, focal_mm: null },
      { picture: 8, taken: '2026-12-08T21:05:00', exposure_s: 20, focal_mm: 36 },
    ],
  }) // prettier-ignore
  photographs.drop(0)
  expect(photographs.offset.value).toBe(345)
  photographs.drop(0)
  expect(photographs.offset.value).toBeNull()
})
