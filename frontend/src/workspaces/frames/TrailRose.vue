<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import { wordOf, type JudgedRun } from '@/composables/useFrames'

/** Trails of all frames from one middle: which way stars are drawn out in the picture, and how far. */
const props = defineProps<{ run: JudgedRun; selected: number }>()
const emit = defineEmits<{ select: [place: number] }>()

const HALF = 70
const most = computed(() => Math.max(...props.run.columns.trail.map((one) => one ?? 0), 2))
const trails = computed(() =>
  props.run.columns.trail.flatMap((long, place) => {
    const turned = props.run.columns.trail_deg[place]
    const frame = props.run.frames[place]
    if (long === null || turned === null || turned === undefined || !frame || long < 0.3) return []
    const angle = (turned * Math.PI) / 180
    const reach = (long / most.value) * (HALF - 6)
    return [{ place, word: wordOf(frame), x: reach * Math.cos(angle), y: reach * Math.sin(angle) }]
  }),
)
</script>

<template>
  <figure class="rose">
    <svg
      :viewBox="`${-HALF} ${-HALF} ${2 * HALF} ${2 * HALF}`"
      role="img"
      :aria-label="`Trails of ${trails.length} frames, the longest ${number(most, 1)} px`">
      <circle :r="(HALF - 6) / 2" />
      <circle :r="HALF - 6" />
      <line
        v-for="one in trails"
        :key="one.place"
        :x1="-one.x"
        :y1="-one.y"
        :x2="one.x"
        :y2="one.y"
        :class="[one.word, { here: one.place === selected }]"
        @click="emit('select', one.place)" />
    </svg>
    <figcaption>Trails in the picture; the outer ring is {{ number(most, 1) }} px</figcaption>
  </figure>
</template>

<style scoped>
.rose {
  margin: 0;
  display: grid;
  justify-items: center;
  gap: 2px;
}
svg {
  width: 140px;
  height: 140px;
}
circle {
  fill: none;
  stroke: var(--line);
}
line {
  stroke: var(--go);
  stroke-width: 1.4;
  opacity: 0.75;
  cursor: pointer;
}
line.less {
  stroke: var(--care);
}
line.cull {
  stroke: var(--stop);
  stroke-dasharray: 4 2;
}
line.here {
  stroke: var(--accent);
  stroke-width: 4;
  opacity: 1;
}
figcaption {
  font-size: 12px;
  color: var(--muted);
  text-align: center;
}
</style>
