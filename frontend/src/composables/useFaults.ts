/** What is wrong with which field of a form. Fields find their own message by their path; what no field shows is told on top. */
import {
  computed,
  inject,
  onScopeDispose,
  provide,
  ref,
  shallowReactive,
  type ComputedRef,
  type InjectionKey,
  type Ref,
} from 'vue'

import { byField, Refusal, type Fault, type Faults } from '@/api/client'

import { fieldWord } from './choices'

interface Form {
  faults: Ref<Faults>
  /** Which paths are shown by what stands on the page at this moment. */
  fields: Map<symbol, (path: string) => boolean>
  elsewhere: ComputedRef<string[]>
}
const KEY: InjectionKey<Form> = Symbol('form')

function makeForm(faults: Ref<Faults>, list?: Ref<readonly Fault[]>): Form {
  const fields = shallowReactive(new Map<symbol, (path: string) => boolean>())
  const elsewhere = computed(() => {
    const shown = (path: string) => [...fields.values()].some((shows) => shows(path))
    const all = list?.value ?? Object.entries(faults.value).map(([field, message]) => ({ field, message }))
    return all
      .filter(({ field }) => !shown(field))
      .map(({ field, message }) => (field ? `${fieldWord(field)}: ${message}` : message))
  })
  return { faults, fields, elsewhere }
}

/** For a form that asks by itself: the faults of what was last answered. */
export function showFaults(list: Ref<readonly Fault[]>) {
  provide(
    KEY,
    makeForm(
      computed(() => byField(list.value)),
      list,
    ),
  )
}

/** For the form: holds the faults and runs what may be refused. */
export function useFaults() {
  const busy = ref(false)
  const faults = ref<Faults>({})
  const form = makeForm(faults)
  provide(KEY, form)

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
  return { faults, busy, attempt, elsewhere: form.elsewhere }
}

const useForm = () => inject(KEY, () => makeForm(ref({})), true)

/** While a field stands on the page, its faults are its own to show. */
function claim({ fields }: Form, shows: (path: string) => boolean) {
  const self = Symbol('field')
  fields.set(self, shows)
  onScopeDispose(() => fields.delete(self))
}

/** For a field: what is wrong with it, empty when nothing is. */
export function useFieldFault(path: () => string): ComputedRef<string> {
  const form = useForm()
  claim(form, (other) => other === path())
  return computed(() => form.faults.value[path()] ?? '')
}

/** For a field of many values: what is wrong with it and with each of them, by path. */
export function useFaultsBelow(path: () => string): ComputedRef<Faults> {
  const form = useForm()
  const below = (other: string) => other === path() || other.startsWith(`${path()}.`)
  claim(form, below)
  return computed(() => Object.fromEntries(Object.entries(form.faults.value).filter(([other]) => below(other))))
}

/** For the top of a form: how many faults there are, and those that no field of the page shows. */
export function useFormFaults() {
  const { faults, elsewhere } = useForm()
  return { count: computed(() => Object.keys(faults.value).length), elsewhere }
}
