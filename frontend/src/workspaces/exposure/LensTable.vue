<script setup lang="ts">
import { number } from '@/composables/figures'
import type { AtStop, Lens } from '@/composables/useLens'

/** Every stop with what was measured of it, and what it costs. */
defineProps<{ lens: Lens }>()
const BY = { open: 'wide open', iris: 'iris', ring: 'ring' } as const
const passes = (one: AtStop['broad']) => `${one.good ? 'good' : 'soft'}${one.close ? ', close' : ''}`
const out = (value: number | null | undefined) =>
  value == null ? '–' : `${value > 0 ? '+' : ''}${number(value, 1)} px`
const times = (value: number | null | undefined) => (value == null ? '–' : `${number(value, 2)} ×`)
</script>

<template>
  <div class="wide" tabindex="0" role="region" :aria-label="`Stops of ${lens.seen.lens}`">
    <table class="rows">
      <thead>
        <tr>
          <th scope="col">Stop</th>
          <th scope="col">Broadband</th>
          <th scope="col">Narrowband</th>
          <th scope="col">Middle</th>
          <th scope="col">Corners</th>
          <th scope="col">Longest</th>
          <th scope="col">Red, blue against green</th>
          <th scope="col">Red, blue in the corner</th>
          <th scope="col">Corner light</th>
          <th scope="col">Spikes</th>
          <th v-if="lens.costs.length" scope="col">Sub</th>
          <th v-if="lens.costs.length" scope="col">Hours wanted</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(one, place) in lens.stops" :key="one.name">
          <th scope="row">
            f/{{ one.f_number }} <small class="muted">{{ BY[one.by] }}, {{ one.stars }} stars</small>
          </th>
          <td :class="one.broad.good ? 'good' : 'soft'">{{ passes(one.broad) }}</td>
          <td :class="one.narrow.good ? 'good' : 'soft'">{{ passes(one.narrow) }}</td>
          <td class="number">{{ number(one.middle_px, 2) }} px</td>
          <td class="number">{{ number(one.corner_px, 2) }} px</td>
          <td class="number">
            {{ number(one.broad.elongation, 2) }} <small class="muted">{{ one.broad.elongation_zone }}</small>
          </td>
          <td class="number">{{ times(one.red) }}, {{ times(one.blue) }}</td>
          <td class="number">{{ out(one.red_out) }}, {{ out(one.blue_out) }}</td>
          <td class="number">{{ one.corner_light == null ? '–' : `${number(100 * one.corner_light, 0)} %` }}</td>
          <td class="number">{{ one.spikes || 'none' }}</td>
          <td v-if="lens.costs.length" class="number">{{ number(lens.costs[place]?.exposure_s ?? 0, 0) }} s</td>
          <td v-if="lens.costs.length" class="number">
            {{
              lens.costs[place]?.price.hours == null ? 'out of reach' : `${number(lens.costs[place].price.hours, 1)} h`
            }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
.rows th,
.rows td {
  padding: 1px 8px;
  white-space: nowrap;
}
.good {
  color: var(--go);
}
.soft {
  color: var(--care);
}
</style>
