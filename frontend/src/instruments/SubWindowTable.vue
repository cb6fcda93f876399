<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import SideSheet from '@/parts/SideSheet.vue'

import { hoursWords as hours, lengthWords, percent } from './lengths'

/** The sub window as two tables: its limits, and each length of a sub. */
defineProps<{ open: boolean; spans: Schemas['SubWindow']['spans']; stops: Schemas['Stop'][] }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <SideSheet :open="open" title="The sub window" :width="860" middle @close="emit('close')">
    <div class="scroll">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Limit</th>
            <th scope="col">From</th>
            <th scope="col">To</th>
            <th scope="col">What it is</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="span in spans" :key="span.key">
            <td>{{ span.name }}{{ span.binds ? ', decides' : '' }}</td>
            <td class="number">{{ span.from_s == null ? '–' : `${number(span.from_s, 1)} s` }}</td>
            <td class="number">{{ span.to_s == null ? 'no end' : `${number(span.to_s, 1)} s` }}</td>
            <td>{{ span.words }}</td>
          </tr>
        </tbody>
      </table>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Sub</th>
            <th scope="col">Useful</th>
            <th scope="col">Kept</th>
            <th scope="col">Read noise adds</th>
            <th scope="col">Sky of clip</th>
            <th scope="col">On the camera</th>
            <th scope="col">Frames</th>
            <th scope="col">GB</th>
            <th scope="col">Hours to the goal</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in stops" :key="one.reading.exposure_s" class="number">
            <td>{{ lengthWords(one.reading.exposure_s) }}</td>
            <td>{{ percent(one.reading.useful) }}</td>
            <td>{{ percent(one.reading.keep) }}</td>
            <td>{{ percent(one.reading.noise_share, 1) }}</td>
            <td>{{ percent(one.reading.background_share, 1) }}</td>
            <td>{{ percent(one.reading.back_share) }}</td>
            <td>{{ one.frames }}</td>
            <td>{{ number(one.storage_gb, 1) }}</td>
            <td>{{ hours(one) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </SideSheet>
</template>

<style scoped>
.scroll {
  max-height: 70vh;
  overflow: auto;
  display: grid;
  gap: 14px;
}
</style>
