// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import type { Folder } from '@/composables/useFrames'

import FolderBar from './FolderBar.vue'

const counts = { waiting: 0, running: 0, done: 0, failed: 0, lights: 0, darks: 0, flats: 0, bias: 0 }
const folder = (more: object): Folder => ({
  id: 1,
  name: 'card',
  path: 'card',
  machine: '',
  night: '2026-12-08',
  rig: 1,
  watched: false,
  brought: false,
  state: 'reading',
  clock_offset_min: null,
  clock_fast_s: 0,
  other_night: null,
  counts,
  silent: false,
  left_s: null,
  troubles: [],
  unread: [],
  ...more,
})
const bar = (folders: Folder[], more = {}) =>
  mount(FolderBar, {
    props: {
      folders,
      there: [{ path: 'card', files: 3, machine: '' }],
      trouble: '',
      bringing: '',
      refused: [],
      ...more,
    },
  })
const words = (folders: Folder[], more = {}) => bar(folders, more).text().replace(/\s+/g, ' ')

it('says how far a folder is, what lies in it, and when it will be done', () => {
  const busy = folder({ counts: { ...counts, waiting: 30, running: 1, done: 9, darks: 4, bias: 2 }, left_s: 300 })
  const said = words([busy])
  expect(said).toContain('9 of 40 measured, 4 darks, 2 bias')
  expect(said).toContain('about 5 min left')
  expect(said).toContain('Pause')
  expect(words([{ ...busy, left_s: 12.2 }])).toContain('about 12 s left')
  expect(words([{ ...busy, state: 'paused' }])).toContain('pausedGo on')
})

it('offers to watch what can fill, and not what was brought', () => {
  expect(words([folder({})])).toContain('WatchTake it out')
  expect(words([folder({ brought: true })])).not.toContain('WatchTake')
  expect(words([folder({ watched: true })])).toContain('Stop watching')
})

it('tells what is wrong: nobody who measures, what could not be read, what was refused', () => {
  const ill = folder({
    silent: true,
    troubles: ['Two files have names that cannot be kept.'],
    counts: { ...counts, failed: 1 },
    unread: [{ name: 'a.jpg', why: 'it is cut short' }],
  })
  const said = words([ill], { refused: Array.from({ length: 12 }, (_, place) => `file ${place} is empty`) })
  expect(said).toContain('no worker is there to measure them')
  expect(said).toContain('Two files have names')
  expect(said).toContain('1 could not be measureda.jpg: it is cut short')
  expect(said).toContain('file 9 is empty')
  expect(said).not.toContain('file 10 is empty')
  expect(said).toContain('2 more were refused')
  expect(words([], { there: [] })).toContain('This server reads no folder yet')
})

it('says what it brings, can be stopped, and takes no more meanwhile', async () => {
  const one = bar([], { bringing: 'Bringing file 2 of 9…' })
  expect(one.text()).toContain('Bringing file 2 of 9…')
  expect(one.get<HTMLInputElement>('input[type="file"]').element.disabled).toBe(true)
  await one
    .findAll('button')
    .find((button) => button.text() === 'Stop')
    ?.trigger('click')
  expect(one.emitted('stopBringing')).toHaveLength(1)
})

it('stops what is busy, tells of a machine that is not heard, and puts a clock right', async () => {
  const far = folder({ machine: 'laptop', silent: true, counts: { ...counts, waiting: 2, done: 3, lights: 3 } })
  const one = bar([far], { there: [{ path: 'tonight', files: 5, machine: 'laptop' }] })
  expect(one.text()).toContain('on laptop')
  expect(one.text()).toContain('“laptop” is not heard')
  expect(one.text()).toContain('laptop: tonight · 5 files')
  await one
    .findAll('button')
    .find((each) => each.text() === 'Stop')
    ?.trigger('click')
  expect(one.emitted('change')).toEqual([[far, { state: 'stopped' }]])
  expect(words([{ ...far, clock_offset_min: 120, clock_fast_s: -30 }])).toContain('UTC+2 h, 30 s behind')
  await one.get('form.clock').trigger('submit')
  expect(one.emitted('setClock')).toEqual([[far, { offset_min: null, fast_s: 0 }]])
})

it('goes to the night of its frames with them, by one press', async () => {
  const old = folder({ other_night: '2025-12-31' })
  const one = bar([old])
  expect(one.text()).toMatch(/in the night of .*31 Dec/)
  await one
    .findAll('button')
    .find((each) => each.text() === 'Move them to that night')
    ?.trigger('click')
  expect(one.emitted('move')).toEqual([[old, '2025-12-31']])
})
