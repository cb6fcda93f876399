/** The alarm that a person sets on this phone, and what was missed while it slept. */
import { ref } from 'vue'

import * as store from './store'
import { useAwake } from './useAwake'
import { useField } from './useField'

const wakesAt = ref<number | null>(null)
let of: number | null = null

export function useWake() {
  const { night } = useField()
  const { keepAwake } = useAwake()
  const name = () => `wake:${night.value ?? 0}`
  async function remember() {
    if (of === night.value) return
    of = night.value
    const kept = await store.own(name()).catch(() => undefined)
    wakesAt.value = kept ? Number(kept) : null
  }
  /** By the server's clock; nothing takes it back. A sleeping phone rings for nobody, so the screen stays on. */
  async function wakeAt(moment: number | null) {
    wakesAt.value = moment
    await store.keepOwn(name(), moment ?? 0).catch(() => undefined)
    if (moment !== null) await keepAwake(true)
  }
  return { wakesAt, wakeAt, remember }
}
