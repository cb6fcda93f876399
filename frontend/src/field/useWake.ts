/** The alarm that a person sets on this phone, and what was missed while it slept. */
import { ref } from 'vue'

import * as store from './store'
import { useAwake } from './useAwake'
import { useField } from './useField'

const wakesAt = ref<number | null>(null)
let of: number | null = null
let reading: Promise<void> = Promise.resolve()

export function useWake() {
  const { night, now } = useField()
  const { keepAwake } = useAwake()
  const name = () => `wake:${night.value ?? 0}`
  /** The alarm that was set before this page was loaded; it needs the screen on as much as a new one. */
  function remember(): Promise<void> {
    if (of !== night.value) {
      of = night.value
      reading = read(name())
    }
    return reading
  }
  async function read(subject: string) {
    const kept = await store.own(subject).catch(() => undefined)
    wakesAt.value = kept ? Number(kept) : null
    if (wakesAt.value && wakesAt.value > now.value) await keepAwake(true)
  }
  /** By the server's clock; nothing takes it back. A sleeping phone rings for nobody, so the screen stays on. */
  async function wakeAt(moment: number | null) {
    wakesAt.value = moment
    await store.keepOwn(name(), moment ?? 0).catch(() => undefined)
    if (moment !== null) await keepAwake(true)
  }
  return { wakesAt, wakeAt, remember }
}
