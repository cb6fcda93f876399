/** A component on a page as the application has it: an address that chooses, answers by path, and what was asked. */
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { afterEach, beforeEach, vi } from 'vitest'
import { createMemoryHistory, createRouter, type Router } from 'vue-router'
import type { Component } from 'vue'

import { api } from '@/api/client'
import { undoable } from '@/composables/useUndo'

export const CHOSEN = 'rig=1&spot=2&night=2026-12-08&target=3'

export interface Call {
  method: string
  path: string
  body: Record<string, unknown>
  query: Record<string, unknown>
  id: unknown
}
type Answer = (call: Call) => unknown

/** A verdict with nothing to say but its sentence. */
export const verdict = (topic: string, sentence = '') => ({
  ...{ topic, sentence, level: 'go' as const, binding: '', advice: '', caution: '' },
  ...{ figures: [], limits: [], workings: [] },
})
export const refused = (field: string, message: string, status = 422) => ({
  refused: { status, faults: [{ field, value: null, message }] },
})

/** Answers by method and path; a list has nothing in it where none is given. Calls are noted down in their order. */
export function useAnswers(answers: () => Record<string, Answer | object>) {
  const calls: Call[] = []
  let given: Record<string, Answer | object> = {}
  beforeEach(() => {
    calls.length = 0
    given = answers()
    // A wide screen: jsdom has none.
    const wide = {
      matches: false,
      addListener: () => {},
      removeListener: () => {},
      addEventListener: () => {},
      removeEventListener: () => {},
    }
    vi.stubGlobal('matchMedia', () => wide)
    for (const method of ['GET', 'POST', 'PUT', 'DELETE'] as const)
      vi.spyOn(api, method).mockImplementation(((path: string, asked: Record<string, unknown> = {}) => {
        const params = (asked.params ?? {}) as { query?: Call['query']; path?: { record_id?: unknown } }
        const body = JSON.parse(JSON.stringify(asked.body ?? {})) as Call['body']
        const call = { method, path, body, query: params.query ?? {}, id: params.path?.record_id }
        calls.push(call)
        const answer = given[`${method} ${path}`]
        const data = typeof answer === 'function' ? (answer as Answer)(call) : (answer ?? { items: [], count: 0 })
        const no = (data as ReturnType<typeof refused>).refused
        return Promise.resolve(
          no
            ? { error: { faults: no.faults }, response: new Response(null, { status: no.status }) }
            : { data, response: new Response() },
        )
      }) as never)
  })
  afterEach(() => {
    vi.restoreAllMocks()
    vi.unstubAllGlobals()
    document.body.innerHTML = ''
    undoable.value = null
  })
  return {
    calls,
    sent: (method: string, path: string) => calls.filter((one) => one.method === method && one.path === path),
  }
}

/** Until what is put off for a moment was asked and answered. */
export async function settled(turns = 5) {
  for (let turn = 0; turn < turns; turn += 1) {
    await flushPromises()
    await new Promise((done) => setTimeout(done, 40))
  }
  await flushPromises()
}

function byLabel(label: string): HTMLElement {
  const found = [...document.querySelectorAll('label')].find((one) => one.textContent?.trim().startsWith(label))
  const input = document.getElementById(found?.getAttribute('for') ?? '')
  if (!input) throw new Error(`no field “${label}”`)
  return input
}

export const value = (label: string) => (byLabel(label) as HTMLInputElement).value

export async function type(label: string, text: string) {
  const input = byLabel(label) as HTMLInputElement
  input.value = text
  input.dispatchEvent(new Event(input.tagName === 'SELECT' ? 'change' : 'input'))
  await flushPromises()
}

export const offered = (label: string) =>
  [...(byLabel(label) as HTMLSelectElement).options].map((one) => one.text.trim())

/** Pick from a list by a part of what it offers. */
export async function choose(label: string, words: string) {
  await type(
    label,
    (byLabel(label) as HTMLSelectElement).options[offered(label).findIndex((one) => one.includes(words))]?.value ?? '',
  )
}

/** Press a button by what it says, or by its label where it is a mere sign. */
export async function press(name: string) {
  const found = [...document.querySelectorAll('button')].find(
    (one) => one.textContent?.trim() === name || one.getAttribute('aria-label') === name,
  )
  if (!found) throw new Error(`no button “${name}”`)
  found.click()
  await settled(1)
}

export const shown = () => document.body.textContent?.replace(/\s+/g, ' ') ?? ''

export async function mounted(
  part: Component,
  props: object = {},
  query = CHOSEN,
): Promise<{ page: VueWrapper; router: Router }> {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:pathMatch(.*)*', name: 'anywhere', component: {} }],
  })
  await router.push(`/anywhere?${query}`)
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const page = mount(part, {
    props: props as never,
    attachTo: document.body,
    global: { plugins: [router, [VueQueryPlugin, { queryClient }]], stubs: { RouterLink: true } },
  })
  await settled()
  return { page, router }
}
