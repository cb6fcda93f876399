// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { afterEach, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'

import { Refusal } from '@/api/client'
import { undoable } from '@/composables/useUndo'

import FilesSheet from './FilesSheet.vue'
import WeatherNote from './WeatherNote.vue'

const settled = async () => {
  for (let turn = 0; turn < 6; turn += 1) await nextTick()
}
const usual = {
  open: true,
  title: 'Places: files',
  noun: 'places',
  accept: '.gpx',
  outHint: 'out',
  inHint: 'in',
  out: [],
  remove: vi.fn(async () => undefined),
  changed: vi.fn(async () => undefined),
}
async function bring(take: (file: File) => Promise<{ added: { id: number; name: string }[]; there: number }>) {
  mount(FilesSheet, { props: { ...usual, take }, attachTo: document.body })
  await settled()
  const input = document.querySelector<HTMLInputElement>('input[type=file]')
  Object.defineProperty(input, 'files', { value: [new File(['<gpx/>'], 'a.gpx')], configurable: true })
  input?.dispatchEvent(new Event('change'))
  await settled()
}
afterEach(() => {
  document.body.innerHTML = ''
  undoable.value = null
})

it('says what came, and takes all of it back', async () => {
  await bring(async () => ({
    added: [
      { id: 4, name: 'Hill' },
      { id: 5, name: 'Pan' },
    ],
    there: 1,
  }))
  expect(document.body.textContent).toContain('Added: Hill, Pan. 1 were here already.')
  await undoable.value?.undo?.()
  expect(usual.remove.mock.calls).toEqual([[4], [5]])
})

it('says by row what is wrong, and that nothing was taken', async () => {
  await bring(async () => {
    throw new Refusal(422, [
      { field: 'waypoint 1', value: '116', message: 'Are they swapped?' },
      { field: 'file', value: null, message: 'No waypoint.' },
    ])
  })
  expect(document.body.textContent).toContain('Nothing was imported.')
  expect([...document.querySelectorAll('li')].map((row) => row.textContent)).toEqual([
    'waypoint 1: Are they swapped?',
    'No waypoint.',
  ])
  expect(undoable.value).toBeNull()
})

it('says who tells the weather and since when, and what is missing or old of it', () => {
  const weather = {
    state: 'fresh' as const, reaches: true, typed: false, fetched_at: null, source: '', issued: '', missing: [], words: '',
  } // prettier-ignore
  const text = (more: object) => mount(WeatherNote, { props: { weather: { ...weather, ...more } } }).text()
  expect(text({})).toBe('')
  expect(
    text({ source: 'Stand-in, invented weather', issued: '8 Dec 2026, 18:00 UTC', missing: ['wind_speed_of_gust'] }),
  ).toBe('Weather by Stand-in, invented weather, issued 8 Dec 2026, 18:00 UTC. Not told: wind speed of gust.')
  expect(text({ state: 'missing', words: 'The service cannot be reached.' })).toBe(
    'Weather missing. The service cannot be reached.',
  )
  expect(text({ state: 'stale', words: 'It is 3 h old.', typed: true })).toBe(
    'Old forecast. Your own figures under “How” stand in.',
  )
})
