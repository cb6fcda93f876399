// @vitest-environment jsdom
import { expect, it, vi } from 'vitest'

import type { Place, Target, Trip } from '@/composables/useRecords'
import { undoable } from '@/composables/useUndo'
import { mounted, press, refused, settled, shown, type, useAnswers, value } from '@/mounted.test.helper'

import PlaceEditor from './PlaceEditor.vue'
import TargetEditor from './TargetEditor.vue'
import TripEditor from './TripEditor.vue'

const PLACE = {
  id: 7, version: 4, name: 'Salt pan', latitude_deg: -24.62, longitude_deg: 16.94, height_m: 900,
  time_zone: 'Africa/Windhoek', sky_mag: 21.7, access: 'Ask at the farm.', caution: 'Soft sand.',
  spots: [{ id: 11, name: 'east rim', horizon: [{ azimuth_deg: 0, altitude_deg: 5 }] }, { id: 12, name: 'camp', horizon: [] }],
} as unknown as Place // prettier-ignore
const READING = {
  latitude_deg: -24.62, longitude_deg: 16.94, time_zone: 'Africa/Windhoek', words: '24°37′12″S 16°56′24″E',
  compass: { sentence: 'A compass points 14° west of north.', advice: 'Turn 14° east of it.' },
} // prettier-ignore

let reading: object = READING
let whatIsThere: object | null = null
const { sent } = useAnswers(() => {
  reading = READING
  whatIsThere = null
  const keep = (call: { body: object; id: unknown }) =>
    whatIsThere ?? { id: call.id ?? 99, name: 'kept', version: 5, ...call.body }
  return {
    'GET /api/places/time-zones': ['Africa/Windhoek', 'Europe/Paris'],
    'GET /api/places/reading': () => reading,
    'GET /api/places/sky': { sky_mag: 21.3, faintest_star: 6.4 },
    'POST /api/places': keep,
    'PUT /api/places/{record_id}': keep,
    'POST /api/targets': keep,
    'PUT /api/targets/{record_id}': keep,
    'POST /api/trips': keep,
    'GET /api/targets/kinds': { kinds: ['emission nebula', 'galaxy', 'other'] },
    'GET /api/places': { items: [PLACE], count: 1 },
    'GET /api/rigs': { items: [{ id: 1, name: 'Heron' }, { id: 2, name: 'Sparrow' }], count: 2 },
    'GET /api/targets': { items: [{ id: 3, name: 'Wisp' }, { id: 4, name: 'Cloud' }], count: 2 },
  } // prettier-ignore
})
const save = async () => {
  document.querySelector('form')?.dispatchEvent(new Event('submit', { cancelable: true }))
  await settled(2)
}

it('reads a pasted coordinate before a place is kept, so that nobody has to press Read', async () => {
  const { page } = await mounted(PlaceEditor, { open: true, record: null })
  await type('Name of the place', 'Salt pan')
  await type('Coordinates as you have them', `24°37'12"S 16°56'24"E`)
  await save()
  expect(sent('GET', '/api/places/sky')).toHaveLength(0)
  const [body] = sent('POST', '/api/places').map((one) => one.body)
  expect(body).toMatchObject({
    name: 'Salt pan',
    latitude_deg: -24.62,
    longitude_deg: 16.94,
    time_zone: null, // as the server finds it from them
  })
  expect(body?.spots).toEqual([{ id: null, name: 'where I stand', horizon: [] }])
  expect(page.emitted('kept')).toHaveLength(1)
  expect(page.emitted('close')).toHaveLength(1)
})

it('keeps nothing where the coordinate cannot be read, and what was typed stays', async () => {
  reading = refused('coordinates', 'It cannot be read as a coordinate.')
  const { page } = await mounted(PlaceEditor, { open: true, record: null })
  await type('Coordinates as you have them', 'behind the hill')
  await save()
  expect(sent('POST', '/api/places')).toHaveLength(0)
  expect(shown()).toContain('It cannot be read as a coordinate.')
  expect(value('Coordinates as you have them')).toBe('behind the hill')
  expect(page.emitted('close')).toBeUndefined()
})

it('tells the words of a reading with what a compass does there', async () => {
  await mounted(PlaceEditor, { open: true, record: null })
  await type('Coordinates as you have them', '-24.62, 16.94')
  await press('Read')
  expect(shown()).toContain('24°37′12″S 16°56′24″E, Africa/Windhoek. A compass points 14° west of north.')
  expect(value('Latitude')).toBe('-24.62')
})

it('turns a class of sky into a brightness, and a star where that is chosen', async () => {
  await mounted(PlaceEditor, { open: true, record: PLACE })
  await type('Class', '3')
  await save()
  expect(sent('GET', '/api/places/sky')[0]?.query).toEqual({ sky_class: 3 })
  expect(sent('PUT', '/api/places/{record_id}')[0]?.body).toMatchObject({ sky_mag: 21.3, version: 4, name: 'Salt pan' })
  expect(shown()).toContain('faintest star about 6.4')
})

it('shows profiles as they are typed and names the line in which one is wrong', async () => {
  await mounted(PlaceEditor, { open: true, record: PLACE })
  const profile = document.querySelector('textarea[placeholder^="0 5"]') as HTMLTextAreaElement
  expect(profile.value).toBe('0 5')
  whatIsThere = refused('spots.0.horizon.1.altitude_deg', 'An altitude is between 0 and 90°.')
  profile.value = '0 5\n90 120'
  profile.dispatchEvent(new Event('input'))
  await press('Remove the spot camp')
  await save()
  const spots = sent('PUT', '/api/places/{record_id}')[0]?.body.spots as { horizon: object[] }[]
  expect(spots.map((one) => one.horizon)).toEqual([
    [{ azimuth_deg: 0, altitude_deg: 5 }, { azimuth_deg: 90, altitude_deg: 120 }],
  ]) // prettier-ignore
  expect(shown()).toContain('Line 2: An altitude is between 0 and 90°.')
  expect(profile.value).toBe('0 5\n90 120')
})

it('deletes a place with a way back', async () => {
  const { page } = await mounted(PlaceEditor, { open: true, record: PLACE })
  await press('Delete')
  expect(sent('DELETE', '/api/places/{record_id}')[0]?.id).toBe(7)
  expect(page.emitted('close')).toHaveLength(1)
  await undoable.value?.undo?.()
  expect(sent('POST', '/api/places/{record_id}/restore')[0]?.id).toBe(7)
})

it('sends a target as it was typed, coordinates included, and puts a refusal at its field', async () => {
  whatIsThere = refused('ra_deg', 'Right ascension is between 0 and 360°.')
  const record = {
    id: 3,
    version: 2,
    name: 'Wisp',
    ra_deg: 80,
    dec_deg: -30,
    kind: 'other',
    light: 'both',
  } as unknown as Target
  const { page } = await mounted(TargetEditor, { open: true, record })
  await type('Right ascension', '05h99m')
  await save()
  expect(sent('PUT', '/api/targets/{record_id}')[0]?.body).toMatchObject({ ra_deg: '05h99m', dec_deg: -30, version: 2 })
  expect(shown()).toContain('Right ascension is between 0 and 360°.')
  expect(value('Right ascension')).toBe('05h99m')
  expect(page.emitted('kept')).toBeUndefined()
})

it('begins a trip with the night and the spot in use, adds nights, and ticks rigs and targets on and off', async () => {
  await mounted(TripEditor, { open: true, record: null as Trip | null, night: '2026-12-08', spot: 11 })
  await type('Name of the trip', 'Two nights')
  await press('Add a night')
  const labels = [...document.querySelectorAll('fieldset label')].map((one) => one.textContent?.trim())
  expect(labels[0]).toContain('8')
  expect(labels[1]).toContain('9')
  const tick = (name: string) =>
    [...document.querySelectorAll<HTMLInputElement>('input[type=checkbox]')]
      .find((one) => one.closest('label')?.textContent?.trim() === name)
      ?.click()
  for (const name of ['Heron', 'Wisp', 'Cloud', 'Wisp']) {
    tick(name)
    await settled(1)
  }
  await save()
  expect(sent('POST', '/api/trips')[0]?.body).toMatchObject({
    name: 'Two nights', first_night: '2026-12-08', spots: [11, 11], rigs: [1], targets: [4], wake_time: '07:00',
  }) // prettier-ignore
})

it('leaves the time zone to the coordinates, and a correction to the person', async () => {
  await mounted(PlaceEditor, { open: true, record: null })
  await type('Name of the place', 'Rim')
  await type('Latitude', '−24,62')
  await type('Longitude', '16.94')
  await new Promise((done) => setTimeout(done, 400))
  await settled(2)
  expect(shown()).toContain('Africa/Windhoek, by the coordinates')
  await save()
  expect(sent('POST', '/api/places')[0]?.body).toMatchObject({
    latitude_deg: -24.62, longitude_deg: 16.94, time_zone: null, height_m: null,
  }) // prettier-ignore
})

it('takes the position of the device, and says why where there is none', async () => {
  vi.stubGlobal('isSecureContext', true)
  const told = { coords: { latitude: -24.620012, longitude: 16.940034, altitude: 1423.7 } }
  let position: object | null = told
  const ask = (done: (found: object) => void, failed: (why: object) => void) =>
    position ? done(position) : failed({ code: 1 })
  vi.stubGlobal('navigator', { ...navigator, geolocation: { getCurrentPosition: ask } })
  await mounted(PlaceEditor, { open: true, record: null })
  await type('Name of the place', 'Here')
  await press('Use my location')
  await settled(2)
  await save()
  expect(sent('POST', '/api/places')[0]?.body).toMatchObject({
    latitude_deg: -24.62, longitude_deg: 16.94, height_m: 1420, time_zone: null,
  }) // prettier-ignore
  position = null
  await press('Use my location')
  await settled(2)
  expect(shown()).toContain('allow it for this page')
  vi.unstubAllGlobals()
})
