<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

import { useField } from './useField'

/**
 * What moves about the pole, turning with the clock: each star's way over the next hours with hours on it, the star now, and the
 * cross at which the axis aims. Looked up in the pack by the minute.
 */
const props = defineProps<{ pole: Schemas['PackPole'] }>()
const field = useField()
const R = 92
const minute = computed(() => Math.round((field.now.value - Date.parse(props.pole.first)) / 60_000))
const inside = computed(() => minute.value >= 0 && minute.value < (props.pole.stars[0]?.clock_deg.length ?? 0))
const reach = computed(() => Math.max(...props.pole.stars.map((one) => Math.max(...one.radius_arcmin))) * 1.08)
function at(star: Schemas['PolePath'], place: number) {
  const index = Math.min(Math.max(place, 0), star.clock_deg.length - 1)
  const angle = ((star.clock_deg[index] ?? 0) * Math.PI) / 180
  const radius = ((star.radius_arcmin[index] ?? 0) / reach.value) * R
  return { x: Math.sin(angle) * radius, y: -Math.cos(angle) * radius }
}
const stars = computed(() =>
  props.pole.stars.map((star) => {
    const here = at(star, minute.value)
    const ahead = Array.from({ length: 25 }, (_, step) => at(star, minute.value + step * 5))
    const hours = [1, 2].map((hour) => ({
      ...at(star, minute.value + hour * 60),
      clock: field.clock(field.now.value + hour * 3_600_000),
    }))
    return {
      name: star.name,
      ...here,
      way: ahead.map((one) => `${one.x.toFixed(1)},${one.y.toFixed(1)}`).join(' '),
      hours,
    }
  }),
)
const seen = computed(() =>
  props.pole.view === 'inverted' ? 'as an inverting scope shows it' : 'as an upright scope shows it',
)
</script>

<template>
  <figure>
    <svg
      viewBox="-116 -112 232 224"
      role="img"
      :aria-label="`Stars about the ${pole.south ? 'south' : 'north'} pole at ${field.clock(field.now.value)}, ${seen}`">
      <path d="M-9 0H9M0 -9V9" stroke="var(--ink)" stroke-width="2" />
      <g v-for="star in stars" :key="star.name">
        <polyline :points="star.way" fill="none" stroke="var(--line)" stroke-width="2" />
        <template v-if="star === stars[0]">
          <g v-for="hour in star.hours" :key="hour.clock">
            <circle :cx="hour.x" :cy="hour.y" r="2.4" fill="var(--line)" />
            <text :x="hour.x * 1.1" :y="hour.y * 1.1" font-size="9" text-anchor="middle">{{ hour.clock }}</text>
          </g>
        </template>
        <circle :cx="star.x" :cy="star.y" r="5.5" fill="var(--ink)" />
        <text :x="star.x" :y="star.y - 9" font-size="11" text-anchor="middle">{{ star.name }}</text>
      </g>
    </svg>
    <figcaption class="small">
      {{ inside ? `Now, ${field.clock(field.now.value)}, ${seen}.` : 'This night’s table does not reach this hour.' }}
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
}
svg {
  flex: 1;
  min-height: 0;
  width: 100%;
}
figcaption {
  text-align: center;
}
</style>
