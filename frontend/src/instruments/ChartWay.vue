<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

import { frameEdge, openPath, path, projector, toward, type View } from './skychart'

/** The stars of a way to the frame, in order, and where test pictures looked, the latest last. */
const props = defineProps<{ view: View; way: Schemas['WaypointOut'][]; tries: Schemas['FrameOut'][] }>()
const project = computed(() => projector(props.view))
const points = computed(() =>
  props.way.map((one, place) => ({ ...one, place, at: project.value(toward(one.ra_deg, one.dec_deg)) })),
)
const line = computed(() => openPath(points.value.map((one) => one.at)))
const looked = computed(() =>
  props.tries.map((one, place, all) => {
    const held = { ra: one.ra_deg, dec: one.dec_deg, angle: one.angle_deg }
    return {
      d: path(frameEdge(held, one.width_deg, one.height_deg).map((each) => project.value(each))),
      at: project.value(toward(one.ra_deg, one.dec_deg)),
      last: place === all.length - 1,
      place: place + 1,
    }
  }),
)
</script>

<template>
  <g>
    <g v-for="one in looked" :key="`t${one.place}`" class="try" :class="{ last: one.last }">
      <path :d="one.d" />
      <text v-if="one.at" :x="one.at.x" :y="one.at.y">{{ one.last ? 'you are here' : one.place }}</text>
    </g>
    <path class="way" :d="line" />
    <g v-for="one in points" :key="`p${one.place}`" class="waypoint">
      <circle v-if="one.at" :cx="one.at.x" :cy="one.at.y" r="9" />
      <text v-if="one.at" :x="one.at.x + 12" :y="one.at.y - 8">{{ one.place + 1 }} {{ one.name }}</text>
    </g>
  </g>
</template>

<style scoped>
text {
  fill: var(--path);
  font-size: 11px;
  paint-order: stroke;
  stroke: var(--sky-dark);
  stroke-width: 3px;
  pointer-events: none;
}
.try path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1;
  stroke-dasharray: 3 4;
  opacity: 0.6;
}
.try.last path {
  stroke-width: 2;
  opacity: 1;
}
.way {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.6;
  stroke-dasharray: 8 4;
}
.waypoint circle {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.4;
}
.waypoint text {
  font-weight: 700;
}
</style>
