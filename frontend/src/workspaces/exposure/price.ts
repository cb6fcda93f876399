import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

/** Hours against those of the setting in hand, in words. */
export function priceWords(price: Pick<Schemas['Price'], 'hours' | 'against'>): string {
  if (price.hours == null) return 'out of reach'
  if (price.against == null || Math.abs(price.against - 1) < 0.005) return `${number(price.hours, 1)} h`
  const percent = (price.against - 1) * 100
  return `${number(price.hours, 1)} h, ${percent > 0 ? '+' : '−'}${number(Math.abs(percent), 0)} %`
}
