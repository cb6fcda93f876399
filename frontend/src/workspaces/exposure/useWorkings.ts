/** Which working lies open: one of the verdict's, or that of a single row's price. */
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import type { Verdict } from '@/composables/useTonight'

import { priceWords } from './price'

export function useWorkings(verdictWith: (key: string) => Verdict | null) {
  const shown = ref<string | null>(null)
  const priced = ref<Verdict | null>(null)
  const opened = computed(() => priced.value ?? (shown.value === null ? null : verdictWith(shown.value)))
  /** A row is reckoned with its own figures; nothing of the setting in hand stands beside them. */
  function price(what: string, price: Schemas['Price']) {
    const verdict = verdictWith(price.working.key)
    if (verdict) priced.value = { ...verdict, topic: 'Hours', sentence: `${what}: ${priceWords(price)}.`, binding: '', caution: '', workings: [price.working] }
  }
  function close() {
    shown.value = null
    priced.value = null
  }
  return { shown, opened, price, close }
}
