/** What was answered is kept in this browser, so that a page opened anew shows it at once, and while the server is away at all. */
import { createAsyncStoragePersister } from '@tanstack/query-async-storage-persister'
import { persistQueryClient } from '@tanstack/query-persist-client-core'
import type { QueryClient } from '@tanstack/vue-query'
import { clear, createStore, del, get, set } from 'idb-keyval'

export const KEPT_MS = 3 * 86_400_000
const WAIT_MS = 400
const store = typeof indexedDB === 'undefined' ? null : createStore('wide-dusk', 'answers')

/** Take up what is kept; resolves soon, whatever the browser allows. */
export async function takeUp(queries: QueryClient): Promise<void> {
  if (!store) return
  const persister = createAsyncStoragePersister({
    storage: {
      getItem: (key: string) => get<string>(key, store).then((found) => found ?? null),
      setItem: (key: string, value: string) => set(key, value, store),
      removeItem: (key: string) => del(key, store),
    },
    throttleTime: 2_000,
  })
  const [, restored] = persistQueryClient({
    queryClient: queries,
    persister,
    maxAge: KEPT_MS,
    // Thousands of stars would be written anew with every answer; they are asked for again.
    dehydrateOptions: { shouldDehydrateQuery: (one) => one.state.status === 'success' && one.queryKey[0] !== 'sky' },
  })
  // Old answers are shown at once and asked for again at once.
  const stale = restored.then(() => queries.invalidateQueries({ refetchType: 'none' })).catch(() => undefined)
  await Promise.race([stale, new Promise((done) => setTimeout(done, WAIT_MS))])
}

/** Nothing is left of whoever was here. */
export const forgetAnswers = () => (store ? clear(store).catch(() => undefined) : Promise.resolve())
