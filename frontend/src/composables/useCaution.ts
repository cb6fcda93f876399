/** A caution is shown at its step until it is understood, once a night. */
import { useLocalStorage } from '@vueuse/core'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'

const KEPT = 60
const seen = useLocalStorage<string[]>('wide-dusk-understood', [])

export function useCaution(key: MaybeRefOrGetter<string>) {
  const unseen = computed(() => !seen.value.includes(toValue(key)))
  function understood() {
    seen.value = [...seen.value, toValue(key)].slice(-KEPT)
  }
  return { unseen, understood }
}
