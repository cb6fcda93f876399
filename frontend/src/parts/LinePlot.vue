<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { scaleLinear, scalePoint } from 'd3-scale'
import { line } from 'd3-shape'
import { computed, ref } from 'vue'

import { number } from '@/composables/figures'

/** An ordinary plot of one or two lines. What it shows always stands in a table beside it. */
interface Line {
  name: string
  points: (readonly [number, number])[]
  right?: boolean
  dashed?: boolean
}
const props = defineProps<{
  lines: Line[]
  xName: string
  yName: string
  rightName?: string
  label: string
  mark?: { at: number; name: string } | null
  steps?: boolean
  levels?: { at: number; name: string }[]
}>()

const EDGE = { left: 52, right: 20, top: 26, bottom: 42 }
const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 220))
const tall = computed(() => Math.max(height.value, 150))
const right = computed(() => wide.value - (props.rightName ? 56 : EDGE.right))
const bottom = computed(() => tall.value - EDGE.bottom)

const places = computed(() =>
  [...new Set(props.lines.flatMap((one) => one.points.map(([at]) => at)))].sort((a, b) => a - b),
)
const even = computed(() => scalePoint(places.value.map(String), [EDGE.left + 12, right.value - 12]))
const along = computed(() => scaleLinear([0, Math.max(...places.value, 1)], [EDGE.left, right.value]))
const x = (at: number) => (props.steps ? (even.value(String(at)) ?? EDGE.left) : along.value(at))
const ticks = computed(() => (props.steps ? places.value : along.value.ticks(Math.max(Math.floor(wide.value / 90), 3))))

/** One axis for the lines on the left, one for those on the right. */
function upward(onTheRight: boolean) {
  const values = props.lines
    .filter((one) => Boolean(one.right) === onTheRight)
    .flatMap((one) => one.points.map(([, value]) => value))
  const levels = onTheRight ? [] : (props.levels ?? []).map((one) => one.at)
  return scaleLinear([0, Math.max(...values, ...levels, 0.001)], [bottom.value, EDGE.top]).nice(5)
}
const scales = computed(() => ({ left: upward(false), right: upward(true) }))
const y = (one: Line, value: number) => (one.right ? scales.value.right : scales.value.left)(value)
const drawn = computed(() =>
  props.lines.map((one) => ({
    ...one,
    path:
      line<readonly [number, number]>()
        .x(([at]) => x(at))
        .y(([, value]) => y(one, value))([...one.points]) ?? '',
    dots: one.points.map(([at, value]) => ({
      cx: x(at),
      cy: y(one, value),
      said: `${one.name}: ${figure(value)} at ${figure(at)}`,
    })),
  })),
)
const figure = (value: number) => number(value, value >= 100 || Number.isInteger(value) ? 0 : value >= 10 ? 1 : 2)
</script>

<template>
  <div ref="box" class="plot">
    <svg :viewBox="`0 0 ${wide} ${tall}`" role="img" :aria-label="label">
      <g v-for="tick in scales.left.ticks(5)" :key="`left ${tick}`">
        <line class="grid" :x1="EDGE.left" :x2="right" :y1="scales.left(tick)" :y2="scales.left(tick)" />
        <text :x="EDGE.left - 6" :y="scales.left(tick) + 4" text-anchor="end">{{ figure(tick) }}</text>
      </g>
      <template v-if="rightName">
        <text v-for="tick in scales.right.ticks(5)" :key="`right ${tick}`" :x="right + 6" :y="scales.right(tick) + 4">
          {{ figure(tick) }}
        </text>
        <text
          class="name"
          :transform="`translate(${wide - 10} ${(EDGE.top + bottom) / 2}) rotate(90)`"
          text-anchor="middle">
          {{ rightName }}
        </text>
      </template>
      <text v-for="tick in ticks" :key="`at ${tick}`" :x="x(tick)" :y="bottom + 16" text-anchor="middle">
        {{ figure(tick) }}
      </text>
      <text class="name" :x="(EDGE.left + right) / 2" :y="tall - 8" text-anchor="middle">{{ xName }}</text>
      <text class="name" :transform="`translate(14 ${(EDGE.top + bottom) / 2}) rotate(-90)`" text-anchor="middle">
        {{ yName }}
      </text>
      <line class="foot" :x1="EDGE.left" :x2="right" :y1="bottom" :y2="bottom" />
      <g v-for="level in levels ?? []" :key="level.name">
        <line class="mark" :x1="EDGE.left" :x2="right" :y1="scales.left(level.at)" :y2="scales.left(level.at)" />
        <text class="said" :x="EDGE.left + 4" :y="scales.left(level.at) - 4">{{ level.name }}</text>
      </g>
      <g v-if="mark">
        <line class="mark" :x1="x(mark.at)" :x2="x(mark.at)" :y1="EDGE.top - 8" :y2="bottom" />
        <text
          class="said"
          :x="x(mark.at) + (x(mark.at) > wide / 2 ? -6 : 6)"
          :y="EDGE.top + 4"
          :text-anchor="x(mark.at) > wide / 2 ? 'end' : 'start'">
          {{ mark.name }}
        </text>
      </g>
      <g v-for="(one, place) in drawn" :key="one.name" :class="place ? 'second' : 'first'">
        <path :d="one.path" :class="{ dashed: one.dashed }" />
        <circle v-for="dot in one.dots" :key="dot.said" :cx="dot.cx" :cy="dot.cy" r="3">
          <title>{{ dot.said }}</title>
        </circle>
      </g>
    </svg>
    <p v-if="lines.length > 1" class="legend">
      <span v-for="(one, place) in lines" :key="one.name" :class="place ? 'second' : 'first'">
        <i :class="{ dashed: one.dashed }" />{{ one.name }}
      </span>
    </p>
  </div>
</template>

<style scoped>
.plot {
  width: 100%;
  height: 100%;
  min-height: 190px;
  position: relative;
}
svg {
  width: 100%;
  height: 100%;
  display: block;
}
text {
  fill: var(--muted);
  font-size: 11.5px;
}
.said {
  fill: var(--text);
}
.grid {
  stroke: var(--line);
  opacity: 0.4;
}
.foot {
  stroke: var(--line);
}
.mark {
  stroke: var(--text);
  stroke-dasharray: 1 3;
}
path {
  fill: none;
  stroke-width: 2;
}
.dashed {
  stroke-dasharray: 6 4;
}
.first path {
  stroke: var(--accent);
}
.first circle {
  fill: var(--accent);
}
.second path {
  stroke: var(--text);
}
.second circle {
  fill: var(--text);
}
.legend {
  position: absolute;
  top: 0;
  right: 8px;
  margin: 0;
  display: flex;
  gap: 14px;
  font-size: 12px;
}
.legend i {
  display: inline-block;
  width: 22px;
  border-top: 2px solid var(--accent);
  margin-right: 6px;
  vertical-align: middle;
}
.legend .second i {
  border-color: var(--text);
}
.legend i.dashed {
  border-top-style: dashed;
}
</style>
