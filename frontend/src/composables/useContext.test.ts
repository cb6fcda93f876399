// @vitest-environment jsdom
import { mount } from '@vue/test-utils'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { defineComponent } from 'vue'

import { api } from '@/api/client'

import { useContext } from './useContext'

const START = { rig: 7, spot: 8, night: '2026-12-08', target: 9, plan: 3, choices: { moon_limit_mag: 0.3 } }
const page = defineComponent({ setup: () => useContext(), template: '<div />' })

/** What a template sees of the composable: refs without their value. */
interface Unwrapped {
  context: { rig: number } | null
  choices: Record<string, unknown>
  change: (part: object) => Promise<unknown>
  choose: (next: object) => Promise<unknown>
  shiftNight: (days: number) => void
  begin: () => Promise<void>
}

async function at(path: string) {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [
      { path: '/tonight', component: page },
      { path: '/bench', component: slow },
    ],
  })
  await router.push(path)
  const context = mount(page, { global: { plugins: [router] } }).vm as unknown as Unwrapped
  return { router, context }
}
const slow = () => new Promise<typeof page>((done) => setTimeout(() => done(page), 60))

/** The server's word on where to begin. */
function serve(body: object) {
  vi.spyOn(api, 'GET').mockResolvedValue({ data: body, response: new Response() } as never)
}
afterEach(() => vi.restoreAllMocks())

describe('the context in the address', () => {
  it('is whole or not there', async () => {
    expect((await at('/tonight?rig=1&spot=2&night=2026-12-08')).context.context).toBeNull()
    expect((await at('/tonight?rig=1&spot=x&night=2026-12-08&target=4')).context.context).toBeNull()
    const { context } = await at('/tonight?rig=1&spot=2&night=2026-12-08&target=4')
    expect(context.context).toEqual({ rig: 1, spot: 2, night: '2026-12-08', target: 4 })
  })

  it('changes in part and keeps the rest, choices too', async () => {
    const { router, context } = await at('/tonight?rig=1&spot=2&night=2026-12-31&target=4&f_number=4')
    await context.change({ target: 5 })
    expect(router.currentRoute.value.query).toEqual({
      rig: '1',
      spot: '2',
      night: '2026-12-31',
      target: '5',
      f_number: '4',
    })
    context.shiftNight(1)
    await vi.waitFor(() => expect(router.currentRoute.value.query.night).toBe('2027-01-01'))
  })

  it('replaces choices as a whole and leaves the context and the plan', async () => {
    const { router, context } = await at('/tonight?rig=1&spot=2&night=2026-12-08&target=4&plan=6&f_number=4&iso=800')
    await context.choose({ gap_s: 5, f_number: null })
    expect(router.currentRoute.value.query).toEqual({
      rig: '1',
      spot: '2',
      night: '2026-12-08',
      target: '4',
      plan: '6',
      gap_s: '5',
    })
  })

  it('begins with the next plan and its choices when nothing is chosen', async () => {
    serve(START)
    const { router, context } = await at('/tonight')
    await context.begin()
    expect(router.currentRoute.value.query).toEqual({
      rig: '7',
      spot: '8',
      night: '2026-12-08',
      target: '9',
      plan: '3',
      moon_limit_mag: '0.3',
    })
  })

  it('begins with the night alone for somebody who has entered nothing yet', async () => {
    serve({ rig: null, spot: null, night: '2026-11-23', target: null })
    const { router, context } = await at('/tonight')
    await context.begin()
    expect(router.currentRoute.value.query).toEqual({ night: '2026-11-23' })
  })

  it('calls nobody back who is on the way to another page', async () => {
    serve({ ...START, rig: 3, spot: null })
    const { router, context } = await at('/tonight')
    const beginning = context.begin()
    const way = router.push('/bench?rig=3') // its page is still to come when the server answers
    await Promise.all([beginning, way])
    expect(router.currentRoute.value.path).toBe('/bench')
    expect(router.currentRoute.value.query).toEqual({ rig: '3', night: '2026-12-08', target: '9' })
  })

  it('only fills in what is missing when something is chosen, and takes up no plan', async () => {
    serve(START)
    const { router, context } = await at('/tonight?target=4')
    await context.begin()
    expect(router.currentRoute.value.query).toEqual({ rig: '7', spot: '8', night: '2026-12-08', target: '4' })
  })

  it('carries the framing with its target, and drops it with the target', async () => {
    const { router, context } = await at('/tonight?rig=1&spot=2&night=2026-12-08&target=4&framing=6')
    expect(context.context).toEqual({ rig: 1, spot: 2, night: '2026-12-08', target: 4, framing: 6 })
    await context.change({ rig: 7 })
    expect(router.currentRoute.value.query).toMatchObject({ rig: '7', target: '4', framing: '6' })
    await context.choose({ gap_s: 5 })
    expect(router.currentRoute.value.query).toMatchObject({ framing: '6', gap_s: '5' })
    await context.change({ target: 5 })
    expect(router.currentRoute.value.query.framing).toBeUndefined()
    await context.change({ target: 4, framing: 9 })
    expect(router.currentRoute.value.query).toMatchObject({ target: '4', framing: '9' })
    await context.change({ framing: null })
    expect(router.currentRoute.value.query.framing).toBeUndefined()
  })

  it('takes up the framing of the plan it begins with, and of no plan it does not', async () => {
    serve({ ...START, framing: 12 })
    const fresh = await at('/tonight')
    await fresh.context.begin()
    expect(fresh.router.currentRoute.value.query.framing).toBe('12')
    const other = await at('/tonight?target=4')
    await other.context.begin()
    expect(other.router.currentRoute.value.query.framing).toBeUndefined()
  })
})
