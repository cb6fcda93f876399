/** The screen stays on when asked, and the brightness steps down. */
import { useLocalStorage } from '@vueuse/core'
import { ref, watchEffect } from 'vue'

const awake = ref(false)
const dim = useLocalStorage('wide-dusk-field-dim', 0)
let lock: WakeLockSentinel | null = null

async function hold(): Promise<void> {
  if (!awake.value || document.visibilityState !== 'visible') return
  try {
    lock = (await navigator.wakeLock?.request('screen')) ?? null
    if (!lock) awake.value = false
  } catch {
    awake.value = false // an empty battery, or a browser that will not
  }
}
document.addEventListener('visibilitychange', () => void hold())
watchEffect(() => document.documentElement.setAttribute('data-dim', String(dim.value)))

export function useAwake() {
  async function keepAwake(wanted: boolean) {
    awake.value = wanted
    if (wanted) await hold()
    else await lock?.release().catch(() => undefined)
  }
  const dimmer = () => (dim.value = (dim.value + 1) % 3)
  return { awake, dim, keepAwake, dimmer }
}
