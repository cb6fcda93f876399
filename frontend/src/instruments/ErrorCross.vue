<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'

import { drawn, place, RADIUS, reach, RINGS, ringWords } from './axis'

/**
 * Where the axis stands, seen by somebody who faces the pole: the pole in the middle, what is tolerated shaded round it, each
 * measurement a numbered stake, the last one with its uncertainty and the way home along the two screws.
 */
const props = defineProps<{ errors: readonly Schemas['AxisError'][]; toleranceArcmin: number; south: boolean }>()

const totals = computed(() => props.errors.map((one) => Math.hypot(one.altitude_arcmin, one.azimuth_arcmin)))
const farthest = computed(() => reach([...totals.value, props.toleranceArcmin]))
const soft = computed(() => Math.min(props.toleranceArcmin / 3, farthest.value / 10))
const at = (high: number, east: number) => place(high, east, props.south, farthest.value, soft.value)
const rings = computed(() =>
  RINGS.filter((ring) => ring <= farthest.value && drawn(ring, farthest.value, soft.value) > 14).map((ring) => ({
    ring,
    r: drawn(ring, farthest.value, soft.value),
  })),
)
const stakes = computed(() =>
  props.errors.map((one, index) => ({
    ...at(one.altitude_arcmin, one.azimuth_arcmin),
    index,
    total: totals.value[index] ?? 0,
  })),
)
const trail = computed(() => stakes.value.map((one) => `${one.x},${one.y}`).join(' '))
const last = computed(() => stakes.value.at(-1) ?? null)
/** The uncertainty is drawn by its ends, since the scale bends. */
const spread = computed(() => {
  const one = props.errors.at(-1)
  if (!one) return ''
  const points = Array.from({ length: 24 }, (_, step) => {
    const angle = (step / 24) * 2 * Math.PI
    const { x, y } = at(
      one.altitude_arcmin + 2 * one.altitude_sigma * Math.cos(angle),
      one.azimuth_arcmin + 2 * one.azimuth_sigma * Math.sin(angle),
    )
    return `${x},${y}`
  })
  return points.join(' ')
})
/** First along the azimuth screw, then along the altitude screw. */
const home = computed(() => {
  const one = props.errors.at(-1)
  if (!one) return ''
  const steps = Array.from({ length: 13 }, (_, step) => at(one.altitude_arcmin, one.azimuth_arcmin * (1 - step / 12)))
  const down = Array.from({ length: 13 }, (_, step) => at(one.altitude_arcmin * (1 - step / 12), 0))
  return [...steps, ...down].map(({ x, y }) => `${x},${y}`).join(' ')
})
const sides = computed(() =>
  props.south ? { left: 'east', right: 'west', facing: 'south' } : { left: 'west', right: 'east', facing: 'north' },
)
const words = (one: Schemas['AxisError']) =>
  [
    `${number(Math.hypot(one.altitude_arcmin, one.azimuth_arcmin), 1)}′ off:`,
    `${number(Math.abs(one.altitude_arcmin), 1)}′ too ${one.altitude_arcmin >= 0 ? 'high' : 'low'},`,
    `${number(Math.abs(one.azimuth_arcmin), 1)}′ to the ${one.azimuth_arcmin >= 0 ? 'east' : 'west'}`,
  ].join(' ')
const spoken = computed(() =>
  props.errors.length
    ? props.errors.map((one, index) => `${index + 1}: ${words(one)}`).join('; ')
    : 'nothing measured yet',
)
</script>

<template>
  <figure class="cross">
    <svg
      :viewBox="`${-RADIUS - 34} ${-RADIUS - 20} ${2 * RADIUS + 68} ${2 * RADIUS + 40}`"
      role="img"
      :aria-label="`Axis and pole, facing ${sides.facing}. Tolerated ${number(toleranceArcmin, 1)}′. ${spoken}`">
      <circle class="sky" :r="RADIUS" />
      <circle class="tolerated" :r="Math.min(drawn(toleranceArcmin, farthest, soft), RADIUS)" />
      <g v-for="one in rings" :key="one.ring">
        <circle class="ring" :r="one.r" />
        <text class="ring-label" :x="one.r * 0.7 + 3" :y="one.r * 0.7 + 8">{{ ringWords(one.ring) }}</text>
      </g>
      <path class="axes" :d="`M${-RADIUS} 0H${RADIUS}M0 ${-RADIUS}V${RADIUS}`" />
      <path class="pole" d="M0 -6L6 0L0 6L-6 0Z" />
      <text class="side" :x="-RADIUS - 4" y="4" text-anchor="end">{{ sides.left }}</text>
      <text class="side" :x="RADIUS + 4" y="4">{{ sides.right }}</text>
      <text class="side" y="-155" text-anchor="middle">high</text>
      <text class="side" y="165" text-anchor="middle">low</text>
      <polyline v-if="stakes.length > 1" class="trail" :points="trail" />
      <polyline v-if="last && last.total > 0.2" class="home" :points="home" />
      <polygon v-if="spread" class="spread" :points="spread" />
      <g
        v-for="one in stakes"
        :key="one.index"
        class="stake"
        :class="{ now: one.index === stakes.length - 1 }"
        :transform="`translate(${one.x} ${one.y})`">
        <path d="M-5 -5L5 5M-5 5L5 -5" />
        <text :x="one.x > RADIUS - 30 ? -8 : 8" y="-6" :text-anchor="one.x > RADIUS - 30 ? 'end' : 'start'">
          {{ one.index + 1 }}
        </text>
      </g>
    </svg>
    <figcaption>
      <b v-if="!errors.length">Nothing measured yet. </b>Facing {{ sides.facing }}. The diamond is the pole, the shade
      what is tolerated ({{ ringWords(Math.round(toleranceArcmin * 10) / 10) }}); dashes lead home along the screws.
    </figcaption>
    <table v-if="errors.length" class="unseen">
      <caption>
        Measurements of the axis
      </caption>
      <tbody>
        <tr v-for="(one, index) in errors" :key="index">
          <th scope="row">{{ index + 1 }}</th>
          <td>{{ words(one) }}</td>
        </tr>
      </tbody>
    </table>
  </figure>
</template>

<style scoped>
.cross {
  margin: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 2px;
  min-height: 0;
  position: relative;
}
svg {
  width: 100%;
  max-height: 420px;
}
.sky {
  fill: var(--sky-dark);
  stroke: var(--line);
}
.tolerated {
  fill: var(--sky-violet);
  stroke: var(--path);
  stroke-width: 0.8;
  stroke-dasharray: 1 3;
}
.ring {
  fill: none;
  stroke: var(--path);
  opacity: 0.22;
}
.ring-label {
  font-size: 9px;
  fill: var(--path);
  opacity: 0.75;
}
.axes {
  stroke: var(--path);
  opacity: 0.22;
}
.pole {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.6;
}
.side {
  font-size: 11px;
  fill: var(--muted);
}
.trail {
  fill: none;
  stroke: var(--path);
  opacity: 0.45;
}
.home {
  fill: none;
  stroke: var(--sky-bright);
  stroke-width: 1.5;
  stroke-dasharray: 5 4;
}
.spread {
  fill: var(--sky-bright);
  opacity: 0.28;
}
.stake path {
  stroke: var(--path);
  stroke-width: 1.4;
  opacity: 0.6;
}
.stake text {
  font-size: 11px;
  fill: var(--path);
}
.stake.now path {
  stroke: var(--sky-bright);
  stroke-width: 2.6;
  opacity: 1;
}
.stake.now text {
  font-weight: 700;
}
figcaption {
  font-size: 12px;
  color: var(--muted);
  text-align: center;
}
</style>
