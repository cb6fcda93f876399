import { describe, expect, it, vi } from 'vitest'

import { answer, patient, Refusal } from './client'

const call = (status: number, body: { data?: unknown; error?: unknown }) =>
  Promise.resolve({ ...body, response: new Response(null, { status }) })

async function refusalOf(promise: Promise<unknown>): Promise<Refusal> {
  const caught = await promise.catch((error: unknown) => error)
  expect(caught).toBeInstanceOf(Refusal)
  return caught as Refusal
}

describe('an answer of the server', () => {
  it('is handed on when all is well', async () => {
    expect(await answer(call(200, { data: { frames: 3 } }))).toEqual({ frames: 3 })
  })

  it('becomes a refusal with a message for each field', async () => {
    const faults = [
      { field: 'lens.focal_mm', value: 0, message: '0 mm cannot be right.' },
      { field: 'name', value: '', message: 'A name is needed.' },
    ]
    const refusal = await refusalOf(answer(call(422, { error: { faults } })))
    expect(refusal.status).toBe(422)
    expect(refusal.faults).toEqual({ 'lens.focal_mm': '0 mm cannot be right.', name: 'A name is needed.' })
    expect(refusal.message).toContain('A name is needed.')
  })

  it('never shows a stack trace: a failing server is told in a sentence', async () => {
    const refusal = await refusalOf(answer(call(500, { error: '<html>Traceback</html>' })))
    expect(refusal.message).toContain('The server failed (500)')
    expect(refusal.message).not.toContain('Traceback')
  })

  it('tells an unreachable server apart, by status 0', async () => {
    const refusal = await refusalOf(answer(Promise.reject(new TypeError('fetch failed'))))
    expect(refusal.status).toBe(0)
    expect(refusal.message).toContain('cannot be reached')
  })
})

it('asks a busy server again when it says when, and gives up after a few times', async () => {
  vi.useFakeTimers()
  const busy = () => new Response('{}', { status: 503, headers: { 'Retry-After': '2' } })
  const answers = [busy(), busy(), new Response('{"frames":3}')]
  const asked = vi.spyOn(globalThis, 'fetch').mockImplementation(async (request) => {
    expect(await (request as Request).text()).toBe('{"name":"Vela"}')
    return answers.shift() ?? busy()
  })
  const request = () => new Request('http://h/api/targets', { method: 'POST', body: '{"name":"Vela"}' })
  const first = patient(request())
  await vi.advanceTimersByTimeAsync(10_000)
  expect((await first).status).toBe(200)
  const second = patient(request())
  await vi.advanceTimersByTimeAsync(30_000)
  expect((await second).status).toBe(503)
  expect(asked).toHaveBeenCalledTimes(3 + 4)
  vi.restoreAllMocks()
  vi.useRealTimers()
})
