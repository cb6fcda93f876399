import { describe, expect, it } from 'vitest'

import { answer, Refusal } from './client'

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
