<script setup lang="ts">
import { geoEquirectangular, geoGraticule, geoPath } from 'd3-geo'
import { feature } from 'topojson-client'
import type { GeometryCollection, Topology } from 'topojson-specification'
import land from 'world-atlas/land-110m.json'
import { computed } from 'vue'

/** Land and a mark on it, so that a longitude of the wrong sign is seen at once. */
const props = defineProps<{ places: { name: string; latitude_deg: number; longitude_deg: number }[]; width: number }>()

const emit = defineEmits<{ pick: [latitude: number, longitude: number] }>()

const world = land as unknown as Topology<{ land: GeometryCollection }>
const shape = feature(world, world.objects.land)
const tall = computed(() => Math.round(props.width / 2))
const projection = computed(() => geoEquirectangular().fitSize([props.width, tall.value], { type: 'Sphere' }))
const outline = computed(() => geoPath(projection.value)(shape) ?? '')
const lines = computed(() => geoPath(projection.value)(geoGraticule().step([30, 30])()) ?? '')
const marks = computed(() =>
  props.places
    .filter(
      (place) =>
        Number.isFinite(place.latitude_deg) &&
        Number.isFinite(place.longitude_deg) &&
        Math.abs(place.latitude_deg) <= 90 &&
        Math.abs(place.longitude_deg) <= 180,
    )
    .map((place) => ({ ...place, at: projection.value([place.longitude_deg, place.latitude_deg]) ?? [0, 0] })),
)
/** Names where they have room, in the order of the places; all of them are in the words. */
const LETTER_PX = 7.2
const named = computed(() => {
  const taken: { from: number; to: number; y: number }[] = []
  return marks.value.map((place) => {
    const [x = 0, y = 0] = place.at
    const left = x > props.width * 0.75
    const wide = place.name.length * LETTER_PX
    const own = { from: left ? x - 9 - wide : x + 9, to: left ? x - 9 : x + 9 + wide, y }
    const shown = !taken.some((one) => Math.abs(one.y - y) < 16 && own.from < one.to && one.from < own.to)
    if (shown) taken.push(own)
    return { ...place, left, shown }
  })
})
const spoken = computed(
  () =>
    marks.value
      .map(
        (place) => `${place.name || 'this place'}: latitude ${place.latitude_deg}°, longitude ${place.longitude_deg}°`,
      )
      .join('; ') || 'no place yet',
)
/** Where the map was pressed; a mouse's and a finger's precision, about a degree. */
function pick(event: MouseEvent) {
  const box = (event.currentTarget as SVGSVGElement).getBoundingClientRect()
  const at = projection.value.invert?.([
    ((event.clientX - box.left) / box.width) * props.width,
    ((event.clientY - box.top) / box.height) * tall.value,
  ])
  if (at) emit('pick', at[1], at[0])
}
</script>

<template>
  <svg
    :viewBox="`0 0 ${width} ${tall}`"
    :width="width"
    :height="tall"
    role="img"
    :aria-label="`World outline. ${spoken}`"
    @click="pick">
    <rect class="sea" x="0" y="0" :width="width" :height="tall" rx="6" />
    <path class="lines" :d="lines" />
    <path class="land" :d="outline" />
    <g v-for="place in named" :key="place.name + place.at" class="mark">
      <line :x1="place.at[0]" :x2="place.at[0]" :y1="place.at[1] - 9" :y2="place.at[1] + 9" />
      <line :x1="place.at[0] - 9" :x2="place.at[0] + 9" :y1="place.at[1]" :y2="place.at[1]" />
      <circle :cx="place.at[0]" :cy="place.at[1]" r="4" />
      <text
        v-if="place.shown"
        :x="place.at[0] + (place.left ? -9 : 9)"
        :y="place.at[1] - 6"
        :text-anchor="place.left ? 'end' : 'start'">
        {{ place.name }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  max-width: 100%;
}
.sea {
  fill: var(--panel);
  stroke: var(--line);
}
.lines {
  fill: none;
  stroke: var(--line);
  stroke-width: 0.6;
}
.land {
  fill: var(--raised);
  stroke: var(--muted);
  stroke-width: 0.6;
}
.mark line {
  stroke: var(--accent);
  stroke-width: 1.4;
}
.mark circle {
  fill: var(--panel);
  stroke: var(--accent);
  stroke-width: 2;
}
.mark text {
  font-size: 12px;
  font-weight: 600;
  fill: var(--text);
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 3px;
}
</style>
