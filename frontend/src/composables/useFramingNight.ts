/** A framing in its night: what stands over the chart, panels' windows, the ways to it, and the nudge a picture tells. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { theFraming } from './useFraming'

const SETTLE_MS = 250
/** A clock time of the night, as typed; the same on every side of the workspace. */
const at = ref('')

export function useFigures() {
  const { data } = useQuery({
    queryKey: ['figures'],
    queryFn: () => answer(api.GET('/api/framings/figures')),
    staleTime: Infinity,
  })
  return data
}

export function useAbove() {
  const { spot, night } = useContext()
  const asked = computed(() =>
    spot.value && night.value
      ? { spot: spot.value, night: night.value, at: /^\d\d?:\d\d$/.test(at.value) ? at.value : '' }
      : null,
  )
  const { data } = useQuery({
    queryKey: ['above', asked],
    queryFn: () =>
      answer(api.GET('/api/framings/above', { params: { query: asked.value as { spot: number; night: string } } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
  })
  return data
}

/** Ask something of the framing as it is held, in the context; again once it rests after a change. */
function asking<T>(
  name: string,
  work: (body: string) => Promise<T>,
  more: () => object,
  wanted: () => boolean = () => true,
) {
  const framing = theFraming()
  const { context, choices } = useContext()
  const body = refDebounced(
    computed(() =>
      context.value && framing.subject.value && wanted()
        ? JSON.stringify({
            ...framing.shape.value,
            context: { ...context.value, framing: null },
            choices: choices.value as Choices,
            ...more(),
          })
        : '',
    ),
    SETTLE_MS,
  )
  const { data, error, isFetching } = useQuery({
    queryKey: ['framing', name, body],
    queryFn: () => work(body.value),
    enabled: computed(() => body.value !== ''),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return { data, isFetching, refusal: computed(() => (error.value instanceof Refusal ? error.value : null)) }
}

export function useWays() {
  const asked = asking(
    'ways',
    (body) => answer(api.POST('/api/framings/ways', { body: JSON.parse(body) as Schemas['WaysIn'] })),
    () => ({ at: at.value.trim() }),
  )
  return { ...asked, at }
}

export function usePanelNights() {
  const { rig } = useContext()
  const framing = theFraming()
  return asking(
    'nights',
    (body) => answer(api.POST('/api/framings/nights', { body: JSON.parse(body) as Schemas['PanelsOfTheNightIn'] })),
    () => ({ rig: rig.value }),
    () => (framing.laid.value?.panels.length ?? 0) > 0,
  )
}

/** From the measurement of a picture to the next nudge. */
export function useNudge(measurement: Ref<number | null>) {
  const { rig } = useContext()
  const framing = theFraming()
  const queries = useQueryClient()
  const asked = refDebounced(
    computed(() =>
      measurement.value !== null && rig.value !== null && framing.subject.value
        ? JSON.stringify({
            ...framing.shape.value,
            rig: rig.value,
            measurement: measurement.value,
            id: framing.kept.value?.id ?? null,
          })
        : '',
    ),
    SETTLE_MS,
  )
  const { data, error } = useQuery({
    queryKey: ['framing', 'nudge', asked],
    queryFn: () => answer(api.POST('/api/framings/nudge', { body: JSON.parse(asked.value) as Schemas['NudgeIn'] })),
    enabled: computed(() => asked.value !== ''),
    retry: false,
  })
  /** Remember where the camera stands, for another night. */
  async function remember() {
    const kept = framing.kept.value
    if (!kept || rig.value === null || measurement.value === null) return null
    const body = { framing: kept.id, rig: rig.value, measurement: measurement.value }
    const found = await answer(api.POST('/api/framings/arrived', { body }))
    await queries.invalidateQueries({ queryKey: ['framing', 'nudge'] })
    return found
  }
  return {
    nudge: computed(() => (asked.value ? (data.value ?? null) : null)),
    refusal: computed(() => (error.value instanceof Refusal ? error.value : null)),
    remember,
  }
}

/** Where earlier pictures of this rig, spot and night looked, the earliest first. */
export function useTries(after: Ref<unknown>) {
  const { rig, spot, night } = useContext()
  const { data } = useQuery({
    queryKey: computed(() => ['measurements', 'tries', rig.value, spot.value, night.value, after.value]),
    queryFn: async () => {
      const query = {
        rig: rig.value,
        spot: spot.value,
        night: night.value,
        about: 'pointing' as const,
        limit: 20,
        offset: 0,
      }
      const found = await answer(api.GET('/api/pictures/measurements', { params: { query } }))
      return found.items
        .filter((one) => one.state === 'done')
        .flatMap((one) => one.pictures[0]?.pointing ?? [])
        .reverse()
    },
    enabled: computed(() => rig.value !== null && spot.value !== null && night.value !== null),
    placeholderData: keepPreviousData,
  })
  return computed(() => data.value ?? [])
}
