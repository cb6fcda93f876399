<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'

/**
 * The pole as the eye sees it through a reticle of one's own kind. The small cross is where the axis aims; the open circle on
 * the dial is where the guiding star belongs. Two hands never cross here: one hand, one star.
 */
export type Reticle = '12-hour dial' | '24-part dial' | 'degree dial' | 'year rings' | 'two rings' | 'offset mark' | 'southern pattern' | 'none'
const props = defineProps<{ scope: Schemas['Scope']; reticle: Reticle }>()

const R = 150
const dial = computed(() => props.scope.dial)
const star = computed(() => dial.value.marks[0])
const figured = computed(() => dial.value.south && props.reticle === 'southern pattern')
const seen = computed(() => (figured.value ? dial.value.marks : dial.value.marks.slice(0, 1)))
const reach = computed(() => Math.max(...seen.value.map((mark) => mark.radius_arcmin), props.reticle === 'two rings' ? props.scope.other_ring_arcmin : 0) * (figured.value ? 1.32 : 1.45))
const scale = computed(() => R / reach.value)
function place(clockDeg: number, radius: number) {
  const angle = (clockDeg * Math.PI) / 180
  return { x: Math.sin(angle) * radius, y: -Math.cos(angle) * radius }
}
const marks = computed(() => seen.value.map((mark) => {
  const at = place(mark.clock_deg, mark.radius_arcmin * scale.value)
  return { ...mark, ...at, size: Math.max(7.4 - mark.magnitude, 1.4) * 1.5 }
}))
/** Names stand on the side that faces away from the middle of the figure, so that they keep out of it and of one another. */
const names = computed(() => {
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const middle = marks.value.length > 1 ? { x: mean(marks.value.map((one) => one.x)), y: mean(marks.value.map((one) => one.y)) } : { x: 0, y: 0 }
  return marks.value.map((one) => {
    // A star close to the cross is named above it, clear of the cross.
    if (Math.hypot(one.x, one.y) < R * 0.35) return { name: one.name, x: one.x, y: one.y - one.size - 9, anchor: one.x > 0 ? 'start' : 'end' }
    const [dx, dy] = [one.x - middle.x, one.y - middle.y]
    const far = Math.hypot(dx, dy) || 1
    return { name: one.name, x: one.x + (dx / far) * (one.size + 9), y: one.y + (dy / far) * (one.size + 13) + 4, anchor: dx / far > 0.3 ? 'start' : dx / far < -0.3 ? 'end' : 'middle' }
  })
})
/** The outline of the four southern stars, in the order in which it does not cross itself. */
const outline = computed(() => (figured.value ? ['σ Oct', 'χ Oct', 'υ Oct', 'τ Oct'].flatMap((name) => marks.value.filter((one) => one.name === name)).map((one) => `${one.x},${one.y}`).join(' ') : ''))
const DIALS: Record<string, { parts: number; label: (place: number) => string; every: number }> = {
  '12-hour dial': { parts: 12, every: 1, label: (one) => String(one || 12) },
  '24-part dial': { parts: 24, every: 2, label: (one) => String(one) },
  'degree dial': { parts: 36, every: 3, label: (one) => `${one * 10}°` },
}
const ticks = computed(() => {
  const kind = DIALS[props.reticle] ?? DIALS['12-hour dial']
  if (!kind || ['none', 'offset mark'].includes(props.reticle)) return []
  return Array.from({ length: kind.parts }, (_, one) => {
    const angle = (one / kind.parts) * 360
    return { from: place(angle, R - (one % kind.every ? 5 : 9)), to: place(angle, R), at: place(angle, R + 14), label: one % kind.every ? '' : kind.label(one) }
  })
})
const rings = computed(() => (props.reticle === 'year rings' ? props.scope.rings.map((ring) => ({ ...ring, r: ring.radius_arcmin * scale.value })) : []))
/** Year rings lie within an arcminute of one another: what tells them apart is drawn beside, enlarged. */
const fan = computed(() => {
  const radii = props.scope.rings.map((ring) => ring.radius_arcmin)
  const [low, high] = [Math.min(...radii), Math.max(...radii)]
  return props.scope.rings.map((ring) => ({ ...ring, y: high > low ? 78 - ((ring.radius_arcmin - low) / (high - low)) * 60 : 48 }))
})
/** Many reticles carry the rings of both hemispheres, which tells no one which is which: here each says so. */
const both = computed(() => {
  if (props.reticle !== 'two rings' || !star.value) return []
  const own = { side: dial.value.south ? 'south' : 'north', arcmin: star.value.polar_distance_arcmin, mine: true }
  const other = { side: dial.value.south ? 'north' : 'south', arcmin: props.scope.other_ring_arcmin, mine: false }
  return [own, other].map((one) => ({ ...one, r: one.arcmin * scale.value }))
})
const ring = computed(() => (star.value ? star.value.radius_arcmin * scale.value : 0))
const turning = computed(() => (dial.value.south ? 'clockwise' : 'anticlockwise'))
const view = computed(() => ({ upright: 'upright scope', inverted: 'inverting scope', none: 'naked eye' })[dial.value.view])
const reading = computed(() => {
  const one = star.value
  if (!one) return ''
  if (props.reticle === '24-part dial') return `${number(one.clock_deg / 15, 1)} of 24 parts`
  if (props.reticle === 'degree dial') return `${number(one.clock_deg, 0)}°`
  const hours = one.clock_deg / 30
  return `${Math.floor(hours) || 12}:${String(Math.floor((hours % 1) * 60)).padStart(2, '0')} as on a clock's face`
})
const spoken = computed(() => `${props.scope.clock}, ${view.value}: ${marks.value.map((mark) => `${mark.name} at ${number(mark.clock_deg, 0)}° clockwise from the top, ${number(mark.radius_arcmin, 0)} arcminutes out`).join('; ')}`)
</script>

<template>
  <figure class="view">
    <svg viewBox="-184 -176 368 352" role="img" :aria-label="spoken">
      <circle class="rim" :r="R" />
      <g v-for="(tick, index) in ticks" :key="index"><line class="tick" :x1="tick.from.x" :y1="tick.from.y" :x2="tick.to.x" :y2="tick.to.y" /><text v-if="tick.label" class="label" :x="tick.at.x" :y="tick.at.y + 4">{{ tick.label }}</text></g>
      <circle v-for="one in rings" :key="one.year" class="year" :r="one.r" />
      <g v-for="one in both" :key="one.side" :class="{ mine: one.mine }"><circle class="year" :r="one.r" /><text class="label" :y="one.r + 14">{{ one.side }}{{ one.mine ? ', yours' : '' }}</text></g>
      <circle v-if="!figured" class="path" :r="ring" />
      <path class="aim" d="M-9 0H9M0-9V9" />
      <polygon v-if="outline" class="outline" :points="outline" />
      <line v-for="one in marks.slice(0, figured ? 0 : 1)" :key="`h${one.name}`" class="hand" x1="0" y1="0" :x2="one.x" :y2="one.y" />
      <g v-for="one in marks" :key="one.name">
        <circle class="seat" :cx="one.x" :cy="one.y" :r="one.size + 4" />
        <circle class="star" :cx="one.x" :cy="one.y" :r="one.size" />
      </g>
      <text v-for="one in names" :key="one.name" class="name" :x="one.x" :y="one.y" :text-anchor="one.anchor">{{ one.name }}</text>
    </svg>
    <svg v-if="rings.length" class="fan" viewBox="0 0 120 96" role="img" :aria-label="`Rings by year: ${fan.map((one) => `${one.year} ${number(one.radius_arcmin, 1)} arcminutes`).join(', ')}`">
      <g v-for="one in fan" :key="one.year"><line class="year" x1="4" :y1="one.y" x2="34" :y2="one.y" /><text class="label left" x="40" :y="one.y + 3">{{ one.year }} {{ number(one.radius_arcmin, 1) }}′</text></g>
    </svg>
    <figcaption><b class="number">{{ scope.clock }}: {{ star?.name }} at {{ reading }}</b>, {{ number(star?.radius_arcmin ?? 0, 1) }}′ out · {{ view }}, {{ dial.pole }} pole · the sky turns {{ turning }}</figcaption>
  </figure>
</template>

<style scoped>
.view { margin: 0; display: flex; flex-direction: column; align-items: center; position: relative; min-height: 0; }
.view > svg:first-child { width: 100%; max-height: 430px; }
.fan { position: absolute; right: 0; top: 0; width: 130px; }
.rim { fill: var(--sky-dark); stroke: var(--muted); }
.tick { stroke: var(--path); opacity: 0.7; }
.label { font-size: 11px; fill: var(--muted); text-anchor: middle; }
.label.left { text-anchor: start; }
.path { fill: none; stroke: var(--path); stroke-width: 0.8; stroke-dasharray: 3 4; opacity: 0.6; }
.year { fill: none; stroke: var(--path); stroke-width: 0.7; opacity: 0.7; }
.mine .year { stroke-width: 1.8; opacity: 1; }
.mine .label { fill: var(--path); }
.fan .year { stroke: var(--muted); stroke-width: 1.4; }
.aim { stroke: var(--sky-bright); stroke-width: 1.6; }
.outline { fill: none; stroke: var(--path); stroke-width: 0.8; stroke-dasharray: 4 4; opacity: 0.8; }
.hand { stroke: var(--path); stroke-width: 0.8; stroke-dasharray: 2 4; }
.seat { fill: none; stroke: var(--sky-bright); stroke-width: 1.2; }
.star, .name { fill: var(--path); }
.name { font-size: 12px; }
figcaption { font-size: 13px; color: var(--muted); text-align: center; }
figcaption b { color: var(--text); }
@media print { .rim { fill: #fff; stroke: #000; } .star, .name, .label { fill: #000; } .tick, .path, .year, .aim, .outline, .hand, .seat { stroke: #000; } }
</style>
