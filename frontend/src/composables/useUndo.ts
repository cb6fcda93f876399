/** The last deletion, and the way back. */
import { shallowRef } from 'vue'

interface Undo {
  text: string
  undo: () => Promise<void>
}

export const undoable = shallowRef<Undo | null>(null)

export function offerUndo(text: string, undo: () => Promise<void>) {
  undoable.value = { text, undo }
}
