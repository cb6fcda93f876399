/** What the saved schedule of the night has for the target and rig that are chosen: the same runs on every page. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { answer, api, type Schemas } from '@/api/client'

import { everyPage } from './pages'
import { useContext } from './useContext'

export type Run = Schemas['RunOut']

/** Every run of the night in the context. */
export function useNightRuns() {
  const { spot, night } = useContext()
  return useQuery({
    queryKey: ['runs', 'night', spot, night],
    queryFn: () =>
      everyPage((page) =>
        answer(
          api.GET('/api/runs', { params: { query: { ...page, spot: spot.value, night: night.value ?? undefined } } }),
        ),
      ),
    enabled: computed(() => Boolean(night.value)),
    // A night of which nobody said where is none of those at a spot on the same date.
    select: (page) => ({ ...page, items: page.items.filter((run) => run.spot === (spot.value ?? null)) }),
  })
}

export function useScheduled() {
  const { rig, target } = useContext()
  const { data } = useNightRuns()
  const scheduled = computed<Run[]>(() =>
    (data.value?.items ?? []).filter(
      (run) =>
        run.origin === 'schedule' &&
        run.in_plan &&
        run.rig === rig.value &&
        run.target === target.value &&
        run.planned_frames,
    ),
  )
  return { scheduled }
}
