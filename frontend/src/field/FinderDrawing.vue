<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** What one sees through the finder, up where the zenith is, and the step to make. */
defineProps<{ view: Schemas['FinderView'] }>()
const R = 100
const size = (magnitude: number) => Math.max(4.6 - magnitude * 0.62, 0.7)
</script>

<template>
  <svg
    viewBox="-116 -112 232 224"
    role="img"
    :aria-label="`The sky, ${view.across_deg}° across, up is towards the zenith: from ${view.begin_name} to ${view.end_name}`">
    <circle :r="R" fill="#000" stroke="var(--line)" stroke-width="1.5" />
    <circle
      v-for="(star, index) in view.stars"
      :key="index"
      :cx="star.x * R"
      :cy="star.y * R"
      :r="size(star.magnitude)"
      fill="var(--ink)" />
    <line
      :x1="view.begin.x * R"
      :y1="view.begin.y * R"
      :x2="view.end.x * R"
      :y2="view.end.y * R"
      stroke="var(--ink)"
      stroke-width="1.6"
      stroke-dasharray="5 4" />
    <circle :cx="view.begin.x * R" :cy="view.begin.y * R" r="8" fill="none" stroke="var(--ink)" stroke-width="1.6" />
    <path
      :transform="`translate(${view.end.x * R} ${view.end.y * R})`"
      d="M-10 0H-4M4 0H10M0 -10V-4M0 4V10"
      stroke="var(--ink)"
      stroke-width="2" />
    <text y="-102" text-anchor="middle" font-size="13">up</text>
    <text x="112" y="110" text-anchor="end" font-size="13">{{ view.across_deg }}°</text>
  </svg>
</template>

<style scoped>
svg {
  height: 100%;
  width: 100%;
}
</style>
