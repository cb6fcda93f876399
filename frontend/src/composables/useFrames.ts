/** Frames of a night: folders, the runs found in them, one run with every frame judged, and the person's word. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refThrottled } from '@vueuse/core'
import { computed, ref, type Ref } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { useRefresh } from './useRefresh'
import { offerUndo } from './useUndo'

export type Folder = Schemas['FolderOut']
export type FolderThere = Schemas['FolderThereOut']
export type ShotRun = Schemas['ShotRun']
export type JudgedRun = Schemas['JudgedRunOut']
export type JudgedFrame = Schemas['JudgedFrame']
export type Said = JudgedFrame['said']
export type Lesson = JudgedRun['lessons'][number]
export type Beside = Schemas['Beside']
type Origin = Schemas['PeriodicErrorBefore']['origin']
export type Columns = JudgedRun['columns']

const BUSY_MS = 1000
const CALM_MS = 15_000
const JUDGED_AT_MOST_EVERY_MS = 5000 // a card is measured faster than that, and judging takes from it

export type CameraClock = Schemas['ClockIn']
export interface FolderChange {
  watched?: boolean
  state?: Folder['state']
}

export const isBusy = (folder: Folder) =>
  folder.state === 'reading' &&
  (folder.watched || folder.machine !== '' || folder.counts.waiting + folder.counts.running > 0)

/** What counts: the person's word before ours. */
export const wordOf = (frame: JudgedFrame) => frame.said || frame.word

export function useFolders() {
  const { context, spot, night, change: go } = useContext()
  const queries = useQueryClient()
  const asked = computed(() =>
    spot.value && night.value ? { spot: spot.value, night: night.value, limit: 50, offset: 0 } : null,
  )
  const { data, error } = useQuery({
    queryKey: ['frames', 'folders', asked],
    queryFn: () => answer(api.GET('/api/frames/folders', { params: { query: asked.value ?? undefined } })),
    enabled: computed(() => asked.value !== null),
    refetchInterval: (query) => ((query.state.data?.items ?? []).some(isBusy) ? BUSY_MS : CALM_MS),
  })
  const there = useQuery({
    queryKey: ['frames', 'there'],
    refetchInterval: CALM_MS, // machines come and go
    queryFn: () => answer(api.GET('/api/frames/folders/there', { params: { query: { limit: 200, offset: 0 } } })),
  })
  const again = () => queries.invalidateQueries({ queryKey: ['frames'] })

  async function read(where: FolderThere, watched: boolean) {
    if (!context.value) return
    const { path, machine } = where
    const body = { context: context.value, path, machine, watched, clock_fast_s: 0 }
    await answer(api.POST('/api/frames/folders', { body }))
    await again()
  }

  const bringing = ref('')
  const refused = ref<string[]>([])
  let stop = false
  /** Files one after the other: one that is refused keeps no other back, and what is here already is not sent for nothing. */
  async function bring(files: readonly File[]) {
    if (!context.value || bringing.value) return
    stop = false
    refused.value = []
    bringing.value = 'Bringing files…'
    try {
      const folder = await answer(
        api.POST('/api/frames/folders/brought', { body: { context: context.value, clock_fast_s: 0 } }),
      )
      const path = { record_id: folder.id }
      for (const [place, file] of files.entries()) {
        if (stop) break
        bringing.value = `Bringing file ${place + 1} of ${files.length}…`
        await bringOne(path, file)
        if (place % 10 === 0) await again()
      }
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      refused.value.push(failed.message)
    } finally {
      bringing.value = ''
      await again()
    }
  }
  async function bringOne(path: { record_id: number }, file: File) {
    const form = new FormData()
    form.append('file', file)
    const body = { file: file as unknown as string }
    try {
      await answer(
        api.POST('/api/frames/folders/{record_id}/files', { params: { path }, body, bodySerializer: () => form }),
      )
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      refused.value.push(failed.message)
    }
  }

  async function change(folder: Folder, state: FolderChange) {
    const path = { record_id: folder.id }
    await answer(api.POST('/api/frames/folders/{record_id}/state', { params: { path }, body: state }))
    await again()
  }

  /** With a way back: every frame is given its moment anew. */
  async function setClock(folder: Folder, clock: CameraClock) {
    const path = { record_id: folder.id }
    const send = (body: CameraClock) =>
      answer(api.POST('/api/frames/folders/{record_id}/clock', { params: { path }, body }))
    await send(clock)
    await again()
    offerUndo(`The camera’s clock of “${folder.name}” is put right.`, async () => {
      await send({ offset_min: folder.clock_offset_min, fast_s: folder.clock_fast_s })
      await again()
    })
  }

  /** Into the night that its frames were taken in, and there with it. */
  async function move(folder: Folder, evening: string) {
    const path = { record_id: folder.id }
    await answer(api.POST('/api/frames/folders/{record_id}/night', { params: { path }, body: { night: evening } }))
    await go({ night: evening })
    await again()
  }

  async function remove(folder: Folder) {
    const path = { record_id: folder.id }
    await answer(api.DELETE('/api/frames/folders/{record_id}', { params: { path } }))
    await again()
    const files = folder.brought ? 'what was measured goes with it' : 'its files stay where they are'
    offerUndo(`“${folder.name}” is taken out of this night; ${files}.`, async () => {
      await answer(api.POST('/api/frames/folders/{record_id}/restore', { params: { path } }))
      await again()
    })
  }

  return {
    folders: computed(() => data.value?.items ?? []),
    there: computed(() => there.data.value?.items ?? []),
    error,
    read,
    bring,
    bringing,
    refused,
    stopBringing: () => {
      stop = true
    },
    change,
    setClock,
    move,
    remove,
  }
}

/** What to say of frames that no target and no plan of the night explains. */
export const NOT_RECOGNISED: Partial<Record<ShotRun['recognition'], string>> = {
  'not solved': 'No frame could be matched with the sky.',
  'other field': 'None of your targets is in these frames.',
  'other lens': 'The field is not that of this rig’s lens.',
}
export function whyNotRecognised(run: ShotRun): string {
  const why = NOT_RECOGNISED[run.recognition]
  if (!why) return ''
  const seen = run.seen_width_deg === null ? '' : ` They show ${run.seen_width_deg.toFixed(1)}°`
  const rig = run.rig_width_deg === null ? '' : `; ${run.rig_name} covers ${run.rig_width_deg.toFixed(1)}°`
  return `${why}${seen ? `${seen}${rig}.` : ''} Nothing is counted until you say what they show.`
}

/** Runs of a night; they are asked for anew when more frames are measured, and `measured` says so no more often than judging is
 * worth its work. */
export function useRuns(folders: Ref<Folder[]>) {
  const { spot, night, choices } = useContext()
  const done = computed(() => folders.value.reduce((sum, one) => sum + one.counts.done, 0))
  const measured = refThrottled(done, JUDGED_AT_MOST_EVERY_MS)
  const asked = computed(() =>
    spot.value && night.value
      ? { spot: spot.value, night: night.value, choices: choices.value as Choices, limit: 100, offset: 0 }
      : null,
  )
  const { data, error } = useQuery({
    queryKey: ['frames', 'runs', asked, measured],
    queryFn: () => answer(api.GET('/api/frames/runs', { params: { query: asked.value as never } })),
    enabled: computed(() => asked.value !== null), // frames of this night may lie in the folder of another
    placeholderData: keepPreviousData,
  })
  return { runs: computed(() => data.value?.items ?? []), measured, error }
}

export function useJudgedRun(run: Ref<number | null>, measured: Ref<number>) {
  const { choices, spot, choose } = useContext()
  const queries = useQueryClient()
  const refresh = useRefresh()
  const { data, error } = useQuery({
    queryKey: ['frames', 'run', run, choices, measured],
    queryFn: () =>
      answer(
        api.GET('/api/frames/runs/{record_id}', {
          params: { path: { record_id: run.value ?? 0 }, query: { choices: choices.value } as never },
        }),
      ),
    enabled: computed(() => run.value !== null),
    placeholderData: keepPreviousData,
  })
  const again = () => queries.invalidateQueries({ queryKey: ['frames', 'run'] })

  /** Put the person's word on some frames, at once on the page, with a way back. */
  async function say(frames: JudgedFrame[], said: Said, words: string) {
    const id = run.value
    if (id === null || !frames.length) return
    const send = (list: { frame: number; said: Said }[]) =>
      answer(
        api.POST('/api/frames/runs/{record_id}/words', {
          params: { path: { record_id: id } },
          body: { words: list, choices: choices.value } as never,
        }),
      )
    const told = await send(frames.map((one) => ({ frame: one.id, said })))
    await again()
    offerUndo(words, async () => {
      await send(told.before)
      await again()
    })
  }

  async function count(missing: { f_number?: number; exposure_s?: number }) {
    if (run.value === null) return
    await answer(
      api.POST('/api/frames/runs/{record_id}/count', {
        params: { path: { record_id: run.value } },
        body: { choices: choices.value, ...missing } as never,
      }),
    )
    await refresh()
  }

  /** Say what a run shows that was not recognised. */
  async function assign(target: number) {
    if (run.value === null) return
    await answer(
      api.POST('/api/frames/runs/{record_id}/shows', {
        params: { path: { record_id: run.value } },
        body: { choices: choices.value, target } as never,
      }),
    )
    await refresh()
  }

  /** Use what a run measured from now on; it can be undone. */
  async function learn(lesson: Lesson) {
    const rig = data.value?.rig
    const spotNow = spot.value
    if (!rig || !spotNow) return
    if (lesson.key === 'periodic error') {
      const send = (half: number, period: number, origin?: Origin) =>
        answer(
          api.POST('/api/frames/learn', {
            body: { rig, half_amplitude_arcsec: half, period_s: period, origin: origin ?? null },
          }),
        )
      const before = await send(lesson.value, lesson.second ?? 480)
      await refresh()
      offerUndo(`From now on this tracker is planned with ${lesson.measured}.`, async () => {
        await send(before.half_amplitude_arcsec, before.period_s, before.origin)
        await refresh()
      })
    } else if (lesson.key === 'sky') {
      const send = (sky: number) =>
        answer(api.POST('/api/exposure/learn', { body: { rig, spot: spotNow, sky_mag: sky } }))
      const before = await send(lesson.value)
      await refresh()
      offerUndo(`From now on this place is planned with ${lesson.value} mag/arcsec².`, async () => {
        await send(before.sky_mag)
        await refresh()
      })
    } else {
      const send = (width: number, origin?: Origin) =>
        answer(
          api.POST('/api/exposure/learn', {
            body: { rig, spot: spotNow, star_fwhm_px: width, star_origin: origin ?? null },
          }),
        )
      const before = await send(lesson.value)
      await refresh()
      offerUndo(`From now on this rig’s stars are planned as ${lesson.measured} wide.`, async () => {
        await send(before.star_fwhm_px, before.star_origin)
        await refresh()
      })
    }
  }

  const { data: axis } = useQuery({
    queryKey: ['frames', 'axis', run, choices, measured],
    queryFn: () =>
      answer(
        api.GET('/api/frames/runs/{record_id}/axis', {
          params: { path: { record_id: run.value ?? 0 }, query: { choices: choices.value } as never },
        }),
      ),
    enabled: computed(() => run.value !== null),
  })
  const { data: plan } = useQuery({
    queryKey: ['frames', 'beside', run, choices, measured],
    queryFn: () =>
      answer(
        api.GET('/api/frames/runs/{record_id}/beside', {
          params: { path: { record_id: run.value ?? 0 }, query: { choices: choices.value } as never },
        }),
      ),
    enabled: computed(() => run.value !== null),
    retry: false,
  })
  /** Let the plan of this night say what its frames say; it can be undone. */
  async function planWith(figure: Beside) {
    const before = { ...choices.value }
    const spoils = figure.spoils_per_h === null ? {} : { spoils_per_h: figure.spoils_per_h }
    await choose({ ...before, ...(figure.wind === null ? spoils : { wind_level: figure.wind }) })
    const words = figure.wind === null ? `${figure.spoils_per_h} spoiled an hour` : `wind “${figure.wind}”`
    offerUndo(`This night is planned with ${words}.`, async () => {
      await choose(before)
    })
  }

  async function keepAxis() {
    const path = { record_id: run.value ?? 0 }
    const kept = await answer(api.POST('/api/frames/runs/{record_id}/axis', { params: { path } }))
    await refresh()
    offerUndo('The axis is kept as an alignment of this night.', async () => {
      await answer(api.DELETE('/api/alignments/{record_id}', { params: { path: { record_id: kept.id } } }))
      await refresh()
    })
  }

  return {
    axis,
    keepAxis,
    plan,
    planWith,
    learn,
    judged: computed(() => data.value ?? null),
    error,
    say,
    count,
    assign,
  }
}

/** The last run of which frames are here, for a page of a night that has none. */
export function useLastFrames() {
  const { data } = useQuery({ queryKey: ['frames', 'last'], queryFn: () => answer(api.GET('/api/frames/last')) })
  return computed(() => (data.value?.night && data.value.spot ? data.value : null))
}
