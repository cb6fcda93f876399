// @vitest-environment jsdom
/** The way in, and a test picture against the plan. */
import { expect, it } from 'vitest'

import { undoable } from '@/composables/useUndo'
import { mounted, press, refused, settled, shown, type, useAnswers, value, verdict } from '@/mounted.test.helper'

import CameraTrial from './exposure/TestTab.vue'
import SignInPage from './signin/SignInPage.vue'

const PICTURE = {
  id: 70,
  name: 'T.JPG',
  kind: 'jpeg',
  width_px: 6000,
  height_px: 4000,
  taken: '2026-12-08T21:00:00+00:00',
  iso: 1600,
  exposure_s: 15,
  f_number: null,
  focal_mm: 85,
  utc_offset_min: 120,
}

let session: object = {}
let enter: object = {}
let work: object = {}
const { sent } = useAnswers(() => {
  session = { username: '', now: '', sign_up: true, demo: { username: 'dusk', password: 'lamp' } }
  enter = refused('password', 'Name or password is wrong.', 403)
  work = {
    id: 50,
    task: 'trial',
    state: 'done',
    pictures: [{ name: 'T.JPG', pointing: { ra_deg: 82.5, dec_deg: -30.04, stars: 140 } }],
    notes: [],
  }
  return {
    'GET /api/session': () => session,
    'POST /api/session': () => enter,
    'POST /api/session/account': () => enter,
    'POST /api/pictures/folder': [PICTURE],
    'GET /api/pictures/folder': { items: [{ name: 'T.JPG' }], count: 1 },
    'GET /api/pictures/measurements': { items: [{ id: 50 }], count: 1 },
    'GET /api/pictures/measurements/{record_id}': () => work,
    'POST /api/pictures/measurements': () => work,
    'GET /api/exposure/test-picture/{record_id}': {
      verdict: verdict('Test picture', 'As planned.'),
      rows: [{ name: 'Sky', predicted: '21.60', measured: '21.20', words: 'brighter', agrees: false }],
      offer: {
        zenith_mag: 21.2,
        zenith_before: 21.6,
        star_fwhm_px: null,
        star_before: 2,
        alignment_arcmin: null,
        alignment_before: 5,
      },
    },
    'POST /api/exposure/learn': { sky_mag: 21.6, star_fwhm_px: 2, star_origin: 'book' },
  }
})
const submit = async () => {
  document.querySelector('form')?.dispatchEvent(new Event('submit', { cancelable: true }))
  await settled(2)
}

it('says at the form why nobody was let in, and keeps what was typed', async () => {
  await mounted(SignInPage)
  await type('Name', 'nora')
  await type('Password', 'wrong-lamp')
  await submit()
  expect(shown()).toContain('Name or password is wrong.')
  expect([value('Name'), value('Password')]).toEqual(['nora', 'wrong-lamp'])
})

it('makes an account where somebody has none, with the rule for passwords beside the field', async () => {
  await mounted(SignInPage)
  expect(shown()).not.toContain('At least 8 characters')
  await press('No account yet? Make one')
  expect(shown()).toContain('At least 8 characters')
  await type('Name', 'nora')
  await type('Password', 'tape-and-tripod')
  await submit()
  expect(sent('POST', '/api/session/account')[0]?.body).toEqual({ username: 'nora', password: 'tape-and-tripod' })
})

it('takes the demo account by one press', async () => {
  await mounted(SignInPage)
  await press('Look around with the demo account')
  expect(sent('POST', '/api/session')[0]?.body).toEqual({ username: 'dusk', password: 'lamp' })
})

it('sends a test picture with what was put right, and offers its sky from now on, with a way back', async () => {
  const { page } = await mounted(CameraTrial)
  expect(page.get('tbody tr').text().replace(/\s+/g, ' ')).toBe('Sky21.6021.20brighter')
  expect(page.get('tbody tr').classes()).toContain('off')
  expect(shown()).toContain('Looks at 5.50 h, −30.0°, 140 stars known.')
  expect(shown()).toContain('zenith 21.20 instead of 21.60 mag/arcsec², for this place')
  expect(page.findAll('.offers p')).toHaveLength(1) // what agrees is not offered
  await press('Use this sky')
  expect(sent('POST', '/api/exposure/learn')[0]?.body).toEqual({ rig: 1, spot: 2, sky_mag: 21.2 })
  await undoable.value?.undo?.()
  expect(sent('POST', '/api/exposure/learn')[1]?.body).toEqual({ rig: 1, spot: 2, sky_mag: 21.6 })
})
