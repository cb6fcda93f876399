/** The user's choices as they travel in the address: only what differs from the house's defaults. */
import type { LocationQuery } from 'vue-router'

import type { Schemas } from '@/api/client'

export type Choices = Schemas['ChoicesShape']

/** The names of all choices, each with how its text is read. The defaults themselves live in the core. */
export const CHOICE_KINDS = {
  payload_school: 'word', payload_percent: 'number', darkness: 'word', min_altitude_deg: 'number', moon_limit_mag: 'number',
  pole: 'word', setup_time: 'word', alignment_arcmin: 'number', elongation_limit: 'number', keep_percent: 'number',
  noise_percent: 'number', ceiling_percent: 'number', f_number: 'number', sub_school: 'word', fixed_sub_s: 'number', iso: 'number',
  gap_s: 'number', delay_s: 'number', convention: 'word', card_gb: 'number', darks: 'number',
} as const satisfies Record<keyof Choices, 'word' | 'number'>

export type ChoiceName = keyof typeof CHOICE_KINDS
const NAMES = Object.keys(CHOICE_KINDS) as ChoiceName[]

/** Text as typed to what the server is sent: a number where it is one, else the text itself, so that the server can name it. */
export function typed(text: string): number | string | null {
  const bare = text.trim()
  if (bare === '') return null
  const value = Number(bare)
  return Number.isFinite(value) ? value : bare
}

/** Choices out of an address. */
export function choicesIn(query: LocationQuery): Partial<Choices> {
  const found: Record<string, number | string | null> = {}
  for (const name of NAMES) {
    const text = query[name]
    if (typeof text !== 'string' || text === '') continue
    found[name] = CHOICE_KINDS[name] === 'number' ? typed(text) : text
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
