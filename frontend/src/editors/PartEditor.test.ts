// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'

import { api, type Schemas } from '@/api/client'
import type { Part } from '@/composables/useRecords'

import PartEditor from './PartEditor.vue'

const field = (name: string, label: string, more: Partial<Schemas['FieldOut']> = {}): Schemas['FieldOut'] => ({
  name,
  label,
  sort: 'number',
  unit: '',
  hint: '',
  options: [],
  needed: true,
  default: '',
  rows: [],
  ...more,
})
const named = [field('name', 'Name', { sort: 'text' }), field('mass_g', 'Mass', { unit: 'lb' })]
const KINDS = {
  kinds: [
    { kind: 'shaft', carried: true, fields: [...named, field('length_mm', 'Length', { unit: 'in' })] },
    {
      kind: 'filter',
      carried: true,
      fields: [
        ...named,
        field('loss_stops', 'Loss', { default: '0.3', needed: false }),
        field('bands', 'Pass bands', {
          sort: 'rows',
          needed: false,
          rows: [field('low_nm', 'From'), field('high_nm', 'to')],
        }),
      ],
    },
  ],
}
const SHAFT: Part = {
  id: 3,
  kind: 'shaft',
  name: 'Rod',
  mass: '6.3 oz',
  values: { name: 'Rod', mass_g: 180, length_mm: 210 },
  texts: { mass_g: '6.35 oz', length_mm: '8.268' },
  origins: {},
  version: 1,
  used_by: ['Heron'],
  archived: false,
}
let kept: unknown[] = []

beforeEach(() => {
  kept = []
  vi.spyOn(api, 'GET').mockResolvedValue({ data: KINDS, response: new Response() } as never)
  const keep = ((_: string, asked: { body: unknown }) => {
    kept.push(asked.body)
    return Promise.resolve({ data: { ...SHAFT }, response: new Response() })
  }) as never
  vi.spyOn(api, 'POST').mockImplementation(keep)
  vi.spyOn(api, 'PUT').mockImplementation(keep)
})
afterEach(() => {
  vi.restoreAllMocks()
  document.body.innerHTML = ''
})

async function editor(record: Part | null, begin = 'shaft') {
  mount(PartEditor, {
    props: { open: true, record, begin },
    attachTo: document.body,
    global: { plugins: [[VueQueryPlugin, { queryClient: new QueryClient() }]] },
  })
  await flushPromises()
  await new Promise((done) => setTimeout(done, 50))
  const input = (label: string) => {
    const found = [...document.querySelectorAll('label')].find((one) => one.textContent?.startsWith(label))
    return document.getElementById(found?.getAttribute('for') ?? '') as HTMLInputElement
  }
  const type = async (label: string, text: string) => {
    input(label).value = text
    input(label).dispatchEvent(new Event('input'))
    await flushPromises()
  }
  const save = async () => {
    document.querySelector('form')?.dispatchEvent(new Event('submit', { cancelable: true }))
    await flushPromises()
  }
  return { input, type, save }
}

it('shows masses and lengths as the person writes them, and sends back untouched what was not changed', async () => {
  const { input, type, save } = await editor(SHAFT)
  expect([input('Mass').value, input('Length').value]).toEqual(['6.35 oz', '8.268'])
  expect(document.body.textContent).toContain('In Heron: a change reaches these rigs')
  await type('Length', '10 in')
  await save()
  expect(kept).toEqual([{ kind: 'shaft', values: { name: 'Rod', mass_g: 180, length_mm: '10 in' }, version: 1 }])
})

it('leaves out what is empty, so that the default holds', async () => {
  const { input, type, save } = await editor(null, 'filter')
  expect(input('Loss').placeholder).toBe('0.3')
  await type('Name', 'Two lines')
  await type('Mass', '1 oz')
  await save()
  expect(kept).toEqual([{ kind: 'filter', values: { name: 'Two lines', mass_g: '1 oz' } }])
})

it('adds rows and sends them as numbers', async () => {
  const { type, save } = await editor(null, 'filter')
  await type('Name', 'One line')
  await type('Mass', '1 oz')
  const add = [...document.querySelectorAll('button')].find((one) => one.textContent?.includes('Add a row'))
  add?.click()
  await flushPromises()
  await type('From', '651')
  await type('to', '661')
  await save()
  expect(kept).toEqual([
    { kind: 'filter', values: { name: 'One line', mass_g: '1 oz', bands: [{ low_nm: 651, high_nm: 661 }] } },
  ])
})
