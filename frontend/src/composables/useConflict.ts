/** Somebody saved the same record meanwhile, on another tab or device: both are shown, and the person chooses. */
import { shallowRef } from 'vue'

export type Which = 'mine' | 'theirs' | 'back'
export type Values = Record<string, unknown>

export interface Conflict {
  mine: Values
  theirs: Values
  decide: (which: Which) => void
}

/** The one that waits for an answer. */
export const conflict = shallowRef<Conflict | null>(null)

/** Ask which of the two shall stand; `back` leaves both as they are, and the form open. */
export function askWhich(mine: Values, theirs: Values): Promise<Which> {
  return new Promise((done) => {
    conflict.value = {
      mine,
      theirs,
      decide: (which) => {
        conflict.value = null
        done(which)
      },
    }
  })
}

const plain = (value: unknown): value is Values => typeof value === 'object' && value !== null && !Array.isArray(value)
const words = (value: unknown) =>
  value === null || value === undefined || value === ''
    ? '–'
    : typeof value === 'object'
      ? JSON.stringify(value)
      : String(value)

/** What differs, a level into what is nested; only what the form holds is compared. */
export function differences(mine: Values, theirs: Values): { name: string; mine: string; theirs: string }[] {
  return Object.entries(mine).flatMap(([name, value]) => {
    const other = theirs[name]
    if (name === 'version' || value === undefined) return []
    if (plain(value) && plain(other)) return differences(value, other)
    if (JSON.stringify(value ?? null) === JSON.stringify(other ?? null)) return []
    return [{ name: name.replace(/_/g, ' '), mine: words(value), theirs: words(other) }]
  })
}
