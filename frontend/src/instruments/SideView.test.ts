// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import SideView from './SideView.vue'

const piece = (name: string, kind: string, mass_g: number, arm_mm: number, length_mm = 0) => ({
  name,
  kind,
  mass_g,
  mass: `${mass_g} g`,
  arm_mm,
  arm: `${Math.abs(arm_mm)} mm`,
  arm_text: String(arm_mm),
  along_text: '0',
  along_mm: 0,
  moment_g_mm: mass_g * arm_mm,
  moment: `${Math.abs(mass_g * arm_mm) / 10_000} kg·cm`,
  length_mm,
})
const drawing = {
  latitude_deg: -24.6,
  tracker: 'tracker',
  centre_mm: 4,
  centre: '4 mm',
  weight: 'weight',
  solved_mm: -120,
  solved: '120 mm',
  fits: true,
  far_mm: -140,
  near_mm: -60,
  torque: '2.00 kg·cm',
  heavy_side: 'camera side',
  lifting: '',
  pieces: [
    piece('camera', 'camera', 600, 100),
    piece('weight', 'counterweight', 1000, -100),
    piece('shaft', 'shaft', 200, -100, 100),
  ],
}
const shown = () => mount(SideView, { props: { drawing, selected: null, stale: false } })
const slider = (view: ReturnType<typeof shown>, name: string) => view.get(`[role=slider][aria-label="${name}"]`)

it('tells every part in words, with its side and moment', () => {
  const view = shown()
  expect(view.findAll('[role=slider]')).toHaveLength(3)
  expect(slider(view, 'camera').attributes('aria-valuetext')).toBe(
    '100 mm out on the camera side, 600 g, moment 6 kg·cm',
  )
  expect(slider(view, 'weight').attributes('aria-valuetext')).toContain('on the weight side')
  expect(view.get('figcaption').text()).toBe('2.00 kg·cm to the camera side; centre of mass 4 mm off the axis.')
})

it('moves a part by keys and lets it go at once', async () => {
  const view = shown()
  await slider(view, 'camera').trigger('keydown', { key: 'ArrowUp' })
  await slider(view, 'camera').trigger('keydown', { key: 'PageDown' })
  await slider(view, 'camera').trigger('keydown', { key: 'ArrowDown', shiftKey: true })
  await slider(view, 'camera').trigger('keydown', { key: 'x' })
  expect(view.emitted('move')).toEqual([
    ['camera', 101],
    ['camera', 90],
    ['camera', 90],
  ])
  expect(view.emitted('done')).toHaveLength(3)
})

it('stops the weight at the ends of its shaft, and no other part', async () => {
  const view = shown()
  for (let turn = 0; turn < 2; turn += 1)
    await slider(view, 'weight').trigger('keydown', { key: 'PageDown', shiftKey: true })
  await slider(view, 'weight').trigger('keydown', { key: 'PageUp', shiftKey: true })
  await slider(view, 'shaft').trigger('keydown', { key: 'PageDown', shiftKey: true })
  expect(view.emitted('move')).toEqual([
    ['weight', -140],
    ['weight', -140],
    ['weight', -60],
    ['shaft', -200],
  ])
})

it('shows where the weight belongs until it is there', async () => {
  const view = shown()
  expect(view.get('.belongs').text()).toBe('belongs here, 120 mm')
  await view.setProps({ drawing: { ...drawing, solved_mm: -100 } })
  expect(view.find('.belongs').exists()).toBe(false)
  await view.setProps({ drawing: { ...drawing, fits: false } })
  expect(view.find('.solved').exists()).toBe(false)
})

it('draws larger areas for larger masses, and an arrow for each moment', () => {
  const view = shown()
  const area = (name: string) =>
    Number(slider(view, name).get('rect').attributes('width')) *
    Number(slider(view, name).get('rect').attributes('height'))
  expect(area('weight') / area('camera')).toBeCloseTo(1000 / 600)
  expect(view.findAll('.over .push')).toHaveLength(3)
  expect(view.findAll('.rod')).toHaveLength(1)
})
