/** Rigs, places, targets and plans: read, add, change, delete, bring back. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, api, type Schemas } from '@/api/client'

import { offerUndo } from './useUndo'

export type Rig = Schemas['RigOut']
export type RigIn = Schemas['RigIn']
export type Place = Schemas['PlaceOut']
export type PlaceIn = Schemas['PlaceIn']
export type Target = Schemas['TargetOut']
export type TargetIn = Schemas['TargetIn']
export type Plan = Schemas['PlanOut']
export type PlanIn = Schemas['PlanIn']

const page = { params: { query: { limit: 200, offset: 0 } } }

export const useRigs = () => useQuery({ queryKey: ['rigs'], queryFn: () => answer(api.GET('/api/rigs', page)) })
export const usePlaces = () => useQuery({ queryKey: ['places'], queryFn: () => answer(api.GET('/api/places', page)) })
export const useTargets = () => useQuery({ queryKey: ['targets'], queryFn: () => answer(api.GET('/api/targets', page)) })
export const useTimeZones = () =>
  useQuery({ queryKey: ['zones'], queryFn: () => answer(api.GET('/api/places/time-zones')), staleTime: Infinity })

/** What can be done to one kind of record; after each, all that depends on it is asked for again. */
function useKeeping<In, Out extends { id: number }>(
  word: string,
  calls: {
    add: (body: In) => Promise<Out>
    change: (id: number, body: In) => Promise<Out>
    remove: (id: number) => Promise<unknown>
    restore: (id: number) => Promise<unknown>
  },
) {
  const queries = useQueryClient()
  const refresh = () => queries.invalidateQueries()
  async function keep(id: number | null, body: In): Promise<Out> {
    const kept = await (id === null ? calls.add(body) : calls.change(id, body))
    await refresh()
    return kept
  }
  async function remove(record: { id: number; name: string }) {
    await calls.remove(record.id)
    await refresh()
    offerUndo(`Deleted the ${word} “${record.name}”.`, async () => {
      await calls.restore(record.id)
      await refresh()
    })
  }
  return { keep, remove }
}

export const useKeepRig = () =>
  useKeeping<RigIn, Rig>('rig', {
    add: (body) => answer(api.POST('/api/rigs', { body })),
    change: (id, body) => answer(api.PUT('/api/rigs/{rig_id}', { params: { path: { rig_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/rigs/{rig_id}', { params: { path: { rig_id: id } } })),
    restore: (id) => answer(api.POST('/api/rigs/{rig_id}/restore', { params: { path: { rig_id: id } } })),
  })

export const useKeepPlace = () =>
  useKeeping<PlaceIn, Place>('place', {
    add: (body) => answer(api.POST('/api/places', { body })),
    change: (id, body) => answer(api.PUT('/api/places/{place_id}', { params: { path: { place_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/places/{place_id}', { params: { path: { place_id: id } } })),
    restore: (id) => answer(api.POST('/api/places/{place_id}/restore', { params: { path: { place_id: id } } })),
  })

export const useKeepTarget = () =>
  useKeeping<TargetIn, Target>('target', {
    add: (body) => answer(api.POST('/api/targets', { body })),
    change: (id, body) => answer(api.PUT('/api/targets/{target_id}', { params: { path: { target_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/targets/{target_id}', { params: { path: { target_id: id } } })),
    restore: (id) => answer(api.POST('/api/targets/{target_id}/restore', { params: { path: { target_id: id } } })),
  })

export const useKeepPlan = () =>
  useKeeping<PlanIn, Plan>('plan', {
    add: (body) => answer(api.POST('/api/plans', { body })),
    change: (id, body) => answer(api.PUT('/api/plans/{plan_id}', { params: { path: { plan_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/plans/{plan_id}', { params: { path: { plan_id: id } } })),
    restore: (id) => answer(api.POST('/api/plans/{plan_id}/restore', { params: { path: { plan_id: id } } })),
  })
