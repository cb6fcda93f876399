/** Planning that takes longer than a page may wait: it is asked for, followed, and what came out stays with its trip or night. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, watch, type Ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { useRefresh } from './useRefresh'

const POLL_MS = 700
const going = (work: Schemas['WorkOut'] | null | undefined) => ['waiting', 'running'].includes(work?.state ?? '')

/** The nights of a trip planned as one. */
export function useTripPlan(trip: Ref<number | null>) {
  const queries = useQueryClient()
  const refresh = useRefresh()
  const key = ['trip', 'plan', trip]
  const path = () => ({ params: { path: { record_id: trip.value ?? 0 } } })
  const { data } = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET('/api/trips/{record_id}/plan', path())),
    enabled: computed(() => trip.value !== null),
    refetchInterval: (query) => (going(query.state.data?.work) ? POLL_MS : false),
  })
  const told = (found: Schemas['TripPlanOut']) => queries.setQueryData(['trip', 'plan', trip.value], found)
  return {
    found: data,
    begin: async (body: Schemas['TripAskedShape']) =>
      void told(await answer(api.POST('/api/trips/{record_id}/plan', { ...path(), body }))),
    cancel: async () => void told(await answer(api.POST('/api/trips/{record_id}/plan/cancel', path()))),
    async keep() {
      const { nights } = await answer(api.POST('/api/trips/{record_id}/plan/keep', path()))
      await refresh()
      return nights
    },
  }
}

/** What if a kept night goes another way. */
export function useWhatIfs(where: Ref<Schemas['NightQuery'] | null>, kept: Ref<boolean>) {
  const queries = useQueryClient()
  const { data } = useQuery({
    queryKey: ['what ifs', where],
    queryFn: () =>
      answer(
        api.GET('/api/nights/whole/what-ifs', { params: { query: where.value as NonNullable<typeof where.value> } }),
      ),
    enabled: computed(() => where.value !== null && kept.value),
    refetchInterval: (query) => (going(query.state.data?.work) ? POLL_MS : false),
  })
  watch(kept, () => void queries.invalidateQueries({ queryKey: ['what ifs'] }))
  const told = (found: Schemas['WhatIfsOut']) => queries.setQueryData(['what ifs', where.value], found)
  return {
    found: data,
    async begin(otherwise: Schemas['OtherwiseShape']) {
      if (where.value)
        told(await answer(api.POST('/api/nights/whole/what-ifs', { body: { ...where.value, ...otherwise } })))
    },
    async cancel() {
      if (where.value) told(await answer(api.POST('/api/nights/whole/what-ifs/cancel', { body: where.value })))
    },
  }
}
