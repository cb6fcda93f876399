// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'

import type { Measurement } from '@/composables/usePictures'

import WorkProgress from './WorkProgress.vue'

const row = (changes: Partial<Measurement>) =>
  ({
    id: 1,
    task: 'trial',
    state: 'running',
    silent: false,
    share: 0.4,
    doing: 'finding stars',
    left_s: 3.4,
    created_at: '',
    faults: [],
    pictures: [],
    axis: null,
    pointing: null,
    notes: [],
    turn_deg: null,
    stars: null,
    transfer: null,
    iso: null,
    ...changes,
  }) as Measurement
const shown = (changes: Partial<Measurement>) =>
  mount(WorkProgress, { props: { result: row(changes) }, slots: { default: '<b>what came out</b>' } })

it('tells what is being done and how long it may take, and can be cancelled', async () => {
  const view = shown({})
  expect(view.get('[role=status]').text()).toBe('finding stars about 3 s left')
  await view.get('button').trigger('click')
  expect(view.emitted('cancel')).toHaveLength(1)
  expect(view.text()).not.toContain('what came out')
})

it('says when nobody works on it, and begins again on request', async () => {
  const view = shown({ state: 'waiting', silent: true, left_s: null })
  expect(view.text()).toContain('the worker fell silent')
  expect(view.get('[role=status]').text()).toContain('Waiting for the worker')
  await view
    .findAll('button')
    .find((one) => one.text().includes('again'))
    ?.trigger('click')
  expect(view.emitted('again')).toHaveLength(1)
})

it('gives the reasons of a failure, and the result when it is done', async () => {
  const failed = shown({
    state: 'failed',
    faults: [{ field: 'picture', value: 'a.jpg', message: 'It is black: is the cap on?' }],
  })
  expect(failed.get('[role=alert]').text()).toContain('is the cap on?')
  await failed.get('button').trigger('click')
  expect(failed.emitted('again')).toHaveLength(1)
  expect(shown({ state: 'cancelled' }).text()).toContain('Cancelled.')
  expect(shown({ state: 'done', share: 1 }).text()).toBe('what came out')
})
