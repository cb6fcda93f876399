// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import WorldOutline from './WorldOutline.vue'

const place = (name: string, latitude_deg: number, longitude_deg: number) => ({ name, latitude_deg, longitude_deg })
const show = (places: ReturnType<typeof place>[], width = 360) => mount(WorldOutline, { props: { places, width } })

it('marks every place, names those that have room, and says all of them', () => {
  const page = show([place('Harjula Mire', 61, 25), place('Fell bothy', 60, 27), place('Saltpan camp', -24, 16)])
  expect(page.findAll('.mark')).toHaveLength(3)
  expect(page.findAll('.mark text').map((one) => one.text())).toEqual(['Harjula Mire', 'Saltpan camp'])
  expect(page.attributes('aria-label')).toContain('Fell bothy: latitude 60°')
})

it('turns a name inward at the eastern edge', () => {
  const page = show([place('East Cape', -37, 178)])
  expect(page.get('.mark text').attributes('text-anchor')).toBe('end')
})

it('passes over what is nowhere, and tells where it was pressed', async () => {
  const page = show([place('nowhere', Number.NaN, 20), place('beyond', 95, 20)])
  expect(page.findAll('.mark')).toHaveLength(0)
  expect(page.attributes('aria-label')).toContain('no place yet')
  page.element.getBoundingClientRect = () => ({ left: 0, top: 0, width: 360, height: 180 }) as DOMRect
  await page.trigger('click', { clientX: 180, clientY: 90 })
  const [latitude, longitude] = (page.emitted('pick')?.[0] ?? []) as number[]
  expect(latitude).toBeCloseTo(0, 0)
  expect(longitude).toBeCloseTo(0, 0)
})
