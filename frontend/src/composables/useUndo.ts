/** What was done last, and the way back where there is one. */
import { shallowRef } from 'vue'

interface Undo {
  text: string
  undo: (() => Promise<void>) | null
}

export const undoable = shallowRef<Undo | null>(null)

/** While a newer change is on its way, the way back of the older one is no longer what a person means. */
export function withdrawUndo() {
  undoable.value = null
}

export function offerUndo(text: string, undo: () => Promise<void>) {
  undoable.value = { text, undo }
}

export function say(text: string) {
  undoable.value = { text, undo: null }
}
