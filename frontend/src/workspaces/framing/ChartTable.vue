<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { awayDeg, inFrame, toward, type Held } from '@/instruments/skychart'

/** What the chart shows, as words: objects and named stars, the nearest to the frame first. */
const props = defineProps<{
  sky: Schemas['ChartOut'] | null
  stars: Schemas['LinesOut']['stars']
  held: Held
  widthDeg: number
  heightDeg: number
}>()
const MOST = 40
const rows = computed(() => {
  const objects = (props.sky?.objects ?? []).map((one) => ({
    name: one.name,
    what: one.kind,
    size: `${number(one.extent_deg, one.extent_deg < 1 ? 2 : 1)}°`,
    ra: one.ra_deg,
    dec: one.dec_deg,
  }))
  const stars = props.stars.map((one) => ({
    name: one.name,
    what: 'star',
    size: `${number(one.magnitude, 1)} mag`,
    ra: one.ra_deg,
    dec: one.dec_deg,
  }))
  return [...objects, ...stars]
    .map((one) => ({
      ...one,
      away: awayDeg(props.held, one),
      inside: inFrame(props.held, props.widthDeg, props.heightDeg, toward(one.ra, one.dec)),
    }))
    .sort((a, b) => a.away - b.away)
    .slice(0, MOST)
})
</script>

<template>
  <div class="scroll panel">
    <table class="rows">
      <caption class="unseen">
        Around the frame, the nearest first
      </caption>
      <thead>
        <tr>
          <th scope="col">Name</th>
          <th scope="col">What</th>
          <th scope="col">Size</th>
          <th scope="col">RA</th>
          <th scope="col">Dec</th>
          <th scope="col">From the middle</th>
          <th scope="col">In the frame</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in rows" :key="`${one.name} ${one.ra}`">
          <th scope="row">{{ one.name }}</th>
          <td>{{ one.what }}</td>
          <td class="number">{{ one.size }}</td>
          <td class="number">{{ number(one.ra / 15, 2) }} h</td>
          <td class="number">{{ number(one.dec, 1) }}°</td>
          <td class="number">{{ number(one.away, 1) }}°</td>
          <td>{{ one.inside ? 'yes' : 'no' }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  min-height: 420px;
  max-height: 560px;
  overflow: auto;
  padding: 6px 12px;
}
</style>
