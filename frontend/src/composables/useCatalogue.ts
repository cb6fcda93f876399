/** The catalogue: searched as one types, and taken from. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, type Ref } from 'vue'

import { answer, api } from '@/api/client'

export const useTargetKinds = () =>
  useQuery({ queryKey: ['target kinds'], queryFn: () => answer(api.GET('/api/targets/kinds')), staleTime: Infinity })

export function useSearch(words: Ref<string>, kind: Ref<string>, page: Ref<number>, size: number) {
  const settled = refDebounced(words, 200)
  const query = computed(() => ({
    words: settled.value,
    kind: kind.value,
    limit: size,
    offset: (page.value - 1) * size,
  }))
  return useQuery({
    queryKey: ['catalogue', query],
    queryFn: () => answer(api.GET('/api/targets/catalogue', { params: { query: query.value } })),
    placeholderData: keepPreviousData,
  })
}

/** Make an entry one of the person's own targets. */
export function useTake() {
  const queries = useQueryClient()
  return async (key: string) => {
    const kept = await answer(api.POST('/api/targets/catalogue', { body: { key } }))
    await queries.invalidateQueries({ queryKey: ['targets'] })
    return kept
  }
}
