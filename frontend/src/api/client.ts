/** The one way to the server: typed calls, the cross-site token, and refusals as one kind of error. */
import createClient from 'openapi-fetch'
import { ref } from 'vue'

import type { components, paths } from './schema'

export type Schemas = components['schemas']
/** What a GET is asked with. */
export type Asked<Path extends keyof paths> = paths[Path] extends { get: { parameters: { query: infer Query } } }
  ? Query
  : never
export type Fault = Schemas['FaultOut']
export type Faults = Record<string, string>

/** The messages of each field, one after the other. */
export function byField(list: readonly Fault[]): Faults {
  const by: Faults = {}
  for (const { field, message } of list) by[field] = by[field] ? `${by[field]} ${message}` : message
  return by
}

/** The server said no; `faults` holds a message for each field path. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly list: Fault[],
    /** Of a record that was changed meanwhile: as it stands now. */
    readonly theirs: Record<string, unknown> | null = null,
  ) {
    super(list.map((fault) => fault.message).join(' '))
  }

  get faults(): Faults {
    return byField(this.list)
  }
}

function cookie(name: string): string {
  const found = document.cookie.split('; ').find((part) => part.startsWith(`${name}=`))
  return found ? decodeURIComponent(found.slice(name.length + 1)) : ''
}

const MOST_TRIES = 4
/** A server that has more to do than it can says when to come back, and has done nothing yet: ask again then, a little apart. */
export async function patient(request: Request): Promise<Response> {
  for (let tries = 1; ; tries += 1) {
    const response = await fetch(request.clone())
    const wait = Number(response.headers.get('Retry-After'))
    if (response.status !== 503 || !wait || tries === MOST_TRIES) return response
    await new Promise((done) => setTimeout(done, 1000 * wait * (1 + Math.random() / 2)))
    request.signal.throwIfAborted()
  }
}

export const api = createClient<paths>({
  baseUrl: '/',
  fetch: patient,
  querySerializer: { object: { style: 'form', explode: true } },
})
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRFToken', cookie('csrftoken'))
    return request
  },
})

/** Whether the last call came back from the server at all. */
export const reached = ref(true)
/** Told once a call finds that nobody is signed in any more. */
export const signedOut = ref(0)

const UNREACHED =
  'The server cannot be reached. What was answered before is still there; the rest comes by itself when the server does.'

/** Await a call and hand back its data, or throw a Refusal that a person can read. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let done
  try {
    done = await call
    reached.value = true
  } catch {
    reached.value = false
    throw new Refusal(0, [{ field: '', value: null, message: UNREACHED }])
  }
  if (done.response.ok) return done.data as T
  if (done.response.status === 401) signedOut.value += 1
  const told = done.error as { faults?: Fault[]; theirs?: Record<string, unknown> } | undefined
  const fallback = `The server failed (${done.response.status}). Nothing was changed; try once more, then look at var/log/web.log.`
  throw new Refusal(
    done.response.status,
    told?.faults ?? [{ field: '', value: null, message: fallback }],
    told?.theirs ?? null,
  )
}
