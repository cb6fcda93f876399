/** The last deletion, and the way back. */
import { shallowRef } from 'vue'

interface Undo {
  text: string
  undo: () => Promise<void>
}

export const undoable = shallowRef<Undo | null>(null)

/** While a newer change is on its way, the way back of the older one is no longer what a person means. */
export function withdrawUndo() {
  undoable.value = null
}

export function offerUndo(text: string, undo: () => Promise<void>) {
  undoable.value = { text, undo }
}
