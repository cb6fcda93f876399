/** Lenses that were measured: the list, and one of them against the limits and the plan of now. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'

import { answer, api, Refusal, type Asked, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { useRefresh } from './useRefresh'
import { offerUndo } from './useUndo'

export type Lens = Schemas['LensOut']
export type AtStop = Schemas['AtStop']
export type GoodStops = Schemas['GoodStops']

export function useLenses() {
  const { data } = useQuery({
    queryKey: ['lenses', 'list'],
    queryFn: () => answer(api.GET('/api/lenses', { params: { query: { limit: 100, offset: 0 } } })),
  })
  return computed(() => data.value?.items ?? [])
}

export function useLens(id: Ref<number | null>) {
  const { context, choices } = useContext()
  const asked = computed(() =>
    context.value && id.value !== null ? { ...context.value, choices: choices.value as Choices } : null,
  )
  const { data, error } = useQuery({
    queryKey: ['lenses', 'one', id, asked],
    queryFn: () =>
      answer(
        api.GET('/api/lenses/{record_id}', {
          params: { path: { record_id: id.value as number }, query: asked.value as Asked<'/api/lenses/{record_id}'> },
        }),
      ),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return {
    data: computed(() => (asked.value ? (data.value ?? null) : null)),
    refusal: computed(() => (error.value instanceof Refusal ? error.value : null)),
  }
}

/** Write from which stops on the rig's lens is good, with a way back. */
export function useGoodStops() {
  const { rig } = useContext()
  const refresh = useRefresh()
  const put = async (stops: Omit<GoodStops, 'origin'> & { origin?: GoodStops['origin'] }, at: number) => {
    const before = await answer(api.POST('/api/lenses/good-stops', { body: { rig: at, ...stops } }))
    await refresh()
    return before
  }
  return async (lens: Lens) => {
    const at = rig.value
    if (at === null || lens.broad == null) return
    const before = await put({ broad: lens.broad, narrow: lens.narrow ?? null }, at)
    offerUndo(`“${lens.seen.lens}” is planned from f/${lens.broad} on, as measured.`, async () => {
      await put(before, at)
    })
  }
}
