<script setup lang="ts">
import type { Schemas } from '@/api/client'

/** What is seen on the back of the camera, as a small picture. */
defineProps<{ symptom: Schemas['Symptom'] }>()
const SIDE = 64
</script>

<template>
  <svg :viewBox="`0 0 ${SIDE} ${SIDE}`" aria-hidden="true">
    <rect :width="SIDE" :height="SIDE" fill="#000" stroke="var(--line)" />
    <rect :width="SIDE" :height="SIDE" fill="var(--ink)" :opacity="symptom.background" />
    <g v-for="(star, index) in symptom.stars" :key="index">
      <circle
        v-if="star.halo"
        :cx="star.x * SIDE"
        :cy="star.y * SIDE"
        :r="star.halo * SIDE"
        fill="none"
        stroke="var(--ink)"
        stroke-width="0.8" />
      <ellipse
        :cx="star.x * SIDE"
        :cy="star.y * SIDE"
        :rx="star.long * SIDE"
        :ry="star.short * SIDE"
        :transform="`rotate(${star.angle_deg} ${star.x * SIDE} ${star.y * SIDE})`"
        :fill="symptom.background > 0.3 ? '#000' : 'var(--ink)'" />
    </g>
    <line
      v-if="symptom.line"
      x1="0"
      :y1="SIDE * 0.8"
      :x2="SIDE"
      :y2="SIDE * 0.25"
      stroke="var(--ink)"
      stroke-width="1.4" />
  </svg>
</template>

<style scoped>
svg {
  width: 66px;
  height: 66px;
  flex: none;
}
</style>
