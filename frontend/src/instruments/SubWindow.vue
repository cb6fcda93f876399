<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { scaleLinear } from 'd3-scale'
import { computed, ref, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

import { along, free, hoursWords as hours, lengthWords, nearest, percent, TICKS } from './lengths'
import SubWindowTable from './SubWindowTable.vue'

/** The sub window: useful signal per hour along a logarithmic time axis, each limit's free stretch under it, and a handle. */
const props = defineProps<{
  window: Schemas['SubWindow']
  stops: Schemas['Stop'][]
  at: number
  stale: boolean
  goal: number
}>()
const emit = defineEmits<{ take: [seconds: number]; working: [key: string] }>()

const RIGHT = 14
const TOP = 22
const KEYS_SETTLE_MS = 350
const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
/** On a narrow screen a lane's name stands above it instead of beside it. */
const narrow = computed(() => width.value > 0 && width.value < 560)
const wide = computed(() => Math.max(width.value, 300))
const left = computed(() => (narrow.value ? 12 : 190))
const laneTall = computed(() => (narrow.value ? 52 : width.value > 0 && width.value < 800 ? 37 : 27))
const above = computed(() => (narrow.value ? 24 : 0))
const lanesTall = computed(() => props.window.spans.length * laneTall.value + 24)
const curveTall = computed(() => Math.max(height.value - lanesTall.value - TOP, 110))
const x = computed(() => scaleLinear([left.value, wide.value - RIGHT]))
const y = computed(() => scaleLinear([TOP + curveTall.value - 8, TOP]))
const ground = computed(() => TOP + curveTall.value)

const points = (values: readonly number[]) =>
  props.window.curve.seconds
    .map((one, place) => `${x.value(along(one)).toFixed(1)},${y.value(values[place] ?? 0).toFixed(1)}`)
    .join(' L')
const useful = computed(
  () => `M${x.value(0)},${y.value(0)} L${points(props.window.curve.useful)} L${x.value(1)},${y.value(0)} Z`,
)
const keep = computed(() => `M${points(props.window.curve.keep)}`)
const flat = computed(() => ({
  from: x.value(along(props.window.curve.top_from_s)),
  to: x.value(along(props.window.curve.top_to_s)),
}))
const lanes = computed(() =>
  props.window.spans.map((span, place) => {
    const { from, to } = free(span)
    return {
      span,
      from: x.value(from),
      to: x.value(to),
      y: ground.value + 20 + above.value + place * laneTall.value,
      empty: to <= from,
      end: span.to_s ?? span.from_s,
    }
  }),
)

/** The handle follows hand and keys at once; the night is worked out anew when they rest. */
const hand = ref(props.at)
watch(
  () => [props.at, props.stops] as const,
  () => {
    if (!held.value && settle === undefined) hand.value = props.at
  },
)
const lengths = computed(() => props.stops.map((one) => one.reading.exposure_s))
const stop = computed(() => props.stops[Math.min(hand.value, props.stops.length - 1)])
const held = ref(false)
let settle: ReturnType<typeof setTimeout> | undefined
function put() {
  clearTimeout(settle)
  settle = undefined
  const chosen = stop.value?.reading.exposure_s
  if (chosen !== undefined && chosen !== props.stops[props.at]?.reading.exposure_s) emit('take', chosen)
}
function follow(event: PointerEvent) {
  const edge = box.value?.getBoundingClientRect().left ?? 0
  hand.value = nearest(lengths.value, x.value.invert(event.clientX - edge))
}
function grasp(event: PointerEvent) {
  if (event.clientX - (box.value?.getBoundingClientRect().left ?? 0) < left.value - 12) return
  held.value = true
  follow(event)
}
useEventListener('pointermove', (event: PointerEvent) => {
  if (held.value) follow(event)
})
useEventListener('pointerup', () => {
  if (!held.value) return
  held.value = false
  put()
})
function step(event: KeyboardEvent) {
  const sizes: Record<string, number> = {
    ArrowLeft: -1,
    ArrowDown: -1,
    ArrowRight: 1,
    ArrowUp: 1,
    PageDown: -4,
    PageUp: 4,
    Home: -100,
    End: 100,
  }
  const size = sizes[event.key]
  if (size === undefined) return
  event.preventDefault()
  hand.value = Math.max(0, Math.min(props.stops.length - 1, hand.value + size))
  clearTimeout(settle)
  settle = setTimeout(put, KEYS_SETTLE_MS)
}
const spoken = computed(() => {
  const one = stop.value
  if (!one) return ''
  const { reading } = one
  return [
    `${lengthWords(reading.exposure_s)}: keeps ${percent(reading.keep)}`,
    `read noise adds ${percent(reading.noise_share, 1)}`,
    `sky at ${percent(reading.back_share)} of the camera's histogram`,
    `${one.frames} frames`,
    `useful signal ${percent(reading.useful)} of the best`,
  ].join(', ')
})
const table = ref(false)
</script>

<template>
  <figure class="subwindow" :class="{ stale }">
    <figcaption v-if="stop" aria-live="off">
      <b class="number length">{{ lengthWords(stop.reading.exposure_s) }}</b>
      <button type="button" class="plain" @click="emit('working', 'advice')">
        useful <b class="number">{{ percent(stop.reading.useful) }}</b>
      </button>
      <button type="button" class="plain" @click="emit('working', 'keep')">
        kept <b class="number">{{ percent(stop.reading.keep) }}</b>
      </button>
      <button type="button" class="plain" @click="emit('working', 'sky_limited')">
        read noise adds <b class="number">{{ percent(stop.reading.noise_share, 1) }}</b>
      </button>
      <button type="button" class="plain" @click="emit('working', 'histogram')">
        sky <b class="number">{{ percent(stop.reading.background_share, 1) }}</b> of clip, on the camera
        <b class="number">{{ percent(stop.reading.back_share) }}</b> from the left
      </button>
      <button type="button" class="plain" @click="emit('working', 'frames')">
        <b class="number">{{ stop.frames }}</b> frames, <b class="number">{{ number(stop.storage_gb, 1) }}</b> GB
      </button>
      <button type="button" class="plain" @click="emit('working', 'hours')">
        S/N {{ number(goal, 0) }} in <b class="number">{{ hours(stop) }}</b>
      </button>
      <Button size="small" type="text" class="table" @click="table = true">As a table</Button>
    </figcaption>
    <div ref="box" class="box">
      <div
        class="hand"
        tabindex="0"
        role="slider"
        aria-label="Length of a sub"
        aria-valuemin="0"
        :aria-valuemax="stops.length - 1"
        :aria-valuenow="hand"
        :aria-valuetext="spoken"
        :style="{ height: `${ground + lanesTall - 8}px` }"
        @pointerdown="grasp"
        @keydown="step">
        <svg :width="wide" :height="ground + lanesTall" aria-hidden="true">
          <path class="useful" :d="useful" />
          <rect class="top" :x="flat.from" :width="Math.max(flat.to - flat.from, 3)" :y="TOP" :height="curveTall - 8" />
          <path class="keep" :d="keep" />
          <text class="legend" :x="narrow ? 18 : 2" :y="TOP + 14">Useful signal per hour</text>
          <text class="legend small" :x="narrow ? 18 : 2" :y="TOP + 30">shaded: within 1 % of the best</text>
          <text class="legend small" :x="narrow ? 18 : 2" :y="TOP + 44">dashed: share of frames kept</text>
          <g v-for="tick in narrow ? TICKS.filter((_, place) => place % 2 === 0) : TICKS" :key="tick" class="tick">
            <line :x1="x(along(tick))" :x2="x(along(tick))" :y1="TOP" :y2="ground + lanesTall - 10" />
            <text :x="x(along(tick))" :y="ground + 13" :text-anchor="tick === 1200 ? 'end' : 'middle'">
              {{ tick < 60 ? `${tick} s` : tick === 600 ? '10' : `${tick / 60} min` }}
            </text>
          </g>
          <g v-for="lane in lanes" :key="lane.span.key" class="lane" :class="{ binds: lane.span.binds }">
            <rect class="bed" :x="x(0)" :y="lane.y" :width="x(1) - x(0)" :height="20" rx="4" />
            <rect
              v-if="!lane.empty"
              class="free"
              :x="lane.from"
              :y="lane.y"
              :width="Math.max(lane.to - lane.from, 2)"
              :height="20"
              rx="4" />
            <text v-if="!lane.empty && lane.to - lane.from > 150" class="inside" :x="lane.from + 8" :y="lane.y + 14">
              {{ lane.span.words }}
            </text>
            <text v-else class="outside" :x="lane.to + 8" :y="lane.y + 14">
              {{ lane.empty ? 'leaves nothing: ' : '' }}{{ lane.span.words }}
            </text>
          </g>
          <g v-if="stop" class="grip">
            <line
              :x1="x(along(stop.reading.exposure_s))"
              :x2="x(along(stop.reading.exposure_s))"
              y1="14"
              :y2="ground + lanesTall - 10" />
            <path :d="`M${x(along(stop.reading.exposure_s)) - 9},0h18v9l-9,9l-9,-9z`" />
            <circle :cx="x(along(stop.reading.exposure_s))" :cy="y(stop.reading.useful)" r="4.500" />
          </g>
        </svg>
      </div>
      <ul class="names" :class="{ narrow }">
        <li
          v-for="lane in lanes"
          :key="lane.span.key"
          :style="{ top: `${lane.y - 1 - above}px` }"
          :class="{ binds: lane.span.binds }">
          <button type="button" class="plain" @click="emit('working', lane.span.working)">
            {{ lane.span.name }}<small v-if="lane.span.binds"> decides</small>
          </button>
          <span class="number muted">{{
            lane.end == null
              ? 'no limit'
              : lane.span.to_s == null
                ? `from ${lengthWords(Math.round(lane.end))}`
                : lane.end > 7200
                  ? '> 2 h'
                  : lengthWords(lane.end < 10 ? Math.round(lane.end * 10) / 10 : Math.round(lane.end))
          }}</span>
        </li>
      </ul>
    </div>
    <SubWindowTable :open="table" :spans="window.spans" :stops="stops" @close="table = false" />
  </figure>
</template>

<style scoped>
.subwindow {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
  gap: 4px;
}
.box {
  transition: opacity 0.2s;
}
.stale .box {
  opacity: 0.7;
  transition-delay: 0.6s;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  align-items: baseline;
  font-size: 13px;
}
figcaption .plain {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.length {
  font-size: 20px;
  color: var(--accent);
  min-width: 106px;
}
.table {
  margin-left: auto;
}
.box {
  position: relative;
  flex: 1;
  min-height: v-bind('`${Math.max(330, lanesTall + 150)}px`');
  overflow: hidden;
}
.hand {
  position: absolute;
  inset: 0 0 auto 0;
  cursor: ew-resize;
  touch-action: pan-y pinch-zoom;
  user-select: none;
}
svg {
  display: block;
}
.hand:focus-visible {
  outline-offset: -2px;
}
text {
  font-size: 11.5px;
  fill: var(--muted);
  pointer-events: none;
}
.legend {
  fill: var(--text);
  font-size: 12.5px;
}
.legend.small {
  fill: var(--muted);
  font-size: 11.5px;
}
.top {
  fill: var(--accent);
  opacity: 0.3;
}
path.useful {
  fill: var(--raised);
  stroke: var(--accent);
  stroke-width: 2;
}
path.keep {
  fill: none;
  stroke: var(--muted);
  stroke-width: 1.5;
  stroke-dasharray: 4 4;
}
.tick line {
  stroke: var(--line);
  stroke-width: 1;
  opacity: 0.6;
}
.bed {
  fill: var(--raised);
  opacity: 0.5;
}
.free {
  fill: var(--line);
}
.binds .free {
  fill: var(--accent);
}
.inside {
  fill: var(--text);
}
.binds .inside {
  fill: var(--accent-text);
}
.outside {
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 3px;
}
.grip line {
  stroke: var(--text);
  stroke-width: 2;
}
.grip path {
  fill: var(--text);
}
.grip circle {
  fill: var(--accent);
  stroke: var(--text);
  stroke-width: 2;
}
.names {
  list-style: none;
  margin: 0;
  padding: 0;
}
.names li {
  position: absolute;
  left: 0;
  width: 182px;
  display: flex;
  flex-direction: column;
  line-height: 1.05;
  font-size: 12.5px;
}
.names .plain::after {
  content: '';
  position: absolute;
  inset: 0;
}
.narrow li {
  width: 100%;
  flex-direction: row;
  gap: 8px;
  align-items: baseline;
  min-height: 24px;
}
.names .plain {
  min-height: 24px !important;
}
.names li span {
  font-size: 11px;
}
.names small {
  color: var(--accent);
  font-weight: 600;
}
.binds button {
  font-weight: 600;
}
</style>
