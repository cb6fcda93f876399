// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it, vi } from 'vitest'

import SkyChart from './SkyChart.vue'

vi.mock('@vueuse/core', async (whole) => ({
  ...(await whole<object>()),
  useElementSize: () => ({ width: { value: 800 }, height: { value: 500 } }),
}))

// jsdom has no canvas; the stars are looked at in a browser.
vi.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null)

const entry = (name: string, ra_deg: number, dec_deg: number, extent_deg: number) => ({
  key: name,
  name,
  ra_deg,
  dec_deg,
  extent_deg,
  width_deg: extent_deg,
  angle_deg: 0,
  kind: 'nebula',
})
const SKY = {
  ra_deg: [80, 81],
  dec_deg: [-30, -31],
  magnitude: [2, 8],
  colour: [1.6, null],
  faintest: 9,
  objects: [entry('Wisp', 80.5, -30.2, 1), entry('Knot', 79, -29, 0.3)],
}
const OVER = {
  clock: '23:30',
  moment: '2026-12-08T21:30:00Z',
  zenith: { ra_deg: 80, dec_deg: 60 },
  horizon: [
    [70, -30],
    [90, -30],
  ],
  moon: { ra_deg: 81, dec_deg: -29 },
  moon_lit_percent: 34,
  moon_up: true,
}
const LINES = {
  lines: [[79, -30, 81, -31]],
  labels: [{ name: 'Columba', ra_deg: 80, dec_deg: -32 }],
  stars: [{ name: 'Phact', ra_deg: 84.9, dec_deg: -34.1, magnitude: 2.6 }],
  ecliptic: [
    [70, 22],
    [80, 23],
  ],
}
function chart(more: object = {}) {
  return mount(SkyChart, {
    props: {
      sky: SKY as never,
      held: { ra: 80, dec: -30, angle: 0 },
      widthDeg: 7.5,
      heightDeg: 5,
      fieldDeg: 20,
      middle: { ra: 80, dec: -30 },
      up: 'north',
      mirrored: false,
      wanted: ['Wisp'],
      panels: [],
      lines: LINES,
      over: OVER,
      ...more,
    },
  })
}

it('draws objects at their extent, marks what is wanted, and lets one want another by its name', async () => {
  const page = chart()
  expect(page.findAll('path.object')).toHaveLength(2)
  expect(page.findAll('path.object.chosen')).toHaveLength(1)
  await page
    .findAll('text.name')
    .find((one) => one.text() === 'Knot')
    ?.trigger('click')
  expect(page.emitted('want')).toEqual([['Knot']])
})

it('moves and turns the frame by keys, a tenth of it or a whole, and zooms', async () => {
  const page = chart()
  const frame = page.get('.frame')
  await frame.trigger('keydown', { key: 'ArrowUp' })
  await frame.trigger('keydown', { key: 'ArrowUp', shiftKey: true })
  await frame.trigger('keydown', { key: ',' })
  await frame.trigger('keydown', { key: '>' })
  await frame.trigger('keydown', { key: '+' })
  await frame.trigger('keydown', { key: 'a' })
  const held = page.emitted('hold')?.map((one) => one[0] as { dec: number; angle: number }) ?? []
  expect(held.map((one) => Number(one.dec.toFixed(1)))).toEqual([-29.5, -25, -30, -30])
  expect(held.map((one) => one.angle)).toEqual([0, 0, 1, 350])
  expect(page.emitted('zoom')).toHaveLength(1)
})

it('shows ground, Moon and figures of the moment, and none of what is below', () => {
  const page = chart()
  expect(page.get('.moon').text()).toContain('34 % lit')
  expect(page.get('path.horizon').attributes('d')).toMatch(/^M/)
  expect(page.get('path.figure').attributes('d')).toMatch(/^M/)
  expect(page.text()).toContain('Columba')
  expect(
    chart({ over: { ...OVER, moon_up: false } })
      .find('.moon')
      .exists(),
  ).toBe(false)
})

it('numbers the stars of a way and says which picture is the last', () => {
  const frame = { ra_deg: 82, dec_deg: -31, angle_deg: 5, width_deg: 7.5, height_deg: 5 }
  const page = chart({
    way: [
      { ra_deg: 79, dec_deg: -28, name: 'Phact' },
      { ra_deg: 80, dec_deg: -30, name: 'the frame' },
    ],
    tries: [frame, { ...frame, ra_deg: 80.4 }],
  })
  expect(page.findAll('.waypoint text').map((one) => one.text())).toEqual(['1 Phact', '2 the frame'])
  expect(page.findAll('.try text').map((one) => one.text())).toEqual(['1', 'you are here'])
})

it('turns with the zenith or the camera up, and mirrors', () => {
  const top = (more: object) => Number(chart(more).get('.frame circle').attributes('cx'))
  expect(top({})).toBeCloseTo(400, 0)
  expect(top({ held: { ra: 80, dec: -30, angle: 90 } })).toBeLessThan(400) // the upper edge is to the east, on the left
  expect(top({ held: { ra: 80, dec: -30, angle: 90 }, mirrored: true })).toBeGreaterThan(400)
  expect(top({ held: { ra: 80, dec: -30, angle: 90 }, up: 'camera' })).toBeCloseTo(400, 0)
  expect(top({ up: 'zenith' })).toBeCloseTo(400, 0) // the zenith is due north of it
})

/** A press, a move or a letting go of one finger or the mouse; jsdom has no pointers of its own. */
function pointer(page: ReturnType<typeof chart>, on: string, type: string, id: number, x: number, y: number) {
  const element = page.get(on).element
  Object.assign(element, { setPointerCapture: () => undefined })
  const event = new MouseEvent(type, { bubbles: true, clientX: x, clientY: y, button: 0 })
  Object.defineProperty(event, 'pointerId', { value: id })
  element.dispatchEvent(event)
}

it('moves the frame with the hand that holds it, and the sky with the one that does not', () => {
  const page = chart()
  pointer(page, '.frame', 'pointerdown', 1, 400, 250)
  pointer(page, '.skychart', 'pointermove', 1, 400, 230)
  pointer(page, '.skychart', 'pointerup', 1, 400, 230)
  pointer(page, '.skychart', 'pointermove', 1, 300, 100) // let go: it stays
  const held = page.emitted('hold')?.map((one) => one[0] as { dec: number; ra: number }) ?? []
  expect(held).toHaveLength(1)
  expect(held[0]?.dec).toBeGreaterThan(-30)
  expect(page.emitted('look')).toBeUndefined()
  pointer(page, '.skychart', 'pointerdown', 1, 100, 100)
  pointer(page, '.skychart', 'pointermove', 1, 100, 140)
  const looked = page.emitted('look')?.[0]?.[0] as { dec: number }
  expect(looked.dec).toBeGreaterThan(-30) // what was dragged down shows more of the north
  expect(page.emitted('hold')).toHaveLength(1)
})

it('shows less of the sky as two fingers part, and moves nothing by it', () => {
  const page = chart()
  pointer(page, '.skychart', 'pointerdown', 1, 300, 200)
  pointer(page, '.skychart', 'pointerdown', 2, 400, 200)
  pointer(page, '.skychart', 'pointermove', 2, 500, 200)
  expect(page.emitted('zoom')).toEqual([[10]])
  pointer(page, '.skychart', 'pointermove', 2, 350, 200)
  expect(page.emitted('zoom')?.at(-1)).toEqual([40])
  expect(page.emitted('look')).toBeUndefined()
  pointer(page, '.skychart', 'pointerup', 2, 350, 200)
  pointer(page, '.skychart', 'pointermove', 1, 310, 210)
  expect(page.emitted('zoom')).toHaveLength(2)
})

it('asks for another middle once the frame leaves the drawing’s own', async () => {
  const page = chart()
  await page.setProps({ held: { ra: 80, dec: -28, angle: 0 } })
  expect(page.emitted('look')).toBeUndefined()
  await page.setProps({ held: { ra: 80, dec: -20, angle: 0 } })
  expect(page.emitted('look')).toEqual([[{ ra: 80, dec: -20 }]])
})
