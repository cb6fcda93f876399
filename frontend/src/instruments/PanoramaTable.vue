<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import SideSheet from '@/parts/SideSheet.vue'

import { direction } from './panorama'
import { heightsAt, type Point } from './profile'
import { STATE_WORDS } from './strip'

/** What the drawing of all round shows, as two tables. */
const props = defineProps<{ open: boolean; points: Point[]; paths: Schemas['SkyPath'][] }>()
const emit = defineEmits<{ close: [] }>()
const hours = (path: Schemas['SkyPath']) => path.points.filter((point) => point.clock !== '')
const around = computed(() => {
  const azimuths = Array.from({ length: 24 }, (_, place) => place * 15)
  return heightsAt(props.points, azimuths).map((altitude, place) => ({ azimuth: azimuths[place] ?? 0, altitude }))
})
</script>

<template>
  <SideSheet :open="open" title="All round, as a table" :width="760" middle @close="emit('close')">
    <div class="two">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Azimuth</th>
            <th scope="col">Horizon profile</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in around" :key="row.azimuth">
            <td class="number">{{ row.azimuth }}° {{ direction(row.azimuth) }}</td>
            <td class="number">{{ number(row.altitude, 0) }}°</td>
          </tr>
        </tbody>
      </table>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Target</th>
            <th scope="col">At</th>
            <th scope="col">Azimuth</th>
            <th scope="col">Altitude</th>
            <th scope="col">State</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="path in paths" :key="path.name"
            ><tr v-for="tick in hours(path)" :key="path.name + tick.clock">
              <td>{{ path.name }}</td>
              <td class="number">{{ tick.clock }}</td>
              <td class="number">{{ number(tick.azimuth_deg, 0) }}°</td>
              <td class="number">{{ number(tick.altitude_deg, 0) }}°</td>
              <td>{{ STATE_WORDS[tick.state] }}</td>
            </tr></template
          >
        </tbody>
      </table>
    </div>
  </SideSheet>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 2fr;
  gap: 20px;
  max-height: 60vh;
  overflow: auto;
  align-items: start;
}
</style>
