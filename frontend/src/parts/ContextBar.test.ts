// @vitest-environment jsdom
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'

import { api } from '@/api/client'

import ContextBar from './ContextBar.vue'

const LISTS: Record<string, object[]> = {
  '/api/rigs': [
    { id: 1, name: 'Heron' },
    { id: 2, name: 'Sparrow' },
  ],
  '/api/places': [
    { id: 5, name: 'Mire', spots: [{ id: 11, name: 'by the hut' }] },
    {
      id: 6,
      name: 'Pan',
      spots: [
        { id: 12, name: 'north' },
        { id: 13, name: 'south' },
      ],
    },
  ],
  '/api/targets': [
    { id: 3, name: 'Wisp' },
    { id: 4, name: 'Keel' },
  ],
  '/api/framings': [
    { id: 8, target_id: 3, name: 'Wisp and all' },
    { id: 9, target_id: 3, name: 'Wisp alone' },
  ],
}
beforeEach(() => {
  vi.spyOn(api, 'GET').mockImplementation(((path: string) =>
    Promise.resolve({
      data: { items: LISTS[path] ?? [], count: LISTS[path]?.length ?? 0 },
      response: new Response(),
    })) as never)
})
afterEach(() => vi.restoreAllMocks())

async function bar(query: string) {
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/tonight', component: {} }] })
  await router.push(`/tonight?${query}`)
  const page = mount(ContextBar, {
    props: { nightFault: '', changedChoices: 2 },
    global: { plugins: [router, [VueQueryPlugin, { queryClient: new QueryClient() }]] },
  })
  await flushPromises()
  const pick = async (id: string, label: string) => {
    const box = page.get<HTMLSelectElement>(`#${id}`)
    const at = [...box.element.querySelectorAll('option')].find((one) => one.text.includes(label))
    await box.setValue(at?.value)
    await flushPromises()
  }
  return { page, pick, query: () => router.currentRoute.value.query }
}
const WHOLE = 'rig=1&spot=11&night=2026-12-08&target=4'

it('brings the framing that was kept with the target that is chosen', async () => {
  const { page, pick, query } = await bar(WHOLE)
  expect(page.find('#context-framing').exists()).toBe(false) // none was kept of this one
  await pick('context-target', 'Wisp')
  expect(query()).toMatchObject({ target: '3', framing: '8' })
  const offered = page.findAll('#context-framing option').map((one) => one.text())
  expect(offered).toEqual(['its own middle', 'Wisp and all', 'Wisp alone'])
  await pick('context-framing', 'Wisp alone')
  expect(query()).toMatchObject({ target: '3', framing: '9', rig: '1' })
  await pick('context-framing', 'its own middle')
  expect(query().framing).toBeUndefined()
  await pick('context-target', 'Keel')
  expect(query()).toMatchObject({ target: '4' })
  expect(query().framing).toBeUndefined()
})

it('keeps the framing while rig, place and night change', async () => {
  const { page, pick, query } = await bar('rig=1&spot=11&night=2026-12-08&target=3&framing=9')
  await pick('context-rig', 'Sparrow')
  await pick('context-spot', 'Pan, south')
  await page.get('[aria-label="Night after"]').trigger('click')
  await flushPromises()
  expect(query()).toEqual({ rig: '2', spot: '13', night: '2026-12-09', target: '3', framing: '9' })
})

it('takes a date in any spelling, and hands on what is none as it was typed, for the server to name', async () => {
  const { page, query } = await bar(WHOLE)
  const date = page.get<HTMLInputElement>('#context-night')
  await date.setValue('24 december 2026')
  await date.trigger('keydown', { key: 'Enter' })
  await flushPromises()
  expect(query().night).toBe('2026-12-24')
  await date.setValue('the day after')
  await date.trigger('blur')
  await flushPromises()
  expect(query().night).toBe('the day after')
  expect(date.element.value).toBe('the day after')
})

it('says on one line what is chosen, asks for what is to be edited, and counts the choices', async () => {
  const { page } = await bar(WHOLE)
  expect(page.get('.summary').text()).toContain('Heron · Mire, by the hut · ')
  expect(page.get('.summary').text()).toContain('Keel')
  await page.get('[aria-label="Change this place"]').trigger('click')
  await page.get('[aria-label="New target"]').trigger('click')
  expect(page.emitted('edit')).toEqual([
    ['place', 5],
    ['target', null],
  ])
  expect(page.get('.how').text()).toBe('How2')
})
