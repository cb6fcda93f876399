/** The pictures in hand on the Photographs side: brought, put right, measured. */
import { useLocalStorage } from '@vueuse/core'
import { ref } from 'vue'

import { Refusal, type Schemas } from '@/api/client'
import { typed } from '@/composables/choices'
import type { Picture } from '@/composables/usePictures'
import { usePictureWork } from '@/composables/usePictureWork'

export type Task = Schemas['MeasurementIn']['task']

/** One picture with what may be put right by hand; `taken` is the camera's own clock. */
export interface ChosenPicture {
  picture: Picture
  taken: string
  exposure_s: number | string | null
  focal_mm: number | string | null
}

/** Offsets of a camera's clock that are in use anywhere, quarter hours included. */
const twoDigits = (value: number) => String(value).padStart(2, '0')
const clockWords = (minutes: number) =>
  `UTC${minutes < 0 ? '−' : '+'}${[Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60].map(twoDigits).join(':')}`
export const OFFSETS = [
  ...new Set([
    ...Array.from({ length: 27 }, (_, hour) => (hour - 12) * 60),
    -570,
    -210,
    210,
    270,
    330,
    345,
    390,
    525,
    570,
    630,
    765,
  ]),
]
  .sort((a, b) => a - b)
  .map((value) => ({ value, label: clockWords(value) }))

export function usePhotographs(utcOffset: () => number) {
  const pictures = usePictureWork('pole')
  const { faults, attempt, bringing, work, busy } = pictures
  const chosen = ref<ChosenPicture[]>([])
  const offset = ref<number | null>(null)
  /** Seconds by which the camera is ahead; nothing: nobody compared its clock. */
  const fast = useLocalStorage<number | string | null>('wide-dusk-camera-clock-ahead', null)
  const temperature = ref<number | string | null>(10)
  const keepFiles = ref(false)

  function add(brought: Picture[]) {
    for (const picture of brought) {
      chosen.value.push({
        picture,
        taken: picture.taken?.slice(0, 19).replace('T', ' ') ?? '',
        exposure_s: picture.exposure_s,
        focal_mm: picture.focal_mm,
      })
    }
    chosen.value.sort((a, b) => a.taken.localeCompare(b.taken))
    // What the files say of their clock wins over what stands there from the place.
    const told = chosen.value.find((one) => one.picture.utc_offset_min !== null)?.picture.utc_offset_min
    if (offset.value === null) offset.value = told ?? utcOffset()
  }
  const bring = async (files: readonly File[]) => add(await pictures.bring(files))
  const choose = async (names: string[]) => add(await pictures.choose(names))
  function drop(place: number) {
    chosen.value.splice(place, 1)
    if (!chosen.value.length) offset.value = null
  }
  function clear() {
    chosen.value = []
    offset.value = null
    faults.value = []
  }
  const begin = (task: Task) =>
    attempt(async () => {
      const unread = chosen.value.findIndex(
        (one) => one.taken.trim() !== '' && Number.isNaN(Date.parse(`${one.taken.trim().replace(' ', 'T')}Z`)),
      )
      if (unread >= 0)
        throw new Refusal(422, [
          {
            field: `pictures.${unread}.taken`,
            value: chosen.value[unread]?.taken ?? '',
            message: 'Write it like 8 Dec 2026 21:04:30.',
          },
        ])
      await pictures.begin({
        task,
        pictures: chosen.value.map((one) => ({
          picture: one.picture.id,
          taken: one.taken.trim().replace(' ', 'T') || null,
          exposure_s: one.exposure_s as number,
          focal_mm: one.focal_mm as number,
        })),
        clock_offset_min: offset.value ?? 0,
        clock_fast_s: (typed(String(fast.value ?? '')) ?? null) as number | null,
        temperature_c: temperature.value as number,
        keep_files: keepFiles.value,
      })
    })
  return {
    chosen,
    offset,
    fast,
    temperature,
    keepFiles,
    bringing,
    faults,
    work,
    busy,
    bring,
    choose,
    drop,
    clear,
    begin,
  }
}
