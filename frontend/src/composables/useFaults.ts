/** What is wrong with which field of a form. Fields find their own message by their path. */
import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'

import { Refusal, type Faults } from '@/api/client'

const KEY: InjectionKey<Ref<Faults>> = Symbol('faults')

/** For the form: holds the faults and runs what may be refused. */
export function useFaults(faults: Ref<Faults> = ref({})) {
  const busy = ref(false)
  provide(KEY, faults)

  /** Run something; true when it went through. A refusal goes to its fields and nothing typed is touched. */
  async function attempt(work: () => Promise<unknown>): Promise<boolean> {
    busy.value = true
    faults.value = {}
    try {
      await work()
      return true
    } catch (error) {
      if (!(error instanceof Refusal)) throw error
      faults.value = error.faults
      return false
    } finally {
      busy.value = false
    }
  }
  return { faults, busy, attempt }
}

/** For a field: the faults of the form it stands in. */
export const useFormFaults = (): Ref<Faults> => inject(KEY, ref({}))
