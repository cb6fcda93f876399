/** Drawing sums of the dusk strip; no astronomy, only places on the screen. */

/** Sky brightness in mag/arcsec² at which the strip has each of its own colours. */
const SHADES: readonly (readonly [number, string])[] = [
  [5, '--sky-bright'],
  [10, '--sky-sunset'],
  [15, '--sky-rose'],
  [19, '--sky-violet'],
  [21.8, '--sky-dark'],
]

/** Colour of a sky brightness, mixed between the theme's own shades. */
export function skyColour(mag: number): string {
  const upper = SHADES.findIndex(([at]) => mag < at)
  if (upper === 0) return `var(${SHADES[0]?.[1]})`
  if (upper === -1) return `var(${SHADES[SHADES.length - 1]?.[1]})`
  const [from, to] = [SHADES[upper - 1], SHADES[upper]]
  if (!from || !to) return 'var(--sky-dark)'
  const share = Math.round(((mag - from[0]) / (to[0] - from[0])) * 100)
  return `color-mix(in oklab, var(${from[1]}), var(${to[1]}) ${share}%)`
}

export interface Stretch {
  state: string
  first: number
  last: number
}

/** Runs of equal states, in minutes. */
export function stretches(states: readonly string[]): Stretch[] {
  const found: Stretch[] = []
  states.forEach((state, minute) => {
    const open = found[found.length - 1]
    if (open && open.state === state) open.last = minute
    else found.push({ state, first: minute, last: minute })
  })
  return found
}

/** Rows for labels so that none covers another: each goes to the first row with room. A label that fits no row is left out (-1). */
export function labelRows(places: readonly { x: number; width: number }[], rows: number): number[] {
  const ends = Array.from({ length: rows }, () => Number.NEGATIVE_INFINITY)
  return places.map(({ x, width }) => {
    const row = ends.findIndex((end) => end + 6 <= x)
    if (row >= 0) ends[row] = x + width
    return row
  })
}

/** The whole minute that clocks show, as the server rounds it. */
const nearest = (moment: Date) => Math.round(moment.getTime() / 60_000) * 60_000

const faces = new Map<string, Intl.DateTimeFormat>()

/** Local "HH:MM" at a place of a minute of the strip; a night in which the clocks are put on or back has two offsets. */
export function clock(start: Date, timeZone: string, minute: number): string {
  let face = faces.get(timeZone)
  if (!face) {
    face = new Intl.DateTimeFormat('en-GB', { timeZone, hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })
    faces.set(timeZone, face)
  }
  return face.format(nearest(start) + minute * 60_000)
}

/** Minutes of the strip at which the local clock strikes full hours, with the hour. Zones differ by quarters of an hour. */
export function fullHours(start: Date, timeZone: string, minutes: number): { minute: number; label: string }[] {
  const found = []
  const first = (15 - ((nearest(start) / 60_000) % 15)) % 15
  for (let minute = first; minute < minutes; minute += 15) {
    const label = clock(start, timeZone, minute)
    if (label.endsWith(':00')) found.push({ minute, label })
  }
  return found
}

/** The state of a minute in words. */
export const STATE_WORDS: Record<string, string> = {
  day: 'day',
  twilight: 'twilight',
  low: 'too low',
  blocked: 'behind the horizon profile',
  moonlit: 'too much moonlight',
  usable: 'usable',
}
