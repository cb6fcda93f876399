<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

import { useField } from './useField'

/**
 * What moves about the pole, turning with the clock: each star now, its way over the next two hours with the hours on it, and the
 * cross at which the axis aims. Looked up in the pack by the minute; drawn as large as what is seen allows.
 */
const props = defineProps<{ pole: Schemas['PackPole'] }>()
const field = useField()
const MARGIN = 0.22 // of the larger side, for names
const minute = computed(() => Math.round((field.now.value - Date.parse(props.pole.first)) / 60_000))
const inside = computed(() => minute.value >= 0 && minute.value < (props.pole.stars[0]?.clock_deg.length ?? 0))
function at(star: Schemas['PolePath'], place: number) {
  const index = Math.min(Math.max(place, 0), star.clock_deg.length - 1)
  const angle = ((star.clock_deg[index] ?? 0) * Math.PI) / 180
  const radius = star.radius_arcmin[index] ?? 0
  return { x: Math.sin(angle) * radius, y: -Math.cos(angle) * radius }
}
const stars = computed(() =>
  props.pole.stars.map((star) => ({
    name: star.name,
    ...at(star, minute.value),
    way: Array.from({ length: 25 }, (_, step) => at(star, minute.value + step * 5)),
    hours: [1, 2].map((hour) => ({
      ...at(star, minute.value + hour * 60),
      clock: field.clock(field.now.value + hour * 3_600_000),
    })),
  })),
)
/** The star whose way is longest carries the hours. */
const timed = computed(
  () => [...stars.value].sort((one, other) => Math.hypot(other.x, other.y) - Math.hypot(one.x, one.y))[0],
)
/** Everything that is drawn, and the cross, in arcminutes: a square around it. */
const seen = computed(() => {
  const points = [{ x: 0, y: 0 }, ...stars.value.flatMap((one) => one.way)]
  const [xs, ys] = [points.map((one) => one.x), points.map((one) => one.y)]
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const side = Math.max(right - left, bottom - top, 1) * (1 + 2 * MARGIN)
  return { x: (left + right - side) / 2, y: (top + bottom - side) / 2, side, unit: side / 200 }
})
const line = (points: { x: number; y: number }[]) =>
  points.map((one) => `${one.x.toFixed(2)},${one.y.toFixed(2)}`).join(' ')
/** The four southern stars in the order in which their outline does not cross itself; it is matched as a pattern. */
const outline = computed(() =>
  line(['σ Oct', 'χ Oct', 'υ Oct', 'τ Oct'].flatMap((name) => stars.value.filter((one) => one.name === name))),
)
const words = computed(() =>
  props.pole.view === 'inverted' ? 'as an inverting scope shows it' : 'as an upright scope shows it',
)
</script>

<template>
  <figure>
    <svg
      :viewBox="`${seen.x} ${seen.y} ${seen.side} ${seen.side}`"
      role="img"
      :aria-label="`Stars about the ${pole.south ? 'south' : 'north'} pole at ${field.clock(field.now.value)}, ${words}`">
      <polygon v-if="pole.south" :points="outline" fill="none" stroke="var(--line)" :stroke-width="seen.unit" />
      <path
        :d="`M${-9 * seen.unit} 0H${9 * seen.unit}M0 ${-9 * seen.unit}V${9 * seen.unit}`"
        stroke="var(--ink)"
        :stroke-width="2 * seen.unit" />
      <g v-for="star in stars" :key="star.name">
        <polyline :points="line(star.way)" fill="none" stroke="var(--line)" :stroke-width="2 * seen.unit" />
        <g v-for="hour in star === timed ? star.hours : []" :key="hour.clock">
          <circle :cx="hour.x" :cy="hour.y" :r="2.6 * seen.unit" fill="var(--line)" />
          <text :x="hour.x" :y="hour.y + 13 * seen.unit" :font-size="9 * seen.unit" text-anchor="middle">
            {{ hour.clock }}
          </text>
        </g>
        <circle class="now" :cx="star.x" :cy="star.y" :r="5 * seen.unit" fill="var(--ink)" />
        <text :x="star.x" :y="star.y - 8 * seen.unit" :font-size="11 * seen.unit" text-anchor="middle">
          {{ star.name }}
        </text>
      </g>
    </svg>
    <figcaption class="small">
      {{ inside ? `Now, ${field.clock(field.now.value)}, ${words}.` : 'This night’s table does not reach this hour.' }}
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
  width: 100%;
  height: 100%;
}
svg {
  flex: 1;
  min-height: 0;
  width: 100%;
  height: 100%;
}
figcaption {
  text-align: center;
}
</style>
