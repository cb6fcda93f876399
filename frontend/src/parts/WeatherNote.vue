<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

/** Who says what the weather will be, and since when; and what is wrong with it. */
const props = defineProps<{ weather: Schemas['WeatherOut'] }>()
const WORD: Record<string, string> = {
  missing: 'Weather missing.',
  stale: 'Old forecast.',
  off: 'No forecast.',
  fresh: 'Forecast.',
  asked: 'Forecast.',
  file: 'Forecast.',
}
const told = computed(() => props.weather.words !== '' && !(props.weather.state === 'off' && props.weather.typed))
const source = computed(() => {
  const { source: who, issued, missing } = props.weather
  if (!who) return ''
  const lacking = missing.map((one) => one.replaceAll('_', ' ')).join(', ')
  return `Weather by ${who}${issued ? `, issued ${issued}` : ''}.${lacking ? ` Not told: ${lacking}.` : ''}`
})
</script>

<template>
  <p v-if="told" class="note" :class="weather.state" role="status">
    <b>{{ WORD[weather.state] }}</b> {{ weather.typed ? 'Your own figures under “How” stand in.' : weather.words }}
  </p>
  <p v-if="source" class="source muted">{{ source }}</p>
</template>

<style scoped>
.note {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--line);
  color: var(--muted);
}
.missing,
.stale {
  border-left-color: var(--care);
  color: var(--text);
}
.source {
  font-size: 12px;
}
</style>
