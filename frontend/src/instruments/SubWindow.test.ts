// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import SubWindow from './SubWindow.vue'

const LENGTHS = [30, 60, 90, 120, 180]
const stops = LENGTHS.map((seconds, place) => ({
  reading: {
    exposure_s: seconds,
    useful: 0.5 + place / 10,
    keep: 1 - place / 10,
    tracked: 0.9,
    round_keep: 1,
    noise_share: 0.1 / (place + 1),
    background_e: 30,
    background_share: 0.02,
    back_share: 0.15,
    back_words: '',
    raw_level: 300,
    clip_mag: 9,
    elongation: 1.1,
  },
  frames: 300 - 50 * place,
  kept_frames: 200,
  storage_gb: 9,
  snr: 12,
  hours: place === 4 ? null : 3,
}))
const window_ = {
  spans: [
    {
      key: 'sky' as const,
      name: 'Read noise small',
      from_s: 94,
      to_s: null,
      binds: false,
      words: 'adds 5 % or less',
      working: 'sky_limited',
    },
    {
      key: 'periodic' as const,
      name: 'Periodic error',
      from_s: null,
      to_s: 146,
      binds: true,
      words: '90 % of frames kept',
      working: 'keep',
    },
    {
      key: 'ceiling' as const,
      name: 'Sky below its ceiling',
      from_s: null,
      to_s: 0.4,
      binds: false,
      words: '20 % of the clip level',
      working: 'ceiling',
    },
  ],
  curve: {
    seconds: [1, 10, 100, 1200],
    useful: [0.1, 0.5, 1, 0],
    keep: [1, 1, 0.9, 0],
    top_from_s: 80,
    top_to_s: 120,
    best: 0.8,
  },
  reading: stops.map((one) => one.reading)[1] as (typeof stops)[number]['reading'],
}
const shown = (at = 1) =>
  mount(SubWindow, { props: { window: window_, stops, at, stale: false, goal: 10 }, attachTo: document.body })

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  document.body.innerHTML = ''
})

it('steps through the lengths by keys, reads out at once, and takes one when the keys rest', async () => {
  const view = shown()
  const slider = view.get('[role=slider]')
  expect(slider.attributes('aria-valuetext')).toContain(
    '60 s: keeps 90 %, read noise adds 5.0 %, sky at 15 % of the camera',
  )
  await slider.trigger('keydown', { key: 'ArrowRight' })
  await slider.trigger('keydown', { key: 'ArrowRight' })
  expect(view.get('figcaption').text()).toContain('2 min')
  expect(view.emitted('take')).toBeUndefined()
  vi.advanceTimersByTime(400)
  expect(view.emitted('take')).toEqual([[120]])
  await slider.trigger('keydown', { key: 'End' })
  expect(slider.attributes('aria-valuenow')).toBe('4')
  expect(view.get('figcaption').text()).toContain('out of reach')
  await slider.trigger('keydown', { key: 'ArrowRight' })
  expect(slider.attributes('aria-valuenow')).toBe('4')
  await slider.trigger('keydown', { key: 'Tab' })
  vi.advanceTimersByTime(400)
  expect(view.emitted('take')).toEqual([[120], [180]])
})

it('follows an answer that comes, but not while a hand is on it', async () => {
  const view = shown()
  await view.setProps({ at: 3 })
  expect(view.get('[role=slider]').attributes('aria-valuenow')).toBe('3')
  view.get('[role=slider]').element.dispatchEvent(new MouseEvent('pointerdown', { clientX: 500, bubbles: true }))
  await view.setProps({ at: 0 })
  expect(view.get('[role=slider]').attributes('aria-valuenow')).not.toBe('0')
  window.dispatchEvent(new Event('pointerup'))
  expect(view.emitted('take')?.length).toBe(1)
})

it('does not take hold on the names of the limits, and takes nothing that stands already', async () => {
  const view = shown()
  view.get('[role=slider]').element.dispatchEvent(new MouseEvent('pointerdown', { clientX: 40, bubbles: true }))
  window.dispatchEvent(new Event('pointerup'))
  await view.get('[role=slider]').trigger('keydown', { key: 'ArrowRight' })
  await view.get('[role=slider]').trigger('keydown', { key: 'ArrowLeft' })
  vi.advanceTimersByTime(400)
  expect(view.emitted('take')).toBeUndefined()
})

it('names each limit, where it ends and which decides, and opens its working', async () => {
  const view = shown()
  const names = view.findAll('.names li')
  expect(names.map((one) => one.text())).toEqual([
    'Read noise smallfrom 94 s',
    'Periodic error decides2 min 26 s',
    'Sky below its ceiling0.4 s',
  ])
  await names[1]?.get('button').trigger('click')
  expect(view.emitted('working')).toEqual([['keep']])
  expect(view.find('.lane.binds .free').exists()).toBe(true)
  const empty = view.findAll('.lane')[2]
  expect(empty?.find('.free').exists()).toBe(false)
  expect(empty?.text()).toContain('leaves nothing')
})
