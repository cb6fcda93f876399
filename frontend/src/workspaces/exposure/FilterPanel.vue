<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { percent } from '@/instruments/lengths'

import { priceWords } from './price'

/** The person's filters and usual ones under this night's sky, each with its own window and its hours. */
defineProps<{ rows: Schemas['ExposureOut']['filters'] }>()
const emit = defineEmits<{ open: []; price: [what: string, price: Schemas['Price']]; set: [part: object] }>()
</script>

<template>
  <div class="panel">
    <h2>Filter, under this night’s sky</h2>
    <table class="rows filters">
      <thead>
        <tr>
          <th scope="col">Filter</th>
          <th scope="col"><button type="button" class="plain dotted" @click="emit('open')">Sky</button></th>
          <th scope="col"><button type="button" class="plain dotted" @click="emit('open')">Target</button></th>
          <th scope="col">Tonight</th>
          <th scope="col">Hours</th>
          <th scope="col"><span class="unseen">Does it pay</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in rows" :key="one.name" :class="{ chosen: one.chosen }" class="number">
          <th scope="row">
            <button
              v-if="one.whose === 'yours'"
              type="button"
              class="plain"
              @click="emit('set', { filter_name: one.name === 'No filter' ? 'none' : one.name })">
              {{ one.name }}</button><template v-else
              >{{ one.name }}<small class="muted">{{ one.whose }}</small></template
            >
          </th>
          <td>
            <button type="button" class="plain dotted" @click="emit('open')">
              {{ one.sky_stops < 0.05 ? 'all' : `−${number(one.sky_stops, 1)} stops` }}
            </button>
          </td>
          <td>
            {{ percent(one.target_share) }}<small class="muted"> {{ one.colour }}</small>
          </td>
          <td>{{ one.usable_min ? `${number(one.usable_min / 60, 1)} h` : 'no time' }}</td>
          <td>
            <button type="button" class="plain dotted" @click="emit('price', one.name, one.price)">
              {{ priceWords(one.price) }}
            </button>
          </td>
          <td>{{ one.words }}</td>
        </tr>
      </tbody>
    </table>
    <p class="muted">
      Your own filters, and usual ones you do not own, each with the time this night leaves it: a filter that keeps the
      sky out bears more of the Moon.
    </p>
  </div>
</template>

<style scoped src="./ways.css"></style>

<style scoped>
.filters td:not(:last-child) {
  white-space: nowrap;
}
</style>
