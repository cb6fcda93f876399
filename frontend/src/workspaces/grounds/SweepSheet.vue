<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { watch } from 'vue'

import type { Fault } from '@/api/client'
import { useSweep } from '@/composables/useSweep'
import type { Point } from '@/instruments/profile'
import SideSheet from '@/parts/SideSheet.vue'

/** The horizon profile by turning round with a phone: its long edge along the skyline, from one side to the other. */
const props = defineProps<{ open: boolean; faults: readonly Pick<Fault, 'field' | 'message'>[] }>()
const emit = defineEmits<{ close: []; swept: [readings: Point[]] }>()
const { now, readings, recording, trouble, covered, begin, stop, anew } = useSweep()
watch(
  () => props.open,
  (open) => {
    anew()
    if (!open) stop()
  },
)
</script>

<template>
  <SideSheet :open="open" title="Sweep the horizon" :width="420" @close="emit('close')">
    <ol class="how">
      <li>Hold the phone flat, screen up, and sight along its long edge, top end away from you.</li>
      <li>Stay away from the car, the tracker and anything of iron: a compass is easily 10° off there.</li>
      <li>Start, then turn slowly once round with the edge along trees, hills and roofs. Stop.</li>
    </ol>
    <p class="muted">Where you do not sweep, the profile stays as it is. Magnetic declination is taken off.</p>
    <Alert v-if="trouble" type="warning" show-icon role="alert" :message="trouble" />
    <Alert v-for="fault in faults" :key="fault.message" type="error" show-icon role="alert" :message="fault.message" />
    <p v-if="now" class="now number" role="status">
      {{ Math.round(now.azimuth_deg) }}° by the needle, {{ now.altitude_deg.toFixed(1) }}° up
    </p>
    <p v-if="readings.length" class="number">{{ readings.length }} readings over {{ covered }}° of 360°</p>
    <template #footer>
      <Button v-if="!now" type="primary" @click="begin">Read compass and tilt</Button>
      <Button v-else-if="!recording" type="primary" @click="recording = true">{{
        readings.length ? 'Go on' : 'Start the sweep'
      }}</Button>
      <Button v-else type="primary" @click="recording = false">Stop</Button>
      <Button :disabled="!readings.length || recording" @click="emit('swept', readings)">Use it</Button>
      <Button v-if="readings.length && !recording" @click="anew">Sweep again</Button>
      <Button @click="emit('close')">Cancel</Button>
    </template>
  </SideSheet>
</template>

<style scoped>
.how {
  padding-left: 20px;
  margin: 0 0 10px;
  display: grid;
  gap: 6px;
}
.now {
  font-size: 22px;
  font-weight: 600;
}
</style>
