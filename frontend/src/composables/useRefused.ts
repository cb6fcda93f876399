/** Something that may be refused as a whole: what was wrong stands in a list, and nothing typed is touched. */
import { ref } from 'vue'

import { Refusal, type Fault } from '@/api/client'

export function useRefused() {
  const busy = ref(false)
  const faults = ref<Fault[]>([])
  async function attempt(work: () => Promise<void>) {
    busy.value = true
    faults.value = []
    try {
      await work()
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      faults.value = failed.list
    } finally {
      busy.value = false
    }
  }
  return { busy, faults, attempt }
}
