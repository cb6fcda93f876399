<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { AtStop } from '@/composables/useLens'

/** The typical star of each part of the picture, drawn where it lies and as large as the room allows. */
const props = defineProps<{ stop: AtStop; sharpest: number; widthLimit: number; elongationLimit: number }>()

const WIDE = 300
const HIGH = 190
const COLUMNS = 5
const ROWS = 3
const MOST_PX = 26 // half of a star drawn at three times the sharpest width
const stars = computed(() =>
  props.stop.zones.flatMap((one, place) => {
    if (!one) return []
    const size = MOST_PX / 3 / props.sharpest
    const ratio = one.long_px / one.short_px
    const width = Math.sqrt(one.long_px * one.short_px) / props.sharpest
    return [
      {
        place,
        x: (((place % COLUMNS) + 0.5) / COLUMNS) * WIDE,
        y: ((Math.floor(place / COLUMNS) + 0.5) / ROWS) * HIGH,
        rx: Math.min(one.long_px * size, MOST_PX),
        ry: Math.min(one.short_px * size, MOST_PX),
        turn: one.angle_deg,
        passes: ratio <= props.elongationLimit && width <= props.widthLimit,
        told: `${number(ratio, 2)} times as long as wide, ${number(width, 2)} of the sharpest width`,
      },
    ]
  }),
)
</script>

<template>
  <figure class="field">
    <svg
      :viewBox="`0 0 ${WIDE} ${HIGH}`"
      role="img"
      :aria-label="`Stars over the picture at f/${stop.f_number}: ${stop.words}`">
      <rect :width="WIDE" :height="HIGH" />
      <g v-for="one in stars" :key="one.place" :transform="`translate(${one.x} ${one.y}) rotate(${one.turn})`">
        <title>{{ one.told }}</title>
        <ellipse :rx="one.rx" :ry="one.ry" :class="{ fails: !one.passes }" />
        <line v-if="!one.passes" :x1="-one.rx" :x2="one.rx" y1="0" y2="0" />
      </g>
    </svg>
    <figcaption>
      <b>f/{{ stop.f_number }}</b> {{ stop.words }}
    </figcaption>
  </figure>
</template>

<style scoped>
.field {
  margin: 0;
  display: grid;
  gap: 2px;
}
svg {
  width: 100%;
  max-width: 340px;
}
rect {
  fill: none;
  stroke: var(--line);
}
ellipse {
  fill: none;
  stroke: var(--go);
  stroke-width: 2;
}
ellipse.fails {
  stroke: var(--care);
}
line {
  stroke: var(--care);
}
figcaption {
  font-size: 12px;
}
</style>
