/** Dates: read in any spelling that can only mean one, written as 9 Dec 2026, which nobody can misread. The server's form is 2026-12-09. */

const HERE = 'en-GB'

type Shape = Intl.DateTimeFormatOptions
const SHAPES = {
  weekday: { weekday: 'short' },
  day: { day: 'numeric', month: 'short' },
  named: { weekday: 'short', day: 'numeric', month: 'short' },
  full: { day: 'numeric', month: 'short', year: 'numeric' },
  whole: { weekday: 'short', day: 'numeric', month: 'short', year: 'numeric' },
  month: { month: 'short' },
} satisfies Record<string, Shape>
const faces = Object.fromEntries(
  Object.entries(SHAPES).map(([name, shape]) => [name, new Intl.DateTimeFormat(HERE, { ...shape, timeZone: 'UTC' })]),
) as Record<keyof typeof SHAPES, Intl.DateTimeFormat>

/** A date of the server in words, as its own sentences have them; text that is none stays as it is. */
export function dateWords(date: string | null | undefined, shape: keyof typeof SHAPES = 'full'): string {
  const at = new Date(`${date ?? ''}T12:00:00Z`)
  return Number.isNaN(at.getTime()) ? (date ?? '') : faces[shape].format(at).replace('Sept', 'Sep').replace(',', '')
}

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
const ISO = /^\d{4}-\d{2}-\d{2}$/
const DAY_FIRST = /^(?:[a-z]{2,9},? +)?(\d{1,2})\.? +([a-z]{3,9})\.?,? +(\d{4})$/i
const MONTH_FIRST = /^(?:[a-z]{2,9},? +)?([a-z]{3,9})\.? +(\d{1,2}),? +(\d{4})$/i

/** A date as typed to the server's form. Text that is no date, or could be two, stays, so that the server can say what is wrong. */
export function readDate(text: string): string {
  const bare = text.trim()
  if (ISO.test(bare)) return bare
  const dayFirst = DAY_FIRST.exec(bare)
  const monthFirst = MONTH_FIRST.exec(bare)
  const [day, month, year] = dayFirst
    ? [dayFirst[1], dayFirst[2], dayFirst[3]]
    : monthFirst
      ? [monthFirst[2], monthFirst[1], monthFirst[3]]
      : []
  const place = month ? MONTHS.findIndex((one) => month.toLowerCase().startsWith(one)) : -1
  if (!day || !year || place < 0) return bare
  return `${year}-${String(place + 1).padStart(2, '0')}-${day.padStart(2, '0')}`
}

/** The same for a date with a time of day behind it, as a camera's clock tells them. */
export function momentWords(moment: string): string {
  const [date = '', ...rest] = moment.trim().replace('T', ' ').split(' ')
  return [dateWords(date), ...rest].join(' ')
}
export function readMoment(text: string): string {
  const cut = text.trim().lastIndexOf(' ')
  return cut < 0 ? readDate(text) : `${readDate(text.trim().slice(0, cut))} ${text.trim().slice(cut + 1)}`
}
