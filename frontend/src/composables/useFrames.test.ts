// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { defineComponent, ref } from 'vue'

import { api } from '@/api/client'

import { useFolders, useJudgedRun, type Folder, type JudgedFrame, type Lesson } from './useFrames'
import { undoable } from './useUndo'

const good = (data: unknown) => ({ data, response: new Response() }) as never
const refused = (message: string) =>
  ({
    error: { faults: [{ field: 'file', value: null, message }] },
    response: new Response(null, { status: 422 }),
  }) as never
interface Asked {
  params: { path: { record_id: number }; query?: Record<string, unknown> }
  body: Record<string, unknown>
}
afterEach(() => vi.restoreAllMocks())

/** A composable within a page whose address names a night, and what it asks of the server. */
async function within<T>(use: () => T, answers: Record<string, unknown> = {}, address = '') {
  vi.spyOn(api, 'GET').mockImplementation(((path: string) =>
    Promise.resolve(good(answers[path] ?? { items: [], count: 0 }))) as never)
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/', component: {} }] })
  await router.push(`/?rig=1&spot=2&night=2026-12-08&target=3${address}`)
  const made: T[] = []
  mount(
    defineComponent({
      setup: () => {
        made.push(use())
      },
      template: '<div />',
    }),
    { global: { plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]] } },
  )
  await flushPromises()
  return { hand: made[0] as T, router }
}

it('brings files one after the other, tells those that are refused, and stops when it is told', async () => {
  const { hand } = await within(useFolders)
  const sent: string[] = []
  vi.spyOn(api, 'POST').mockImplementation(((path: string, asked: Asked) => {
    if (path.endsWith('/brought')) return Promise.resolve(good({ id: 4 }))
    const { name } = asked.body['file'] as File
    sent.push(name)
    if (name === 'c.jpg') hand.stopBringing()
    return Promise.resolve(name === 'b.jpg' ? refused('“b.jpg” is empty.') : good({ id: 1, new: true }))
  }) as never)
  await hand.bring(['a.jpg', 'b.jpg', 'c.jpg', 'd.jpg'].map((name) => new File(['x'], name)))
  expect(sent).toEqual(['a.jpg', 'b.jpg', 'c.jpg'])
  expect(hand.refused.value).toEqual(['“b.jpg” is empty.'])
  expect(hand.bringing.value).toBe('')
})

it('puts a camera’s clock right, and back to what it was', async () => {
  const { hand } = await within(useFolders)
  const sent = vi.spyOn(api, 'POST').mockResolvedValue(good({}))
  const folder = { id: 6, name: 'card', clock_offset_min: null, clock_fast_s: 20 } as Folder
  await hand.setClock(folder, { offset_min: 120, fast_s: 3600 })
  expect(undoable.value?.text).toBe('The camera’s clock of “card” is put right.')
  await undoable.value?.undo?.()
  const bodies = sent.mock.calls.map((call) => (call[1] as unknown as Asked).body)
  expect(bodies).toEqual([
    { offset_min: 120, fast_s: 3600 },
    { offset_min: null, fast_s: 20 },
  ])
})

const FRAMES = [{ id: 11 }, { id: 12 }] as JudgedFrame[]
const ANSWERS = { '/api/frames/runs/{record_id}': { run: { id: 5 }, rig: 9, frames: FRAMES, lessons: [] } }
const judging = () => useJudgedRun(ref(5), ref(2))

it('puts a word on frames by the limits of the page, and gives each back the word it had', async () => {
  const { hand } = await within(judging, ANSWERS, '&elongation_limit=1.6')
  const asked = vi.mocked(api.GET).mock.calls.find((call) => call[0] === '/api/frames/runs/{record_id}')
  expect((asked?.[1] as unknown as Asked).params.query).toEqual({ choices: { elongation_limit: 1.6 } })
  const before = [
    { frame: 11, said: 'keep' },
    { frame: 12, said: '' },
  ]
  const sent = vi.spyOn(api, 'POST').mockResolvedValue(good({ before }))
  await hand.say(FRAMES, 'cull', 'Two frames are culled.')
  await undoable.value?.undo?.()
  const words = sent.mock.calls.map((call) => (call[1] as unknown as Asked).body['words'])
  expect(words).toEqual([FRAMES.map(({ id }) => ({ frame: id, said: 'cull' })), before])
})

it('learns each figure where it belongs, and forgets it again with where the old one was from', async () => {
  const { hand } = await within(judging, ANSWERS)
  const before = {
    half_amplitude_arcsec: 18,
    period_s: 480,
    origin: 'book',
    sky_mag: 21,
    star_fwhm_px: 2.2,
    star_origin: 'book',
  }
  const sent = vi.spyOn(api, 'POST').mockResolvedValue(good(before))
  const lesson = { measured: 'so much', differs: true, in_use: '', name: '' }
  const learned = [
    { ...lesson, key: 'periodic error', value: 12.5, second: 431 },
    { ...lesson, key: 'sky', value: 21.4, second: null },
    { ...lesson, key: 'star width', value: 2.7, second: null },
  ] as Lesson[]
  for (const one of learned) {
    await hand.learn(one)
    await undoable.value?.undo?.()
  }
  expect(sent.mock.calls.map((call) => [call[0], (call[1] as unknown as Asked).body])).toEqual([
    ['/api/frames/learn', { rig: 9, half_amplitude_arcsec: 12.5, period_s: 431, origin: null }],
    ['/api/frames/learn', { rig: 9, half_amplitude_arcsec: 18, period_s: 480, origin: 'book' }],
    ['/api/exposure/learn', { rig: 9, spot: 2, sky_mag: 21.4 }],
    ['/api/exposure/learn', { rig: 9, spot: 2, sky_mag: 21 }],
    ['/api/exposure/learn', { rig: 9, spot: 2, star_fwhm_px: 2.7, star_origin: null }],
    ['/api/exposure/learn', { rig: 9, spot: 2, star_fwhm_px: 2.2, star_origin: 'book' }],
  ])
})

it('plans the night with what its frames say, and with what it was planned before', async () => {
  const { hand, router } = await within(judging, ANSWERS, '&f_number=4')
  const wind = { wind: 'fresh', spoils_per_h: null } as never
  await hand.planWith(wind)
  expect(router.currentRoute.value.query).toMatchObject({ f_number: '4', wind_level: 'fresh' })
  await undoable.value?.undo?.()
  expect(router.currentRoute.value.query).toMatchObject({ f_number: '4' })
  expect(router.currentRoute.value.query['wind_level']).toBeUndefined()
  await hand.planWith({ wind: null, spoils_per_h: 2.5 } as never)
  expect(router.currentRoute.value.query).toMatchObject({ spoils_per_h: '2.5' })
})
