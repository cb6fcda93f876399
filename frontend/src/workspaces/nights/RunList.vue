<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

/** The runs of one night in words: when, of what, how many frames, with which rig. */
defineProps<{ runs: Schemas['TripRun'][] }>()
</script>

<template>
  <ol>
    <li v-for="run in runs" :key="`${run.stand} ${run.held_from}`">
      <span class="number when">{{ run.change_clock }} to {{ run.ends_clock }}</span>
      <span
        >{{ run.name }}, <span class="number">{{ run.frames }} × {{ number(run.exposure_s, 0) }} s</span
        ><template v-if="run.side > 0">, camera turned over</template></span
      >
      <span class="muted">{{ run.rig }}</span>
    </li>
    <li v-if="!runs.length" class="muted">No run is worth it.</li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  padding: 1px 0;
}
.when {
  min-width: 112px;
}
@media (max-width: 820px) {
  .when {
    width: 100%;
  }
}
</style>
