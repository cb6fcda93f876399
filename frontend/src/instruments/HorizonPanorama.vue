<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { scaleLinear } from 'd3-scale'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useCloser } from '@/composables/useCloser'

import { clear, direction, DIRECTIONS, drawing, type Spot } from './panorama'
import { heightAt, heightsAt, turned, withPoint, withStroke, type Point } from './profile'
import PanoramaTable from './PanoramaTable.vue'

/**
 * What one sees turning round: azimuth across, altitude up, the profile standing on the ground, targets passing behind
 * it. With the pencil the profile is drawn by hand, or raised and lowered with the arrow keys.
 */
const props = defineProps<{
  panorama: Schemas['Panorama']
  points: Point[]
  pencil: boolean
  middle: number
  sun: boolean
  moon: boolean
  stale: boolean
  /** The frame as it stands over the ground at some moments of its window. */
  frames?: readonly { clock: string; outline: readonly (readonly number[])[]; clear_deg: number }[]
}>()
const emit = defineEmits<{ drawn: [points: Point[]] }>()

const GROUND = 30
const TOP = 8
const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 320))
const tall = computed(() => Math.max(height.value, 220))
const across = computed(() => scaleLinear([0, 360], [0, wide.value]))
const up = computed(() => scaleLinear([0, 90], [tall.value - GROUND, TOP]).clamp(true))
const x = (azimuth: number) => across.value(turned(azimuth - props.middle + 180))
const y = (altitude: number) => up.value(altitude)

/** While a stroke is under the hand it is shown; it is kept when it is let go. */
const stroke = ref<Point[]>([])
const shown = computed(() => (stroke.value.length ? withStroke(props.points, stroke.value) : props.points))
const profile = computed(() => {
  const azimuths = Array.from({ length: 721 }, (_, step) => props.middle - 180 + step / 2)
  const heights = heightsAt(shown.value, azimuths)
  const top = heights.map((altitude, step) => `${((step / 720) * wide.value).toFixed(1)},${y(altitude).toFixed(1)}`)
  return `M0,${y(0)} L${top.join(' L')} L${wide.value},${y(0)} Z`
})

/** An outline that goes over the edge of the drawing is drawn at both ends. */
const framed = computed(() =>
  (props.frames ?? []).map((one) => {
    const start = turned((one.outline[0]?.[0] ?? 0) - props.middle + 180)
    const line = (shift: number) =>
      one.outline
        .map(([azimuth, altitude], place) => {
          const beside = turned((azimuth ?? 0) - props.middle + 180)
          const whole = beside - start > 180 ? beside - 360 : start - beside > 180 ? beside + 360 : beside
          return `${place ? 'L' : 'M'}${across.value(whole + shift).toFixed(1)},${y(altitude ?? 0).toFixed(1)}`
        })
        .join(' ')
    return { ...one, d: `${line(0)} ${line(360)} ${line(-360)}` }
  }),
)

/** On a narrow drawing fewer marks are written, and none where a name stands. */
const crowded = computed(() => width.value > 0 && width.value <= 900)
const scales = computed(() => ({ x, y, wide: wide.value, crowded: crowded.value }))
const paths = computed(() =>
  props.panorama.paths.filter((path) => path.points.length).map((path) => drawing(path, scales.value)),
)
const bodies = computed(() =>
  [...(props.sun ? [props.panorama.sun] : []), ...(props.moon ? [props.panorama.moon] : [])]
    .filter((path) => path.points.length)
    .map((path) => drawing(path, scales.value)),
)
const clearOf = (top: Spot, tick: Spot) => clear(top, tick, props.panorama.pole, scales.value)

/** At the very edge the mark of the pole still shows whole. */
const poleX = computed(() => Math.min(Math.max(x(props.panorama.pole.azimuth_deg), 8), wide.value - 8))

/** Where one points, or has moved to with the keys. */
const chosen = ref<number | null>(null)
const read = computed(() => turned(chosen.value ?? props.middle))
const spoken = computed(
  () =>
    `azimuth ${Math.round(read.value)}°, ${direction(read.value)}, horizon profile ${number(heightAt(shown.value, read.value), 0)}° up`,
)

function under(event: PointerEvent): Point {
  const frame = box.value?.getBoundingClientRect()
  const round = across.value.invert(event.clientX - (frame?.left ?? 0))
  return {
    azimuth_deg: turned(props.middle - 180 + Math.min(Math.max(round, 0), 359.96)),
    altitude_deg: up.value.invert(event.clientY - (frame?.top ?? 0)),
  }
}
function press(event: PointerEvent) {
  if (!props.pencil || event.button !== 0) return
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  stroke.value = [under(event)]
}
function move(event: PointerEvent) {
  const at = under(event)
  chosen.value = at.azimuth_deg
  if (stroke.value.length) stroke.value = [...stroke.value, at]
}
function release() {
  if (stroke.value.length > 1) emit('drawn', shown.value)
  stroke.value = []
}
function step(event: KeyboardEvent) {
  const sideways: Record<string, number> = { ArrowLeft: -1, ArrowRight: 1, PageDown: -30, PageUp: 30 }
  const upwards: Record<string, number> = { ArrowUp: 1, ArrowDown: -1 }
  const side = sideways[event.key]
  const up = upwards[event.key]
  if (side === undefined && (up === undefined || !props.pencil)) return
  event.preventDefault()
  const size = event.shiftKey ? 10 : 1
  if (side !== undefined) chosen.value = turned(read.value + side * size)
  else {
    chosen.value = read.value
    emit(
      'drawn',
      withPoint(
        props.points,
        read.value,
        Math.round(heightAt(props.points, read.value)) + (up ?? 0) * (event.shiftKey ? 5 : 1),
      ),
    )
  }
}

const table = ref(false)

const frame = ref<HTMLElement | null>(null)
const { zoom, atMost, zoomTo, along } = useCloser(frame)
</script>

<template>
  <figure class="panorama" :class="{ stale }">
    <figcaption>
      <span class="number time">{{ Math.round(read) }}° {{ direction(read) }}</span>
      <span
        >horizon profile <b class="number">{{ number(heightAt(shown, read), 0) }}°</b></span
      >
      <span class="muted"
        >{{ pencil ? 'Draw along the tree line' : 'Point to read'
        }}<span class="for-keys">{{
          pencil
            ? '; keys: left and right turn, up and down raise and lower, shift for more'
            : ', or use the arrow keys'
        }}</span></span
      >
      <span class="table">
        <Button
          size="small"
          aria-label="Show more of the horizon at once"
          :disabled="zoom === 1"
          @click="zoomTo(zoom / 2)"
          >−</Button
        >
        <Button size="small" aria-label="Look closer at the horizon" :disabled="atMost" @click="zoomTo(zoom * 2)"
          >+</Button
        >
        <Button size="small" type="text" @click="table = true">As a table</Button>
      </span>
    </figcaption>
    <div ref="frame" class="scroller" :class="{ closer: zoom > 1 }">
      <div
        ref="box"
        class="box"
        :class="{ pencil }"
        :style="{ width: `${zoom * 100}%` }"
        tabindex="0"
        role="slider"
        aria-label="Direction on the horizon"
        :aria-valuemin="0"
        :aria-valuemax="359"
        :aria-valuenow="Math.round(read) % 360"
        :aria-valuetext="spoken"
        @pointerdown="press"
        @pointermove="move"
        @pointerup="release"
        @pointercancel="stroke = []"
        @pointerleave="stroke.length ? undefined : (chosen = null)"
        @keydown="step">
        <svg :width="wide" :height="tall" aria-hidden="true">
          <defs>
            <linearGradient id="evening" x1="0" x2="0" y1="0" y2="1">
              <stop offset="0" class="high" />
              <stop offset="0.75" class="mid" />
              <stop offset="1" class="low" />
            </linearGradient>
            <pattern id="earth" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(35)">
              <line y2="7" />
            </pattern>
          </defs>
          <rect x="0" y="0" :width="wide" :height="y(0)" fill="url(#evening)" rx="4" />
          <g v-for="altitude in [30, 60]" :key="altitude" class="rule">
            <line x1="0" :x2="wide" :y1="y(altitude)" :y2="y(altitude)" />
            <text x="4" :y="y(altitude) - 3">{{ altitude }}°</text>
          </g>
          <g v-for="body in bodies" :key="body.name" class="body">
            <path v-for="(piece, place) in body.pieces" :key="place" :d="piece.d" />
            <text
              v-for="tick in body.ticks"
              :key="tick.clock + tick.azimuth_deg"
              class="tick"
              :x="x(tick.azimuth_deg)"
              :y="y(tick.altitude_deg) - 3">
              {{ tick.clock.slice(0, 2) }}
            </text>
            <text
              class="title"
              :x="Math.min(Math.max(x(body.top.azimuth_deg), 30), wide - 30)"
              :y="Math.max(y(body.top.altitude_deg) - 14, 12)">
              {{ body.name }}
            </text>
          </g>
          <path v-for="one in framed" :key="one.clock" class="framed" :class="{ cut: one.clear_deg < 0 }" :d="one.d" />
          <g v-for="path in paths" :key="path.name" class="target">
            <path v-for="(piece, place) in path.pieces" :key="place" :d="piece.d" :class="{ usable: piece.usable }" />
          </g>
          <path class="profile" :d="profile" />
          <path class="grain" :d="profile" fill="url(#earth)" />
          <g v-for="path in paths" :key="path.name" class="target">
            <g v-for="tick in path.ticks" :key="tick.clock + tick.azimuth_deg">
              <circle :cx="x(tick.azimuth_deg)" :cy="y(tick.altitude_deg)" r="2.6" />
              <text
                v-if="!crowded || clearOf(path.top, tick)"
                class="tick"
                :x="x(tick.azimuth_deg)"
                :y="y(tick.altitude_deg) - 6">
                {{ tick.clock.slice(0, 2) }}
              </text>
            </g>
            <text
              class="title"
              :x="Math.min(Math.max(x(path.top.azimuth_deg), 90), wide - 90)"
              :y="Math.max(y(path.top.altitude_deg) - 18, 12)">
              {{ path.name }}
            </text>
          </g>
          <g class="pole" :class="{ hidden: panorama.pole.hidden }">
            <path :d="`M${poleX},${y(panorama.pole.altitude_deg) - 7} l6,7 l-6,7 l-6,-7 Z`" />
            <line :x1="poleX" :x2="poleX" :y1="y(panorama.pole.altitude_deg) + 7" :y2="y(0)" />
            <text
              :x="poleX + (poleX > wide - 130 ? -10 : 10)"
              :text-anchor="poleX > wide - 130 ? 'end' : 'start'"
              :y="y(panorama.pole.altitude_deg) + 4">
              {{ panorama.pole.azimuth_deg === 180 ? 'south' : 'north' }} pole{{
                panorama.pole.hidden ? ', hidden' : ''
              }}
            </text>
          </g>
          <rect class="ground" x="0" :y="y(0)" :width="wide" :height="GROUND" />
          <text
            v-for="(word, place) in DIRECTIONS"
            :key="word"
            class="compass"
            :class="{ main: place % 2 === 0 }"
            :x="Math.min(Math.max(x(place * 45), 8), wide - 8)"
            :y="tall - 10">
            {{ word }}
          </text>
          <line class="reader" :x1="x(read)" :x2="x(read)" :y1="TOP" :y2="y(0)" />
        </svg>
      </div>
    </div>
    <p v-if="zoom > 1" class="along">
      <Button size="small" aria-label="Along the horizon to the left" @click="along(-1)">‹ along</Button>
      <span class="muted">{{ Math.round(360 / zoom) }}° at once</span>
      <Button size="small" aria-label="Along the horizon to the right" @click="along(1)">along ›</Button>
    </p>
    <PanoramaTable :open="table" :points="shown" :paths="panorama.paths" @close="table = false" />
  </figure>
</template>

<style scoped>
.panorama {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.stale {
  opacity: 0.7;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
  align-items: baseline;
  font-size: 13px;
  padding: 0 2px;
}
.time {
  font-size: 16px;
  font-weight: 600;
  min-width: 70px;
}
.table {
  margin-left: auto;
}
.scroller {
  flex: 1;
  min-height: 240px;
  display: flex;
  overflow: hidden;
}
.scroller.closer {
  overflow-x: auto;
}
.along {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: center;
  margin: 4px 0 0;
  font-size: 13px;
}
.box {
  position: relative;
  flex: none;
  min-height: 240px;
  overflow: hidden;
  border-radius: 6px;
  touch-action: pan-x pan-y pinch-zoom;
  cursor: crosshair;
}
.box.pencil {
  touch-action: none;
  outline: 1px dashed var(--accent);
  outline-offset: -1px;
}
svg {
  position: absolute;
  inset: 0;
}
.high {
  stop-color: var(--sky-dark);
}
.mid {
  stop-color: var(--sky-violet);
}
.low {
  stop-color: var(--sky-rose);
}
text {
  font-size: 11.5px;
  fill: var(--path);
}
.rule line {
  stroke: var(--path);
  stroke-width: 0.5;
  opacity: 0.35;
}
.rule text {
  opacity: 0.7;
}
.profile {
  fill: var(--earth);
  stroke: var(--path);
  stroke-width: 1;
  stroke-opacity: 0.55;
}
#earth line {
  stroke: var(--path);
  stroke-width: 0.8;
  opacity: 0.1;
}
.framed {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.6;
}
.framed.cut {
  stroke-dasharray: 6 4;
}
.target path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.1;
  stroke-dasharray: 3 4;
  opacity: 0.8;
}
.target path.usable {
  stroke-width: 3;
  stroke-dasharray: none;
  opacity: 1;
}
.target circle {
  fill: var(--path);
}
.tick {
  text-anchor: middle;
  font-size: 10.5px;
}
.title {
  text-anchor: middle;
  font-weight: 600;
  font-size: 12px;
  paint-order: stroke;
  stroke: var(--sky-dark);
  stroke-width: 3px;
}
.body path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.4;
  stroke-dasharray: 1 5;
  stroke-linecap: round;
}
.pole path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.8;
}
.pole line {
  stroke: var(--path);
  stroke-width: 0.8;
  stroke-dasharray: 2 3;
}
.pole text {
  font-weight: 600;
}
.pole.hidden path {
  stroke-dasharray: 3 2;
}
.ground {
  fill: var(--earth);
}
.compass {
  text-anchor: middle;
  opacity: 0.75;
}
.compass.main {
  font-size: 14px;
  font-weight: 700;
  opacity: 1;
}
.reader {
  stroke: var(--path);
  stroke-width: 1;
  opacity: 0.7;
}
</style>
