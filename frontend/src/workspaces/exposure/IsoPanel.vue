<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { lengthWords, percent } from '@/instruments/lengths'
import LinePlot from '@/parts/LinePlot.vue'

import { priceWords } from './price'

/** Every ISO of this camera at the chosen sub: noise, room, and hours. */
const props = defineProps<{ data: Schemas['ExposureOut']; goal: number }>()
const emit = defineEmits<{ open: [key: string]; price: [what: string, price: Schemas['Price']]; set: [part: object] }>()
const sub = computed(() => lengthWords(props.data.advised_s))
const lines = computed(() => [
  { name: 'Read noise, e⁻', points: props.data.isos.map((one) => [one.iso, one.read_noise_e] as const) },
  {
    name: 'Range, stops',
    points: props.data.isos.map((one) => [one.iso, one.range_stops] as const),
    right: true,
    dashed: true,
  },
])
const invariant = computed(() => props.data.isos.find((one) => one.invariant)?.iso)
const mark = computed(() =>
  invariant.value ? { at: invariant.value, name: `ISO-invariant from ${invariant.value}` } : null,
)
const estimated = computed(() => props.data.isos.some((one) => one.origin === 'book' && !one.between))
</script>

<template>
  <div class="panel iso">
    <h2>ISO, at subs of {{ sub }}</h2>
    <p v-if="estimated" class="note">
      Read noise and full well are an estimate by the size of the pixels, not this camera’s own; cameras differ by half.
      <RouterLink :to="{ name: 'exposure-camera', query: $route.query }">Measure yours</RouterLink> from two flats and
      two bias frames.
    </p>
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">ISO</th>
          <th scope="col">Read noise</th>
          <th scope="col">Full well</th>
          <th scope="col">
            <button type="button" class="plain dotted" @click="emit('open', 'sky_limited')">Sky-limited from</button>
          </th>
          <th scope="col">
            <button type="button" class="plain dotted" @click="emit('open', 'sky_limited')">Noise added</button>
          </th>
          <th scope="col">
            <button type="button" class="plain dotted" @click="emit('open', 'histogram')">Sky on camera</button>
          </th>
          <th scope="col">
            <button type="button" class="plain dotted" @click="emit('open', 'clipping')">Stars clip from</button>
          </th>
          <th scope="col">Hours to S/N {{ goal }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.isos" :key="one.iso" :class="{ chosen: one.chosen }" class="number">
          <th scope="row">
            <button type="button" class="plain" @click="emit('set', { iso: one.iso })">{{ one.iso }}</button><small
              v-if="one.between || one.origin !== 'by hand'"
              class="muted">
              {{ one.between ? 'in between' : one.origin === 'book' ? 'estimate' : 'measured' }}</small
            >
          </th>
          <td>{{ number(one.read_noise_e, 2) }} e⁻</td>
          <td>{{ number(one.full_well_e, 0) }} e⁻</td>
          <td :class="{ short: !one.sky_limited }">{{ lengthWords(Math.max(1, Math.round(one.sky_limited_s))) }}</td>
          <td>{{ percent(one.noise_share, 1) }}</td>
          <td>{{ percent(one.back_share) }}</td>
          <td>{{ one.clip_mag == null ? 'all' : `mag ${number(one.clip_mag, 1)}` }}</td>
          <td>
            <button type="button" class="plain dotted" @click="emit('price', `ISO ${one.iso}`, one.price)">
              {{ priceWords(one.price) }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <LinePlot
      class="plot"
      :lines="lines"
      x-name="ISO"
      y-name="e⁻"
      right-name="stops"
      steps
      :mark="mark"
      label="Read noise and range of this camera over ISO; the table above holds the figures" />
    <p class="muted">
      Above the point where read noise is flat, more ISO wins nothing and costs a stop of range each time.
    </p>
  </div>
</template>

<style scoped src="./ways.css"></style>

<style scoped>
.note {
  border-left: 3px solid var(--care);
  padding: 2px 8px;
}
.short {
  color: var(--care);
}
.plot {
  height: 220px;
}
.iso td {
  white-space: nowrap;
}
</style>
