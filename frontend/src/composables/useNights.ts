/** What several targets make of one night: lanes, panorama, spots, fortnight, year; and which targets the night is for. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'

import { answer, api, Refusal, type Asked } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { offerUndo } from './useUndo'

type TargetNight = Asked<'/api/nights/lanes'>

/** One question about spot, night and target, asked again when any of them or the choices change. */
function asking<T>(name: string, work: (query: TargetNight) => Promise<T>, wanted?: Ref<boolean>) {
  const { context, choices } = useContext()
  const asked = computed(() =>
    context.value
      ? {
          spot: context.value.spot,
          night: context.value.night,
          target: context.value.target,
          framing: context.value.framing,
          rig: context.value.rig,
          choices: choices.value as Choices,
        }
      : null,
  )
  const { data, error, isFetching } = useQuery({
    queryKey: [name, asked],
    queryFn: () => work(asked.value as TargetNight),
    enabled: computed(() => asked.value !== null && (wanted?.value ?? true)),
    placeholderData: keepPreviousData,
  })
  const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
  return { data, refusal, isFetching }
}

export const useLanes = () => asking('lanes', (query) => answer(api.GET('/api/nights/lanes', { params: { query } })))
/** The horizon needs a spot and a night; what else is chosen is drawn too. */
export function usePanorama() {
  const { rig, spot, night, target, framing, choices } = useContext()
  const asked = computed(() =>
    spot.value && night.value
      ? {
          spot: spot.value,
          night: night.value,
          target: target.value,
          framing: framing.value ?? undefined,
          rig: rig.value,
          choices: choices.value as Choices,
        }
      : null,
  )
  const { data, error, isFetching } = useQuery({
    queryKey: ['panorama', asked],
    queryFn: () =>
      answer(api.GET('/api/nights/panorama', { params: { query: asked.value as Asked<'/api/nights/panorama'> } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
  })
  return { data, refusal: computed(() => (error.value instanceof Refusal ? error.value : null)), isFetching }
}
/** The frame of this rig over the ground, at three moments of its window. */
export function useFrameOver() {
  const { context, choices } = useContext()
  const asked = computed(() => (context.value ? { ...context.value, choices: choices.value as Choices } : null))
  const { data } = useQuery({
    queryKey: ['frame over', asked],
    queryFn: () =>
      answer(api.GET('/api/nights/frame', { params: { query: asked.value as Asked<'/api/nights/frame'> } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return data
}
export const useSpots = () => asking('spots', (query) => answer(api.GET('/api/nights/spots', { params: { query } })))
export const useYear = () => asking('year', (query) => answer(api.GET('/api/nights/year', { params: { query } })))
export const useFortnight = () =>
  asking('fortnight', (query) =>
    answer(api.GET('/api/nights/fortnight', { params: { query: query as unknown as Asked<'/api/nights/fortnight'> } })),
  )

/** Put targets on the night and take them off; each step is kept and can be undone. */
export function useChosen() {
  const { spot, night } = useContext()
  const queries = useQueryClient()
  async function keep(targets: number[]) {
    if (!spot.value || !night.value) return
    await answer(api.PUT('/api/nights/targets', { body: { spot: spot.value, night: night.value, targets } }))
    await queries.invalidateQueries()
  }
  async function change(before: number[], after: number[], said: string) {
    await keep(after)
    offerUndo(said, () => keep(before))
  }
  return { change }
}
