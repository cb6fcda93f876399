/** Pictures off the card, and the long work on them. */
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, type Ref } from 'vue'

import { answer, api, Refusal, type Fault, type Schemas } from '@/api/client'

import type { Context } from './useContext'
import { useRefresh } from './useRefresh'

export type Picture = Schemas['PictureOut']
export type Measurement = Schemas['MeasurementOut']

const MOST_BYTES = 200_000_000
const POLL_MS = 700

/** Files one after the other, so that one that is refused does not keep the others back. */
export async function bringPictures(
  files: readonly File[],
  each: (done: number) => void,
): Promise<{ pictures: Picture[]; faults: Fault[] }> {
  const pictures: Picture[] = []
  const faults: Fault[] = []
  for (const [place, file] of files.entries()) {
    each(place)
    try {
      if (file.size > MOST_BYTES)
        throw new Refusal(413, [
          { field: 'file', value: file.size, message: `“${file.name}” is larger than 200 MB; give the JPEG instead.` },
        ])
      const body = { file: file as unknown as string }
      pictures.push(
        await answer(
          api.POST('/api/pictures', {
            body,
            bodySerializer: () => {
              const form = new FormData()
              form.append('file', file)
              return form
            },
          }),
        ),
      )
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      faults.push(...failed.list)
    }
  }
  return { pictures, faults }
}

/** The folder of the server's machine from which pictures may be chosen; empty where there is none. */
export function usePictureFolder() {
  const { data, refetch } = useQuery({
    queryKey: ['pictures', 'folder'],
    queryFn: () => answer(api.GET('/api/pictures/folder', { params: { query: { limit: 100, offset: 0 } } })),
  })
  return { names: computed(() => (data.value?.items ?? []).map((one) => one.name)), refetch }
}

/** One measurement, asked after while it is under way. */
export function useMeasurement(id: Ref<number | null>) {
  const queries = useQueryClient()
  const refresh = useRefresh()
  const done = ref<number | null>(null)
  const { data, error } = useQuery({
    queryKey: ['measurement', id],
    queryFn: async () => {
      const now: Measurement = await answer(
        api.GET('/api/pictures/measurements/{record_id}', { params: { path: { record_id: id.value as number } } }),
      )
      if (now.state === 'done' && done.value !== now.id) {
        done.value = now.id
        void refresh()
      }
      return now
    },
    enabled: computed(() => id.value !== null),
    refetchInterval: (query) =>
      ['waiting', 'running'].includes(query.state.data?.state ?? 'waiting') ? POLL_MS : false,
  })
  const act = async (what: 'cancel' | 'again') => {
    if (id.value === null) return
    await answer(
      api.POST(`/api/pictures/measurements/{record_id}/${what}`, { params: { path: { record_id: id.value } } }),
    )
    await queries.invalidateQueries({ queryKey: ['measurement'] })
  }
  return {
    data,
    refusal: computed(() => (error.value instanceof Refusal ? error.value : null)),
    cancel: () => act('cancel'),
    again: () => act('again'),
  }
}

/** A camera is the same on every night and at every spot. */
const ofEveryNight = (about: string) => about === 'camera' || about === 'lens'

/** The last measurement of this rig, spot and night, so that a page that was left shows it again. */
export function useLastMeasurement(
  context: Readonly<Ref<Context | null>>,
  about: 'pole' | 'pointing' | 'trial' | 'camera' | 'lens',
) {
  const queries = useQueryClient()
  const placeOf = (of: Context | null) => (ofEveryNight(about) || !of ? {} : { spot: of.spot, night: of.night })
  const keyOf = (of: Context | null) => ['measurements', about, of?.rig, placeOf(of)]
  const { data } = useQuery({
    queryKey: computed(() => keyOf(context.value)),
    queryFn: async () => {
      const { rig } = context.value as Context
      const query = { rig, ...placeOf(context.value), about, limit: 1, offset: 0 }
      const found = await answer(api.GET('/api/pictures/measurements', { params: { query } }))
      return found.items[0]?.id ?? null
    },
    enabled: computed(() => context.value !== null),
  })
  /** One just begun stands first; an answer still under way was asked for before it began, and is dropped. */
  async function stands(of: Context, begun: Measurement) {
    await queries.cancelQueries({ queryKey: keyOf(of) })
    queries.setQueryData(keyOf(of), begun.id)
  }
  return { id: computed(() => data.value ?? null), stands }
}

/** The last measurement of a rig on whatever night, where this night has none. */
export function useEarlierMeasurement(context: Readonly<Ref<Context | null>>, about: 'pole') {
  const { data } = useQuery({
    queryKey: computed(() => ['measurements', about, context.value?.rig, 'ever']),
    queryFn: async () => {
      const query = { rig: context.value?.rig, about, limit: 1, offset: 0 }
      return (await answer(api.GET('/api/pictures/measurements', { params: { query } }))).items[0] ?? null
    },
    enabled: computed(() => context.value !== null),
  })
  return computed(() =>
    data.value && (data.value.night !== context.value?.night || data.value.spot !== context.value?.spot)
      ? data.value
      : null,
  )
}

export const measure = (body: Schemas['MeasurementIn']) => answer(api.POST('/api/pictures/measurements', { body }))
