/** The user's choices as they travel in the address: only what differs from the house's defaults. */
import type { LocationQuery } from 'vue-router'

import type { Schemas } from '@/api/client'

export type Choices = Schemas['ChoicesShape']

/** All choices: how their text is read, and what they are called. The defaults themselves live in the core. */
export const CHOICES = {
  sub_school: { kind: 'word', label: 'Length of a sub' },
  fixed_sub_s: { kind: 'number', label: 'The habit', unit: 's' },
  f_number: { kind: 'number', label: 'f-number' },
  iso: { kind: 'number', label: 'ISO' },
  keep_percent: { kind: 'number', label: 'Frames to keep', unit: '%' },
  shift_percent: { kind: 'number', label: 'The field may wander', unit: '% of the frame' },
  elongation_limit: { kind: 'number', label: 'A star may lengthen to', unit: '×' },
  noise_percent: { kind: 'number', label: 'Read noise may add', unit: '%' },
  ceiling_percent: { kind: 'number', label: 'Sky may fill', unit: '% of clip' },
  alignment_arcmin: { kind: 'number', label: 'Axis error you expect', unit: '′' },
  setup_time: { kind: 'word', label: 'Set-up at, local time' },
  pole: { kind: 'word', label: 'Aim at the pole' },
  recheck_school: { kind: 'word', label: 'Look at the axis again' },
  darkness: { kind: 'word', label: 'Dark from' },
  min_altitude_deg: { kind: 'number', label: 'Lowest altitude', unit: '°' },
  moon_limit_mag: { kind: 'number', label: 'The Moon may add', unit: 'mag' },
  payload_school: { kind: 'word', label: 'Load the tracker to' },
  payload_percent: { kind: 'number', label: 'Own share', unit: '%' },
  convention: { kind: 'word', label: 'Interval means' },
  tracking: { kind: 'word', label: 'The camera is' },
  untracked_school: { kind: 'word', label: 'Without a tracker' },
  guide_rms_arcsec: { kind: 'number', label: 'Guiding leaves', unit: '″' },
  wind_level: { kind: 'word', label: 'Wind that shakes' },
  filter_name: { kind: 'word', label: 'Filter' },
  spoils_per_h: { kind: 'number', label: 'Something spoils a frame', unit: 'times an hour' },
  star_mag: { kind: 'number', label: 'Star colour from', unit: 'mag' },
  goal_snr: { kind: 'number', label: 'Signal to noise wanted' },
  most_hours: { kind: 'number', label: 'At most', unit: 'h' },
  gap_s: { kind: 'number', label: 'Gap', unit: 's' },
  mirror_s: { kind: 'number', label: 'Mirror lock-up', unit: 's' },
  noise_reduction: { kind: 'word', label: 'Long-exposure noise reduction' },
  delay_s: { kind: 'number', label: 'Delay', unit: 's' },
  card_gb: { kind: 'number', label: 'Memory card', unit: 'GB' },
  dark_school: { kind: 'word', label: 'Against hot pixels' },
  darks: { kind: 'number', label: 'Darks' },
  flats: { kind: 'number', label: 'Flats' },
  bias: { kind: 'number', label: 'Bias' },
  aperture_school: { kind: 'word', label: 'Aperture' },
  support_school: { kind: 'word', label: 'Ball head or bracket' },
  dec_school: { kind: 'word', label: 'Balance in declination' },
  lifting: { kind: 'word', label: 'Residual torque' },
  lifting_g_cm: { kind: 'number', label: 'of', unit: 'g·cm' },
  dew_school: { kind: 'word', label: 'Against dew' },
  air_evening_c: { kind: 'number', label: 'Air at sunset', unit: '°C' },
  air_low_c: { kind: 'number', label: 'Coldest in the night', unit: '°C' },
  humidity_percent: { kind: 'number', label: 'Humidity at sunset', unit: '%' },
  wind_m_s: { kind: 'number', label: 'Wind', unit: 'm/s' },
} as const satisfies Record<keyof Choices, { kind: 'word' | 'number'; label: string; unit?: string }>

/** Words of the schools that stand in more than one place. */
export const TRACKINGS = [
  { value: 'tracked', label: 'tracked' },
  { value: 'guided in RA', label: 'guided in RA' },
  { value: 'guided', label: 'guided, both axes' },
  { value: 'untracked', label: 'standing still' },
]
export const UNTRACKED = [
  { value: 'pixel', label: 'strict, by pixels' },
  { value: 'detailed', label: 'the detailed formula' },
  { value: '500', label: '500 over focal length' },
]
export const WINDS = [
  { value: 'none', label: 'none' },
  { value: 'light', label: 'light' },
  { value: 'fresh', label: 'fresh' },
  { value: 'strong', label: 'strong' },
]

export type ChoiceName = keyof typeof CHOICES
const NAMES = Object.keys(CHOICES) as ChoiceName[]

/** What a field path of the server is called on the page. */
export function fieldWord(path: string): string {
  const context: Record<string, string> = { rig: 'Rig', spot: 'Spot', target: 'Target', night: 'Night', name: 'Name' }
  return path in CHOICES ? CHOICES[path as ChoiceName].label : (context[path] ?? path)
}

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
