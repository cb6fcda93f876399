/** The exposures of the night in hand, asked again with every choice, the last answer staying until the next is there. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, type Ref } from 'vue'

import { answer, api, Refusal, type Asked, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { lastGood } from './usePole'

export type Exposure = Schemas['ExposureOut']
export type Stop = Schemas['Stop']
export type Span = Schemas['Span']

/** With some choices changed on top of those in the address; none: as the address has it. */
export function useExposure(changed?: Ref<Partial<Choices>>) {
  const { context, choices } = useContext()
  const asked = computed(() =>
    context.value ? { ...context.value, choices: { ...choices.value, ...(changed?.value ?? {}) } as Choices } : null,
  )
  const { data, error, isFetching } = useQuery({
    queryKey: ['exposure', asked],
    queryFn: () => answer(api.GET('/api/exposure', { params: { query: asked.value as Asked<'/api/exposure'> } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return {
    data: lastGood(data),
    refusal: computed(() => (error.value instanceof Refusal ? error.value : null)),
    isFetching,
  }
}

/** A measured test picture against the plan. */
export function useTrial(id: Ref<number | null>) {
  const { context, choices } = useContext()
  const asked = computed(() =>
    context.value && id.value !== null ? { ...context.value, choices: choices.value as Choices } : null,
  )
  const { data, error } = useQuery({
    queryKey: ['exposure', 'trial', id, asked],
    queryFn: () =>
      answer(
        api.GET('/api/exposure/test-picture/{record_id}', {
          params: {
            path: { record_id: id.value as number },
            query: asked.value as Asked<'/api/exposure/test-picture/{record_id}'>,
          },
        }),
      ),
    enabled: computed(() => asked.value !== null),
    retry: false,
  })
  return { data, refusal: computed(() => (error.value instanceof Refusal ? error.value : null)) }
}

/** Nights gathered on the target in hand. */
export function useSessions() {
  const { target } = useContext()
  const { data } = useQuery({
    queryKey: ['exposure', 'sessions', target],
    queryFn: () =>
      answer(api.GET('/api/sessions', { params: { query: { target: target.value, limit: 100, offset: 0 } } })),
    enabled: computed(() => target.value !== null),
  })
  return computed(() => data.value?.items ?? [])
}
