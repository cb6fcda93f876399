<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** What is to be told of the weather's source: nothing while the forecast is fresh and reaches the night. */
defineProps<{ weather: Schemas['WeatherOut'] }>()
const WORD: Record<string, string> = {
  missing: 'Weather missing.',
  stale: 'Old forecast.',
  off: 'No forecast.',
  fresh: 'Forecast.',
  asked: 'Forecast.',
}
</script>

<template>
  <p
    v-if="weather.words && !(weather.state === 'off' && weather.typed)"
    class="note"
    :class="weather.state"
    role="status">
    <b>{{ WORD[weather.state] }}</b> {{ weather.typed ? 'Your own figures under “How” stand in.' : weather.words }}
  </p>
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
</style>
