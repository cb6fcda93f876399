/** Which working lies open: one of the verdict's, or that of a single row of a table. */
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import type { Verdict } from '@/composables/useTonight'

import { priceWords } from './price'

export function useWorkings(verdictWith: (key: string) => Verdict | null) {
  const shown = ref<string | null>(null)
  const single = ref<Verdict | null>(null)
  const opened = computed(() => single.value ?? (shown.value === null ? null : verdictWith(shown.value)))
  /** A row is reckoned with its own figures; nothing of the setting in hand stands beside them. */
  function row(topic: string, sentence: string, working: Schemas['Working']) {
    const verdict = verdictWith(working.key)
    if (verdict)
      single.value = { ...verdict, topic, sentence: `${sentence}.`, binding: '', caution: '', workings: [working] }
  }
  const price = (what: string, price: Schemas['Price']) => row('Hours', `${what}: ${priceWords(price)}`, price.working)
  function close() {
    shown.value = null
    single.value = null
  }
  return { shown, opened, row, price, close }
}
