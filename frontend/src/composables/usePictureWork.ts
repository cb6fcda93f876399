/** Long work on pictures: bring them, begin, follow, and find the last of its kind again. */
import { computed, ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'

import { useContext } from './useContext'
import { bringPictures, measure, useLastMeasurement, useMeasurement, type Picture } from './usePictures'
import { useRefused } from './useRefused'

export type Given = Pick<Schemas['MeasurementIn'], 'task' | 'pictures'> &
  Partial<Omit<Schemas['MeasurementIn'], 'context' | 'choices'>>

export function usePictureWork(about: 'pole' | 'pointing' | 'trial' | 'camera' | 'lens') {
  const { context, choices } = useContext()
  const { faults, attempt } = useRefused()
  const { id, stands } = useLastMeasurement(context, about)
  const work = useMeasurement(id)
  const bringing = ref('')

  async function bring(files: readonly File[]): Promise<Picture[]> {
    let found: Picture[] = []
    await attempt(async () => {
      const done = await bringPictures(
        files,
        (place) => (bringing.value = `Bringing picture ${place + 1} of ${files.length}…`),
      )
      found = done.pictures
      faults.value = done.faults
    })
    bringing.value = ''
    return found
  }
  async function choose(names: string[]): Promise<Picture[]> {
    let found: Picture[] = []
    await attempt(async () => {
      found = await answer(api.POST('/api/pictures/folder', { body: { names } }))
    })
    return found
  }
  async function begin(given: Given) {
    const now = context.value
    if (!now) return
    const defaults = { clock_offset_min: 0, clock_fast_s: null, temperature_c: 10, keep_files: false }
    await stands(
      now,
      await measure({ context: now, choices: choices.value as Schemas['ChoicesShape'], ...defaults, ...given }),
    )
  }
  const result = computed(() => work.data.value ?? null)
  const busy = computed(() => ['waiting', 'running'].includes(result.value?.state ?? '') && !result.value?.silent)
  return { work, result, busy, faults, attempt, bringing, bring, choose, begin }
}
