/** How figures are written. */
import type { Quantity } from './useTonight'

const THIN = '\u202f'

/** A number with its decimals and grouped thousands. */
export function number(value: number, decimals: number): string {
  const shown = Number(value.toFixed(decimals)) || 0 // rounded as the server rounds; no minus before a nought
  return shown
    .toLocaleString('en-GB', {
      minimumFractionDigits: decimals,
      maximumFractionDigits: decimals,
      useGrouping: Math.abs(shown) >= 10_000,
    })
    .replace(/,/g, THIN)
    .replace('-', '−')
}

/** Units that stand close to the number. */
const CLOSE = ['°', '′', '″']

/** A quantity as one piece of text: words, clock time, or number with unit. */
export function figure(quantity: Quantity): string {
  if (quantity.text) return quantity.text
  if (quantity.value === null || quantity.value === undefined) return '–'
  const bare = number(quantity.value, quantity.decimals)
  if (!quantity.unit) return bare
  return CLOSE.some((unit) => quantity.unit.startsWith(unit)) && !quantity.unit.startsWith('°C')
    ? `${bare}${quantity.unit}`
    : `${bare} ${quantity.unit}`
}

/** The same instant in UTC, for those who ask. */
export function inUtc(moment: string | null | undefined): string | undefined {
  return moment ? `${moment.slice(11, 16)} UTC` : undefined
}

/** A place on the Earth, with the hemispheres in letters. */
export function coordinateWords(latitude: number, longitude: number, decimals: number, unit = ''): string {
  const part = (value: number, positive: string, negative: string) =>
    `${Math.abs(value).toFixed(decimals)}${unit} ${value < 0 ? negative : positive}`
  return `${part(latitude, 'N', 'S')}, ${part(longitude, 'E', 'W')}`
}
