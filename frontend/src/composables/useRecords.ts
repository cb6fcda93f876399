/** Rigs, places, targets and plans: read, add, change, delete, bring back. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import { everyPage } from './pages'
import { askWhich, type Values } from './useConflict'
import { offerUndo } from './useUndo'

export type Kind = Schemas['KindOut']
export type KitField = Schemas['FieldOut']
export type Part = Schemas['PartOut']
export type PartIn = Schemas['PartIn']
export type Habits = Schemas['HabitsOut']
export type Rig = Schemas['RigOut']
export type RigIn = Schemas['RigIn']
export type Place = Schemas['PlaceOut']
export type PlaceIn = Schemas['PlaceIn']
export type Target = Schemas['TargetOut']
export type TargetIn = Schemas['TargetIn']
export type Trip = Schemas['TripOut']
export type TripIn = Schemas['TripIn']
export type Plan = Schemas['PlanOut']
export type PlanIn = Schemas['PlanIn']

export const useRigs = () =>
  useQuery({
    queryKey: ['rigs'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/rigs', { params: { query } }))),
  })
export const useKinds = () => useQuery({ queryKey: ['kinds'], queryFn: () => answer(api.GET('/api/parts/kinds')) })
export const useHabits = () => useQuery({ queryKey: ['habits'], queryFn: () => answer(api.GET('/api/habits')) })
/** Every part that is not put away. */
export const useParts = () =>
  useQuery({
    queryKey: ['parts', 'all'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/parts', { params: { query } }))),
  })
export const usePlaces = () =>
  useQuery({
    queryKey: ['places'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/places', { params: { query } }))),
  })
export const useTargets = () =>
  useQuery({
    queryKey: ['targets'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/targets', { params: { query } }))),
  })
export const useTrips = () =>
  useQuery({
    queryKey: ['trips'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/trips', { params: { query } }))),
  })
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
  /** Where it was saved elsewhere meanwhile, the person says which shall stand. */
  async function change(id: number, body: In, version: number | null): Promise<Out> {
    try {
      return await calls.change(id, { ...body, version })
    } catch (error) {
      if (!(error instanceof Refusal) || !error.theirs) throw error
      const which = await askWhich(body as Values, error.theirs)
      if (which === 'mine') return change(id, body, error.theirs.version as number)
      if (which === 'theirs') return error.theirs as unknown as Out
      throw error
    }
  }
  /** version: of the record as it was opened; none: saved over whatever is there. */
  async function keep(id: number | null, body: In, version: number | null = null): Promise<Out> {
    const kept = await (id === null ? calls.add(body) : change(id, body, version))
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
    change: (id, body) => answer(api.PUT('/api/rigs/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/rigs/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/rigs/{record_id}/restore', { params: { path: { record_id: id } } })),
  })

export const useKeepPart = () =>
  useKeeping<PartIn, Part>('part', {
    add: (body) => answer(api.POST('/api/parts', { body })),
    change: (id, body) => answer(api.PUT('/api/parts/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/parts/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/parts/{record_id}/restore', { params: { path: { record_id: id } } })),
  })

export const useKeepPlace = () =>
  useKeeping<PlaceIn, Place>('place', {
    add: (body) => answer(api.POST('/api/places', { body })),
    change: (id, body) => answer(api.PUT('/api/places/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/places/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/places/{record_id}/restore', { params: { path: { record_id: id } } })),
  })

export const useKeepTarget = () =>
  useKeeping<TargetIn, Target>('target', {
    add: (body) => answer(api.POST('/api/targets', { body })),
    change: (id, body) => answer(api.PUT('/api/targets/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/targets/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/targets/{record_id}/restore', { params: { path: { record_id: id } } })),
  })

export const useKeepPlan = () =>
  useKeeping<PlanIn, Plan>('plan', {
    add: (body) => answer(api.POST('/api/plans', { body })),
    change: (id, body) => answer(api.PUT('/api/plans/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/plans/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/plans/{record_id}/restore', { params: { path: { record_id: id } } })),
  })

/** Units and schools; whatever shows a mass or a verdict is asked for again. */
export function useKeepHabits() {
  const queries = useQueryClient()
  async function keepUnits(body: Schemas['UnitsIn']) {
    await answer(api.PUT('/api/habits/units', { body }))
    await queries.invalidateQueries()
  }
  async function remember(choices: Partial<Schemas['ChoicesShape']>) {
    const given = Object.fromEntries(Object.entries(choices).filter(([, value]) => value !== null && value !== ''))
    await answer(api.PUT('/api/habits/schools', { body: given as Schemas['ChoicesShape'] }))
    await queries.invalidateQueries({ queryKey: ['habits'] })
  }
  return { keepUnits, remember }
}

export const useKeepTrip = () =>
  useKeeping<TripIn, Trip>('trip', {
    add: (body) => answer(api.POST('/api/trips', { body })),
    change: (id, body) => answer(api.PUT('/api/trips/{record_id}', { params: { path: { record_id: id } }, body })),
    remove: (id) => answer(api.DELETE('/api/trips/{record_id}', { params: { path: { record_id: id } } })),
    restore: (id) => answer(api.POST('/api/trips/{record_id}/restore', { params: { path: { record_id: id } } })),
  })
