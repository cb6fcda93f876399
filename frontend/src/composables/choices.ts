/** The user's choices as they travel in the address: only what differs from the house's defaults. */
import type { LocationQuery } from 'vue-router'

import DESCRIBED from '@/api/choices.json'
import type { Schemas } from '@/api/client'

export type Choices = Schemas['ChoicesShape']

export type ChoiceName = keyof typeof DESCRIBED
type Option = { value: string; label: string }
type Described = {
  group: string
  kind: 'number' | 'word'
  label: string
  unit: string
  hint: string
  empty: string
  options: readonly Option[]
}

/** All choices as the core describes them: how their text is read, what they are called, what stands where nothing is given. */
export const CHOICES = DESCRIBED as Record<ChoiceName, Described>
/** The words of a choice that is one of a few. */
export const optionsOf = (name: ChoiceName): Option[] => [...CHOICES[name].options]
const NAMES = Object.keys(CHOICES) as ChoiceName[]

/** What a field path of the server is called on the page. */
export function fieldWord(path: string): string {
  const context: Record<string, string> = { rig: 'Rig', spot: 'Spot', target: 'Target', night: 'Night', name: 'Name' }
  return path in CHOICES ? CHOICES[path as ChoiceName].label : (context[path] ?? path)
}

const MINUS = /^[\u2010-\u2015\u2212]/
const COMMA = /^[+-]?\d*,\d+$/
const THOUSANDS = /^[+-]?[1-9]\d{0,2},\d{3}$/ // 1.25 to some and 1250 to others: the server says so
/** Text as typed to what the server is sent: a number where it is plainly one, with a point or a comma, else the text itself, which
 * the server reads or names. */
export function typed(text: string): number | string | null {
  const bare = text.trim().replace(MINUS, '-')
  if (bare === '') return null
  const value = Number(COMMA.test(bare) && !THOUSANDS.test(bare) ? bare.replace(',', '.') : bare)
  return Number.isFinite(value) ? value : bare
}

/** Choices out of an address. */
export function choicesIn(query: LocationQuery): Partial<Choices> {
  const found: Record<string, number | string | null> = {}
  for (const name of NAMES) {
    const text = query[name]
    if (typeof text !== 'string' || text === '') continue
    found[name] = CHOICES[name].kind === 'number' ? typed(text) : text
  }
  return found as Partial<Choices>
}

/** Choices for an address: those that were set, without the empty ones. */
export function choicesOut(choices: Partial<Choices>, defaults: Partial<Choices> = {}): Record<string, string> {
  const out: Record<string, string> = {}
  for (const name of NAMES) {
    const value = choices[name]
    if (value === undefined || value === null || value === '' || value === defaults[name]) continue
    out[name] = String(value)
  }
  return out
}

/** The same date some days on, as the server writes dates. */
export function shiftedNight(night: string, days: number): string {
  const at = new Date(`${night}T12:00:00Z`)
  if (Number.isNaN(at.getTime())) return night
  at.setUTCDate(at.getUTCDate() + days)
  return at.toISOString().slice(0, 10)
}
