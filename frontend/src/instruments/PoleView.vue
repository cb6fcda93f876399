<script setup lang="ts">
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'

/**
 * What moves about the pole: the way of each star over the night with times on it, the star as a mark, its next half hour ahead,
 * and where the horizon lies. The cross is where the axis aims. Rings and figures appear only as the person's own reticle has
 * them, and lie under the way.
 */
export type Reticle =
  | '12-hour dial'
  | '24-part dial'
  | 'degree dial'
  | 'year rings'
  | 'two rings'
  | 'offset mark'
  | 'southern pattern'
  | 'none'
const props = withDefaults(
  defineProps<{
    dial: Schemas['Dial']
    turning: Schemas['Turning']
    at: string
    clock: string
    reticle?: Reticle
    rings?: Schemas['YearRing'][]
    otherRingArcmin?: number
    small?: boolean
  }>(),
  { reticle: 'none', rings: () => [], otherRingArcmin: 0, small: false },
)

const R = 150
const star = computed(() => props.dial.marks[0])
/** In the south the four stars are matched as one figure, unless a reticle asks for one of them. */
const figured = computed(() => props.dial.south && ['southern pattern', 'none'].includes(props.reticle))
const seen = computed(() => (figured.value ? props.dial.marks : props.dial.marks.slice(0, 1)))
const reach = computed(
  () =>
    Math.max(
      ...seen.value.map((mark) => mark.radius_arcmin),
      props.reticle === 'two rings' ? props.otherRingArcmin : 0,
    ) * (figured.value ? 1.05 : 1.3),
)
const scale = computed(() => R / reach.value)
function place(clockDeg: number, radius: number) {
  const angle = (clockDeg * Math.PI) / 180
  return { x: Math.sin(angle) * radius, y: -Math.cos(angle) * radius }
}
const marks = computed(() =>
  seen.value.map((mark) => {
    const at = place(mark.clock_deg, mark.radius_arcmin * scale.value)
    return { ...mark, ...at, size: Math.max(7.4 - mark.magnitude, 1.4) * 1.5 }
  }),
)
/** Names stand on the side that faces away from the middle of the figure, so that they keep out of it and of one another. */
const names = computed(() => {
  const mean = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length
  const middle =
    marks.value.length > 1
      ? { x: mean(marks.value.map((one) => one.x)), y: mean(marks.value.map((one) => one.y)) }
      : { x: 0, y: 0 }
  return marks.value.map((one) => {
    // A star close to the cross is named above it, clear of the cross.
    if (Math.hypot(one.x, one.y) < R * 0.35)
      return { name: one.name, x: one.x, y: one.y - one.size - 9, anchor: one.x > 0 ? 'start' : 'end' }
    const [dx, dy] = [one.x - middle.x, one.y - middle.y]
    const far = Math.hypot(dx, dy) || 1
    return {
      name: one.name,
      x: one.x + (dx / far) * (one.size + 9),
      y: one.y + (dy / far) * (one.size + 13) + 4,
      anchor: dx / far > 0.3 ? 'start' : dx / far < -0.3 ? 'end' : 'middle',
    }
  })
})
/** The outline of the four southern stars, in the order in which it does not cross itself. */
const outline = computed(() =>
  figured.value
    ? ['σ Oct', 'χ Oct', 'υ Oct', 'τ Oct']
        .flatMap((name) => marks.value.filter((one) => one.name === name))
        .map((one) => `${one.x},${one.y}`)
        .join(' ')
    : '',
)
const DIALS: Record<string, { parts: number; label: (place: number) => string; every: number }> = {
  '12-hour dial': { parts: 12, every: 1, label: (one) => String(one || 12) },
  '24-part dial': { parts: 24, every: 2, label: (one) => String(one) },
  'degree dial': { parts: 36, every: 3, label: (one) => `${one * 10}°` },
}
const ticks = computed(() => {
  const kind = DIALS[props.reticle]
  if (!kind) return []
  return Array.from({ length: kind.parts }, (_, one) => {
    const angle = (one / kind.parts) * 360
    return {
      from: place(angle, R - (one % kind.every ? 5 : 9)),
      to: place(angle, R),
      at: place(angle, R + 14),
      label: one % kind.every ? '' : kind.label(one),
    }
  })
})
const yearRings = computed(() =>
  props.reticle === 'year rings' ? props.rings.map((ring) => ({ ...ring, r: ring.radius_arcmin * scale.value })) : [],
)
/** Year rings lie within an arcminute of one another: what tells them apart is drawn beside, enlarged. */
const fan = computed(() => {
  const radii = props.rings.map((ring) => ring.radius_arcmin)
  const [low, high] = [Math.min(...radii), Math.max(...radii)]
  return props.rings.map((ring) => ({
    ...ring,
    y: high > low ? 78 - ((ring.radius_arcmin - low) / (high - low)) * 60 : 48,
  }))
})
/** Many reticles carry the rings of both hemispheres, which tells no one which is which: here each says so. */
const both = computed(() => {
  if (props.reticle !== 'two rings' || !star.value) return []
  const own = { side: props.dial.south ? 'south' : 'north', arcmin: star.value.polar_distance_arcmin, mine: true }
  const other = { side: props.dial.south ? 'north' : 'south', arcmin: props.otherRingArcmin, mine: false }
  return [own, other].map((one) => ({ ...one, r: one.arcmin * scale.value }))
})
const turns = computed(() => (props.dial.south ? 'clockwise' : 'anticlockwise'))
const view = computed(
  () => ({ upright: 'upright scope', inverted: 'inverting scope', none: 'naked eye' })[props.dial.view],
)
const reading = computed(() => {
  const one = star.value
  if (!one) return ''
  if (props.reticle === '24-part dial') return `${number(one.clock_deg / 15, 1)} of 24 parts`
  const hours = one.clock_deg / 30
  if (props.reticle === '12-hour dial')
    return `${Math.floor(hours) || 12}:${String(Math.floor((hours % 1) * 60)).padStart(2, '0')} of your reticle`
  return `${number(one.clock_deg, 0)}° clockwise from the top`
})
const HALF_AN_HOUR = 1_800_000
const now = computed(() => Date.parse(props.at))
/** Each star's way in three parts: behind it, the half hour ahead, and what comes after. */
const ways = computed(() =>
  props.turning.arcs
    .filter((arc) => marks.value.some((one) => one.name === arc.name))
    .map((arc) => {
      const points = props.turning.moments.map((moment, index) => ({
        at: Date.parse(moment),
        clock: props.turning.clocks[index] ?? '',
        angle: arc.clock_deg[index] ?? 0,
        ...place(arc.clock_deg[index] ?? 0, (arc.radius_arcmin[index] ?? 0) * scale.value),
      }))
      const mark = marks.value.find((one) => one.name === arc.name)
      const here = mark ? [{ x: mark.x, y: mark.y }] : []
      const line = (part: { x: number; y: number }[]) =>
        part.map((one) => `${one.x.toFixed(1)},${one.y.toFixed(1)}`).join(' ')
      const behind = points.filter((one) => one.at <= now.value)
      const near = points.filter((one) => one.at > now.value && one.at <= now.value + HALF_AN_HOUR)
      const later = points.filter((one) => one.at >= now.value + HALF_AN_HOUR)
      return {
        name: arc.name,
        points,
        behind: line([...behind, ...here]),
        near: line([...here, ...near]),
        later: line([...near.slice(-1), ...later]),
      }
    }),
)
/** Whole hours stand on the outermost way, where there is room. */
const hours = computed(() => {
  const reachOf = (way: { points: { x: number; y: number }[] }) =>
    Math.max(0, ...way.points.map((one) => Math.hypot(one.x, one.y)))
  const outer = [...ways.value].sort((a, b) => reachOf(b) - reachOf(a))[0]
  const whole = (outer?.points ?? []).filter((one) => one.clock.endsWith(':00'))
  const every = props.small ? 3 : whole.length > 10 ? 2 : 1
  return whole.map((one) => {
    const far = Math.hypot(one.x, one.y) || 1
    const out = far + (props.small ? 22 : 17)
    const label = { x: (one.x / far) * out, y: (one.y / far) * out + 4 }
    const [wide, tall] = props.small ? [64, 26] : [48, 20]
    const clear = names.value.every((name) => Math.abs(name.x - label.x) > wide || Math.abs(name.y - label.y) > tall)
    return { ...one, label, named: clear && Number(one.clock.slice(0, 2)) % every === 0 }
  })
})
/** In a scope that turns the picture by half a turn the horizon is above, and left is right. */
const sides = computed(() => {
  const over = props.dial.view === 'inverted'
  const [left, right] = props.dial.south !== over ? ['east', 'west'] : ['west', 'east']
  return { over, left, right }
})
const placed = (mark: { name: string; clock_deg: number; radius_arcmin: number }) =>
  `${mark.name} at ${number(mark.clock_deg, 0)}° clockwise from the top, ${number(mark.radius_arcmin, 0)} arcminutes out`
const spoken = computed(() => `${props.clock}, ${view.value}: ${marks.value.map(placed).join('; ')}`)
</script>

<template>
  <figure class="view" :class="{ small }">
    <svg viewBox="-200 -200 400 400" role="img" :aria-label="spoken">
      <rect class="sky" x="-200" y="-200" width="400" height="400" rx="10" />
      <g class="horizon" :transform="sides.over ? 'translate(0 -200)' : 'translate(0 182)'">
        <rect x="-200" y="0" width="400" height="18" />
        <text y="13">horizon</text>
      </g>
      <template v-if="!small">
        <text class="side" x="-192" y="4">{{ sides.left }}</text>
        <text class="side end" x="192" y="4">{{ sides.right }}</text>
      </template>
      <g class="reticle">
        <circle v-if="ticks.length" class="rim" :r="R" />
        <g v-for="(tick, index) in ticks" :key="index">
          <line class="tick" :x1="tick.from.x" :y1="tick.from.y" :x2="tick.to.x" :y2="tick.to.y" />
          <text v-if="tick.label" class="label" :x="tick.at.x" :y="tick.at.y + 4">{{ tick.label }}</text>
        </g>
        <circle v-for="one in yearRings" :key="one.year" class="year" :r="one.r" />
        <g v-for="one in both" :key="one.side" :class="{ mine: one.mine }">
          <circle class="year" :r="one.r" />
          <text class="label" :y="one.r + 14">{{ one.side }}{{ one.mine ? ', yours' : '' }}</text>
        </g>
      </g>
      <path class="aim" d="M-9 0H9M0-9V9" />
      <g v-for="way in ways" :key="way.name">
        <polyline class="way behind" :points="way.behind" />
        <polyline class="way" :points="way.later" />
        <polyline class="way near" :points="way.near" />
      </g>
      <g v-for="one in hours" :key="one.at" class="hour">
        <circle :cx="one.x" :cy="one.y" :r="one.named ? 3 : 2" />
        <text v-if="one.named" :x="one.label.x" :y="one.label.y">{{ one.clock }}</text>
      </g>
      <polygon v-if="outline" class="outline" :points="outline" />
      <circle v-for="one in marks" :key="one.name" class="star" :cx="one.x" :cy="one.y" :r="one.size" />
      <text v-for="one in names" :key="`n${one.name}`" class="name" :x="one.x" :y="one.y" :text-anchor="one.anchor">
        {{ small ? one.name.replace(' Oct', '') : one.name }}
      </text>
    </svg>
    <svg
      v-if="yearRings.length"
      class="fan"
      viewBox="0 0 120 96"
      role="img"
      :aria-label="`Rings by year: ${fan.map((one) => `${one.year} ${number(one.radius_arcmin, 1)} arcminutes`).join(', ')}`">
      <g v-for="one in fan" :key="one.year">
        <line class="year" x1="4" :y1="one.y" x2="34" :y2="one.y" />
        <text class="label left" x="40" :y="one.y + 3">{{ one.year }} {{ number(one.radius_arcmin, 1) }}′</text>
      </g>
    </svg>
    <figcaption>
      <b class="number">{{ clock }}: {{ star?.name }} at {{ reading }}</b
      >, {{ number(star?.radius_arcmin ?? 0, 1) }}′ out · {{ view
      }}<template v-if="!small">, {{ dial.pole }} pole at the cross · bright: the half hour ahead</template> · the sky
      turns {{ turns }}
    </figcaption>
  </figure>
</template>

<style scoped>
.view {
  margin: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  position: relative;
  min-height: 0;
}
.view > svg:first-child {
  width: 100%;
  max-height: 440px;
}
.small > svg:first-child {
  max-width: 190px;
}
.fan {
  position: absolute;
  right: 0;
  top: 0;
  width: 130px;
}
.sky {
  fill: var(--sky-dark);
  stroke: var(--muted);
}
.horizon rect {
  fill: var(--earth);
  stroke: var(--path);
  stroke-width: 0.6;
  stroke-opacity: 0.5;
}
.horizon text,
.side {
  font-size: 11px;
  fill: var(--path);
  opacity: 0.75;
  text-anchor: middle;
}
.side {
  text-anchor: start;
}
.side.end {
  text-anchor: end;
}
.reticle {
  opacity: 0.55;
}
.rim {
  fill: none;
  stroke: var(--path);
  stroke-width: 0.8;
}
.tick {
  stroke: var(--path);
}
.label {
  font-size: 11px;
  fill: var(--path);
  text-anchor: middle;
}
.label.left {
  text-anchor: start;
  fill: var(--muted);
}
.year {
  fill: none;
  stroke: var(--path);
  stroke-width: 0.8;
}
.mine .year {
  stroke-width: 2;
}
.fan .year {
  stroke: var(--muted);
  stroke-width: 1.4;
}
.aim {
  stroke: var(--sky-bright);
  stroke-width: 1.6;
}
.way {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.2;
  opacity: 0.7;
}
.way.behind {
  stroke-dasharray: 1 4;
}
.way.near {
  stroke: var(--sky-bright);
  stroke-width: 4;
  stroke-linecap: round;
  opacity: 1;
}
.hour circle {
  fill: var(--path);
}
.hour text {
  font-size: 12px;
  fill: var(--path);
  text-anchor: middle;
  opacity: 0.9;
}
.outline {
  fill: none;
  stroke: var(--path);
  stroke-width: 0.8;
  stroke-dasharray: 4 4;
  opacity: 0.8;
}
.star,
.name {
  fill: var(--path);
}
.name {
  font-size: 13px;
  font-weight: 600;
}
.small .hour text,
.small .name,
.small .horizon text,
.small .side {
  font-size: 20px;
}
.small .name {
  font-size: 22px;
}
.small .way {
  stroke-width: 2;
}
.small .way.near {
  stroke-width: 7;
}
figcaption {
  font-size: 13px;
  color: var(--muted);
  text-align: center;
}
.small figcaption {
  font-size: 12px;
}
figcaption b {
  color: var(--text);
}
@media print {
  .small > svg:first-child {
    max-width: 40mm;
  }
  .small figcaption {
    font-size: 10px;
  }
  .sky {
    fill: #fff;
    stroke: #000;
  }
  .horizon rect {
    fill: #ddd;
    stroke: #000;
  }
  .star,
  .name,
  .label,
  .side,
  .horizon text,
  .hour circle,
  .hour text {
    fill: #000;
  }
  .tick,
  .way,
  .way.near,
  .year,
  .rim,
  .aim,
  .outline {
    stroke: #000;
  }
  figcaption,
  figcaption b {
    color: #000;
  }
}
</style>
