/** A tap that counts once: a second one in the same moment is a trembling thumb. What it wrote can be undone for a while. */
import { onUnmounted, ref } from 'vue'

import type { FieldEvent } from './fold'
import { useField } from './useField'

const REST_MS = 700
const UNDO_MS = 5_000
const resting = ref(false)
const undoable = ref<FieldEvent | null>(null)
let forget: ReturnType<typeof setTimeout> | null = null

export function useTap() {
  const field = useField()
  /** The next step comes when this one is on the disk. */
  async function tap(...event: Parameters<typeof field.record>): Promise<boolean> {
    if (resting.value) return false
    resting.value = true
    const began = performance.now()
    const written = await field.record(...event)
    setTimeout(() => (resting.value = false), Math.max(REST_MS - (performance.now() - began), 0))
    undoable.value = written
    if (forget) clearTimeout(forget)
    forget = setTimeout(() => (undoable.value = null), UNDO_MS)
    return true
  }
  async function undo() {
    const event = undoable.value
    undoable.value = null
    if (event) await field.takeBack(event)
  }
  onUnmounted(() => (undoable.value = null))
  return { resting, undoable, tap, undo }
}
