<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'

/** Fourteen nights as narrow columns: dark hours, of them without the Moon, and how full it is. */
const props = defineProps<{ nights: Schemas['NightSummary'][]; current: string }>()
const emit = defineEmits<{ pick: [night: string] }>()
const most = computed(() => Math.max(60, ...props.nights.map((night) => night.dark_minutes)))
const hours = (minutes: number) => (minutes / 60).toFixed(1)
const spoken = (night: Schemas['NightSummary']) =>
  [
    `${dateWords(night.night, 'named')}: ${night.dark_words} dark`,
    `${hours(night.moonless_minutes)} h of it without the Moon`,
    `Moon ${Math.round(night.moon_lit_percent)} % lit`,
  ].join(', ')
const named = (night: string) => ({ day: dateWords(night, 'weekday'), date: dateWords(night, 'day') })
</script>

<template>
  <ol class="row" aria-label="The coming fortnight">
    <li v-for="night in nights" :key="night.night">
      <button
        type="button"
        class="plain"
        :aria-current="night.night === current ? 'date' : undefined"
        :aria-label="spoken(night)"
        @click="emit('pick', night.night)">
        <span class="date"
          >{{ named(night.night).day }} <b class="number">{{ named(night.night).date }}</b></span
        >
        <span class="bar" aria-hidden="true"
          ><i class="dark" :style="{ height: `${(100 * night.dark_minutes) / most}%` }" /><i
            class="free"
            :style="{ height: `${(100 * night.moonless_minutes) / most}%` }"
        /></span>
        <span class="number">{{
          night.dark_minutes ? `${hours(night.moonless_minutes)} of ${hours(night.dark_minutes)} h` : 'not dark'
        }}</span>
        <small class="muted number">Moon {{ Math.round(night.moon_lit_percent) }} %</small>
      </button>
    </li>
  </ol>
</template>

<style scoped>
.row {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(14, minmax(0, 1fr));
  gap: 4px;
}
button {
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 1px;
  width: 100%;
  padding: 3px 1px;
  border-radius: 6px;
  font-size: 11.5px;
  text-align: center;
  white-space: nowrap;
}
button:hover {
  background: var(--raised);
}
button[aria-current] {
  background: var(--raised);
  box-shadow: inset 0 -2px 0 var(--accent);
}
@media (max-width: 820px) {
  .row {
    grid-template-columns: repeat(14, 74px);
    overflow-x: auto;
  }
}
.bar {
  position: relative;
  width: 22px;
  height: 30px;
}
.bar i {
  position: absolute;
  bottom: 0;
  left: 0;
  width: 100%;
  border-radius: 2px;
}
.dark {
  background: var(--line);
}
.free {
  background: var(--accent);
}
small {
  font-size: 11px;
}
</style>
