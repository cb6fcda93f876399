/** The night worked out: asked again whenever context or choices change, the last answer staying until the next is there. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useNow } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'

import { answer, api, Refusal, type Asked, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'

export type Tonight = Schemas['TonightOut']
export type Verdict = Schemas['Verdict']
export type Working = Schemas['Working']
export type Quantity = Schemas['Quantity']

const TICK_MS = 20_000

export function useTonight() {
  const { context, choices } = useContext()
  const asked = computed(() => (context.value ? { ...context.value, choices: choices.value as Choices } : null))
  const queries = useQueryClient()
  const work = () => answer(api.GET('/api/tonight', { params: { query: asked.value as Asked<'/api/tonight'> } }))
  const { data, dataUpdatedAt, error, isFetching, refetch } = useQuery({
    queryKey: ['tonight', asked],
    queryFn: work,
    // While the server or the forecast is away, ask again; both come back by themselves.
    refetchInterval: (query) => {
      if (query.state.error instanceof Refusal && query.state.error.status === 0) return 5_000
      const weather = query.state.data?.weather.state
      if (weather === 'asked') return 1_500
      return weather === 'missing' || weather === 'stale' ? 8_000 : false
    },
    enabled: computed(() => asked.value !== null),
  })
  // A refusal leaves the last good answer on the page, so that one sees what one is changing.
  const last = shallowRef<Tonight>()
  let answeredAt = 0
  watch(
    data,
    (now) => {
      if (!now) return
      last.value = now
      answeredAt = dataUpdatedAt.value
    },
    { immediate: true },
  )
  const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
  /** Wait for the answer to what the address asks now; true when nothing is refused. */
  async function settled() {
    if (asked.value === null) return true // nothing to be worked out yet: nothing can be refused
    return queries.fetchQuery({ queryKey: ['tonight', asked.value], queryFn: work, staleTime: 30_000 }).then(
      () => true,
      () => false,
    )
  }
  /** The server's clock goes on between two answers, also where the last one was kept for want of a connection. */
  const ticking = useNow({ interval: TICK_MS })
  const now = computed(() =>
    last.value
      ? new Date(Date.parse(last.value.now) + Math.max(0, ticking.value.getTime() - answeredAt)).toISOString()
      : '',
  )
  return { tonight: last, now, refusal, isFetching, refetch, settled }
}
