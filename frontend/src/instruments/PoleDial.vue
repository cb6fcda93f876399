<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'

/**
 * The stars near the pole as the eye sees them. The cross is where the axis should aim; angles run as on a clock's face,
 * which every eye can read, whatever is engraved in the scope.
 */
const props = defineProps<{ dial: Schemas['Dial']; clock: string }>()

const R = 84
const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
const reach = computed(() => Math.max(...props.dial.marks.map((mark) => mark.radius_arcmin)) * 1.4)
const scale = computed(() => R / reach.value)
const place = (clockDeg: number, radius: number) => {
  const angle = (clockDeg * Math.PI) / 180
  return { x: Math.sin(angle) * radius, y: -Math.cos(angle) * radius }
}
const points = computed(() => props.dial.marks.map((mark) => ({ ...mark, ...place(mark.clock_deg, mark.radius_arcmin * scale.value), size: Math.max(7.2 - mark.magnitude, 1.2) * 1.15 })))
/** Names stand on the side that faces away from the middle of the figure, so that they keep out of it and of one another. */
const stars = computed(() => {
  const middle = { x: mean(points.value.map((star) => star.x)), y: mean(points.value.map((star) => star.y)) }
  return points.value.map((star) => {
    // A star close to the cross is named towards the upper left, clear of it.
    const near = Math.hypot(star.x, star.y) < 24
    const [dx, dy] = near ? [-1, -1] : points.value.length > 1 ? [star.x - middle.x, star.y - middle.y] : [star.x, star.y]
    const far = Math.hypot(dx, dy) || 1
    const right = dx >= 0
    return { ...star, label: { x: star.x + (right ? 5 : -5) + (dx / far) * 3, y: star.y + 3 + (dy / far) * 8, anchor: right ? 'start' : 'end' } }
  })
})
/** The four southern stars in the order in which their outline does not cross itself. */
const outline = computed(() => {
  if (stars.value.length < 4) return ''
  const order = ['σ Oct', 'χ Oct', 'υ Oct', 'τ Oct'].map((name) => stars.value.find((star) => star.name === name))
  return order.map((star) => (star ? `${star.x},${star.y}` : '')).join(' ')
})
const rings = computed(() => {
  const step = reach.value > 120 ? 60 : 20
  return Array.from({ length: Math.floor(reach.value / step) }, (_, index) => (index + 1) * step)
})
const hours = Array.from({ length: 12 }, (_, index) => ({ hour: index || 12, ...place(index * 30, R + 9), from: place(index * 30, R - 3), to: place(index * 30, R) }))
const turning = computed(() => (props.dial.south ? 'clockwise' : 'anticlockwise'))
const view = computed(() => ({ upright: 'upright scope', inverted: 'inverting scope', none: 'naked eye' })[props.dial.view])
const spoken = computed(() => props.dial.marks.map((mark) => `${mark.name} at ${number(mark.clock_deg / 30, 1)} h of a clock's face, ${number(mark.radius_arcmin, 0)} arcminutes out`).join('; '))
</script>

<template>
  <figure class="dial">
    <svg viewBox="-104 -102 208 204" role="img" :aria-label="`${clock}, ${view}: ${spoken}`">
      <circle class="rim" :r="R" />
      <circle v-for="ring in rings" :key="ring" class="ring" :r="ring * scale" />
      <text v-for="ring in rings" :key="`t${ring}`" class="ring-label" :x="3" :y="ring * scale - 2">{{ ring }}′</text>
      <g v-for="hour in hours" :key="hour.hour"><line class="tick" :x1="hour.from.x" :y1="hour.from.y" :x2="hour.to.x" :y2="hour.to.y" /><text class="hour" :x="hour.x" :y="hour.y + 3.5">{{ hour.hour }}</text></g>
      <path class="cross" d="M-7 0H7M0-7V7" />
      <polygon v-if="outline" class="outline" :points="outline" />
      <g v-for="star in stars" :key="star.name">
        <line v-if="stars.length === 1" class="hand" x1="0" y1="0" :x2="star.x" :y2="star.y" />
        <circle class="star" :cx="star.x" :cy="star.y" :r="star.size" />
        <text class="name" :x="star.label.x" :y="star.label.y" :text-anchor="star.label.anchor">{{ star.name }}</text>
      </g>
    </svg>
    <figcaption>{{ clock }}, {{ view }}, {{ dial.pole }} pole at the cross; the sky turns {{ turning }}</figcaption>
  </figure>
</template>

<style scoped>
.dial { margin: 0; display: flex; flex-direction: column; align-items: center; }
svg { width: 100%; max-width: 186px; }
.rim { fill: var(--silhouette); stroke: var(--muted); stroke-width: 1.2; }
:root[data-theme='day'] .rim { fill: var(--sky-dark); }
.ring { fill: none; stroke: var(--line); stroke-width: 0.8; stroke-dasharray: 2 3; }
.ring-label { font-size: 6.5px; fill: var(--path); opacity: 0.75; }
.tick { stroke: var(--muted); }
.hour { font-size: 9px; fill: var(--muted); text-anchor: middle; }
.cross { stroke: var(--accent); stroke-width: 1.4; }
:root[data-theme='day'] .cross { stroke: #f0a35e; }
.outline { fill: none; stroke: var(--path); stroke-width: 0.6; stroke-dasharray: 3 3; opacity: 0.7; }
.hand { stroke: var(--path); stroke-width: 0.6; stroke-dasharray: 3 3; opacity: 0.7; }
.star, .name { fill: var(--path); }
.name { font-size: 9px; }
figcaption { font-size: 12px; color: var(--muted); text-align: center; }
@media print { .rim { fill: #fff; stroke: #000; } .ring { stroke: #555; } .star, .name, .hour, .ring-label { fill: #000; } .outline, .hand, .cross, .tick { stroke: #000; } figcaption { color: #000; } }
</style>
