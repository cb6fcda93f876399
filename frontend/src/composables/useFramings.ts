/** All framings of this person; and those of the target in the context. */
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { answer, api } from '@/api/client'

import { everyPage } from './pages'
import { useContext } from './useContext'

export function useFramings() {
  const { target, framing } = useContext()
  const { data } = useQuery({
    queryKey: ['framings'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/framings', { params: { query } }))),
  })
  const ofTarget = (id: number | null) => (data.value?.items ?? []).filter((one) => one.target_id === id)
  const these = computed(() => ofTarget(target.value))
  /** The one in use; on its own workspace the first of the target stands in. */
  const chosen = computed(() => these.value.find((one) => one.id === framing.value) ?? null)
  return { framings: data, ofTarget, these, chosen }
}
