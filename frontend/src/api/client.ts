/** The one way to the server: typed calls, the cross-site token, and refusals as one kind of error. */
import createClient from 'openapi-fetch'

import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Fault = Schemas['FaultOut']
export type Faults = Record<string, string>

/** The server said no; `faults` holds a message for each field path. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly list: Fault[],
  ) {
    super(list.map((fault) => fault.message).join(' '))
  }

  get faults(): Faults {
    return Object.fromEntries(this.list.map((fault) => [fault.field, fault.message]))
  }
}

function cookie(name: string): string {
  const found = document.cookie.split('; ').find((part) => part.startsWith(`${name}=`))
  return found ? decodeURIComponent(found.slice(name.length + 1)) : ''
}

export const api = createClient<paths>({ baseUrl: '/' })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    return request
  },
})

const UNREACHED = 'The server cannot be reached. What you see is the last answer; it comes back by itself when the server does.'

/** Await a call and hand back its data, or throw a Refusal that a person can read. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let done
  try {
    done = await call
  } catch {
    throw new Refusal(0, [{ field: '', value: null, message: UNREACHED }])
  }
  if (done.response.ok) return done.data as T
  const told = done.error as { faults?: Fault[] } | undefined
  const fallback = `The server failed (${done.response.status}). Nothing was changed; try once more, then look at var/log/web.log.`
  throw new Refusal(done.response.status, told?.faults ?? [{ field: '', value: null, message: fallback }])
}
