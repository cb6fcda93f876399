/** How good the axis must be, how it is set, and what is kept of it. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, shallowRef, watch, type Ref } from 'vue'

import { answer, api, Refusal, type Asked, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'

export type AxisOut = Schemas['AxisOut']
export type Alignment = Schemas['AlignmentOut']
export type Need = Schemas['NeedOut']

/** A refusal leaves the last good answer on the page, so that one sees what one is changing. */
export function lastGood<T>(data: Ref<T | undefined>) {
  const last = shallowRef<T>()
  watch(
    data,
    (now) => {
      if (now) last.value = now
    },
    { immediate: true },
  )
  return last
}

const refusalOf = (error: unknown) => (error instanceof Refusal ? error : null)

/** What every question about the pole is about; none until rig, spot, night and target are chosen. */
export function useAsked() {
  const { context, choices } = useContext()
  return computed(() => (context.value ? { ...context.value, choices: choices.value as Choices } : null))
}

export function useNeed() {
  const asked = useAsked()
  const { data, error } = useQuery({
    queryKey: ['pole', 'need', asked],
    queryFn: () => answer(api.GET('/api/pole/need', { params: { query: asked.value as Asked<'/api/pole/need'> } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
  })
  return { data: lastGood(data), refusal: computed(() => refusalOf(error.value)) }
}

export type RoughAsked = Partial<Omit<Asked<'/api/pole/rough'>, 'choices'>>

/** The rough steps for what has been read off so far; the last good answer stays while something is refused. */
export function useRough(read: Ref<RoughAsked>) {
  const asked = useAsked()
  const query = computed(() => (asked.value ? { ...asked.value, ...read.value } : null))
  const { data, error } = useQuery({
    queryKey: ['pole', 'rough', query],
    queryFn: () => answer(api.GET('/api/pole/rough', { params: { query: query.value as Asked<'/api/pole/rough'> } })),
    enabled: computed(() => query.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return { data: lastGood(data), refusal: computed(() => refusalOf(error.value)) }
}

/** The dial; without a moment it is asked for anew each half minute. */
export function useScope(
  read: Ref<{ view?: 'upright' | 'inverted' | 'none' | null; pole?: 'refracted' | 'true'; at?: string | null }>,
) {
  const { rig, spot, night } = useContext()
  const query = computed(() =>
    rig.value && spot.value ? { rig: rig.value, spot: spot.value, night: night.value, ...read.value } : null,
  )
  const { data, error } = useQuery({
    queryKey: ['pole', 'scope', query],
    queryFn: () => answer(api.GET('/api/pole/scope', { params: { query: query.value as Asked<'/api/pole/scope'> } })),
    enabled: computed(() => query.value !== null),
    placeholderData: keepPreviousData,
    refetchInterval: () => (read.value.at ? false : 30_000),
  })
  return { data: lastGood(data), refusal: computed(() => refusalOf(error.value)) }
}

export function useKeeping() {
  const asked = useAsked()
  const { data } = useQuery({
    queryKey: ['pole', 'keeping', asked],
    queryFn: () =>
      answer(api.GET('/api/pole/keeping', { params: { query: asked.value as Asked<'/api/pole/keeping'> } })),
    enabled: computed(() => asked.value !== null),
    placeholderData: keepPreviousData,
  })
  return data
}

/** Alignments of this rig, spot and night, the latest first. */
export function useAlignments() {
  const { rig, spot, night } = useContext()
  const query = computed(() =>
    rig.value && spot.value && night.value
      ? { rig: rig.value, spot: spot.value, night: night.value, limit: 50, offset: 0 }
      : null,
  )
  const { data } = useQuery({
    queryKey: ['pole', 'alignments', query],
    queryFn: () => answer(api.GET('/api/alignments', { params: { query: query.value ?? undefined } })),
    enabled: computed(() => query.value !== null),
  })
  return computed(() => data.value?.items ?? [])
}
