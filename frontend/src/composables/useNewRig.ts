/** A new rig: the sheet that asks how to begin, and an empty one or a copy, opened on the Bench. */
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useKeepRig, useRigs, type RigIn } from './useRecords'

/** The words themselves, or with the first number that is free. */
export function freeName(words: string, taken: string[]): string {
  let name = words
  for (let number = 2; taken.includes(name); number += 1) name = `${words} ${number}`
  return name
}

/** Whether it is asked, on whichever page, how a new rig begins. */
const asking = ref(false)

export function useNewRig() {
  const route = useRoute()
  const router = useRouter()
  const { data: rigs } = useRigs()
  const { keep } = useKeepRig()

  async function make(words = 'New rig', body: Omit<RigIn, 'name'> = { star_fwhm_px: 2.5 }) {
    const name = freeName(
      words,
      (rigs.value?.items ?? []).map((one) => one.name),
    )
    const made = await keep(null, { ...body, name })
    await router.push({ name: 'bench', query: { ...route.query, rig: String(made.id) } })
  }
  return { make, asking }
}
