<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import SideSheet from '@/parts/SideSheet.vue'

import { clock, STATE_WORDS } from './strip'

/** The night of each target in words. */
const props = defineProps<{ open: boolean; lanes: Schemas['Lanes']; timeZone: string }>()
const emit = defineEmits<{ close: [] }>()
const rows = computed(() => {
  const step = 30 / props.lanes.step_min
  const count = Math.ceil((props.lanes.lanes[0]?.state.length ?? 0) / step)
  return Array.from({ length: count }, (_, index) => ({
    time: clock(new Date(props.lanes.start), props.timeZone, index * 30),
    cells: props.lanes.lanes.map(
      (lane) => `${STATE_WORDS[lane.state[index * step] ?? ''] ?? ''}, ${number(lane.altitude[index * step] ?? 0, 0)}°`,
    ),
  }))
})
</script>

<template>
  <SideSheet :open="open" title="The night of each target, every half hour" :width="900" middle @close="emit('close')">
    <div class="scroll">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Local time</th>
            <th v-for="lane in lanes.lanes" :key="lane.name" scope="col">{{ lane.name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.time">
            <td class="number">{{ row.time }}</td>
            <td v-for="(cell, place) in row.cells" :key="place">{{ cell }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </SideSheet>
</template>

<style scoped>
.scroll {
  max-height: 60vh;
  overflow: auto;
}
</style>
