<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, toRaw, watch, watchEffect } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { usePrinting } from '@/composables/usePrinting'

import ChartButtons from './ChartButtons.vue'
import ChartSky from './ChartSky.vue'
import ChartWay from './ChartWay.vue'
import {
  discRadius,
  ellipseEdge,
  frameEdge,
  LETTER_PX,
  moved,
  path,
  positionAngle,
  projector,
  raDec,
  toward,
  under,
  type Held,
  type Vector,
  type View,
} from './skychart'

/**
 * The sky around a frame. Stars as discs by magnitude on a canvas; figures, ground and Moon, and objects at their real extent and
 * angle, the frame and its panels drawn over it. The frame is moved by hand and by keys: arrows a tenth of itself, with Shift a whole
 * one; comma and full stop turn it by 1°, with Shift by 10°; plus and minus show less or more of the sky.
 */
const props = defineProps<{
  sky: Schemas['ChartOut'] | null
  held: Held
  widthDeg: number
  heightDeg: number
  fieldDeg: number
  middle: { ra: number; dec: number }
  up: 'north' | 'zenith' | 'camera'
  mirrored: boolean
  wanted: string[]
  panels: Schemas['PanelOut'][]
  lines?: Schemas['LinesOut'] | null
  over?: Schemas['AboveOut'] | null
  /** Stars of a way to the frame, in order. */
  way?: Schemas['WaypointOut'][]
  /** Where test pictures looked, the latest last. */
  tries?: Schemas['FrameOut'][]
}>()
const emit = defineEmits<{
  hold: [held: Held]
  look: [middle: { ra: number; dec: number }]
  zoom: [fieldDeg: number]
  want: [key: string]
  panel: [row: number, column: number]
}>()

const box = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width, height } = useElementSize(box)
/** Position angle of what is up on the drawing. */
const upAngle = computed(() => {
  if (props.up === 'camera') return props.held.angle
  return props.up === 'zenith' && props.over ? positionAngle(props.middle, props.over.zenith) : 0
})
const view = computed<View>(() => {
  const [wide, tall] = [Math.max(width.value, 200), Math.max(height.value, 200)]
  const field = (props.fieldDeg * Math.PI) / 180
  return {
    ...props.middle,
    angle: upAngle.value,
    scale: Math.min(wide, tall) / (4 * Math.tan(field / 4)),
    width: wide,
    height: tall,
    mirrored: props.mirrored,
  }
})
const project = computed(() => projector(view.value))
let grip: { by: 'frame' | 'sky'; from: Vector; held: Held } | null = null
/** The drawing follows the frame when that leaves its middle; the sky that is dragged stays where it was dragged to. */
watch(
  () => [props.held.ra, props.held.dec, props.fieldDeg],
  () => {
    const at = projector({ ...view.value, angle: 0 })(toward(props.held.ra, props.held.dec))
    const far = at ? Math.hypot(at.x - view.value.width / 2, at.y - view.value.height / 2) : Infinity
    if (far > Math.min(view.value.width, view.value.height) * 0.45 && !grip)
      emit('look', { ra: props.held.ra, dec: props.held.dec })
  },
)

/** Stars by their ink, so that each ink is one path. */
interface Lot {
  ink: string
  towards: Vector[]
  radius: number[]
}
const lots = shallowRef<Lot[]>([])
/** Warm for red stars, cool for blue ones, in the theme's own inks. */
const ink = (colour: number | null | undefined) =>
  colour == null
    ? 'var(--path)'
    : colour > 1.4
      ? 'var(--sky-sunset)'
      : colour < 0.3
        ? 'var(--star-cool)'
        : 'var(--path)'
const inks = new Map<string, string>()
function resolved(name: string): string {
  const key = `${document.documentElement.dataset.theme}${name}`
  if (!inks.has(key)) {
    const variable = name.slice(4, -1)
    inks.set(key, getComputedStyle(document.documentElement).getPropertyValue(variable).trim() || '#fff')
  }
  return inks.get(key) ?? '#fff'
}
watch(
  () => props.sky,
  (sky) => {
    const byInk = new Map<string, Lot>()
    const plain = toRaw(sky)
    plain?.ra_deg.forEach((ra, place) => {
      const name = ink(plain.colour[place])
      const lot = byInk.get(name) ?? { ink: name, towards: [], radius: [] }
      lot.towards.push(toward(ra, plain.dec_deg[place] ?? 0))
      lot.radius.push(discRadius(plain.magnitude[place] ?? plain.faintest, plain.faintest))
      byInk.set(name, lot)
    })
    lots.value = [...byInk.values()]
  },
  { immediate: true },
)
/** On paper all is black on white. */
const printing = usePrinting(draw)
const INK = '#000'
function draw() {
  const sheet = canvas.value
  const pen = sheet?.getContext('2d')
  if (!sheet || !pen) return
  const sharp = window.devicePixelRatio || 1
  const { width: wide, height: tall } = view.value
  const cast = project.value // once: what is asked for again in the loop below is tracked again
  sheet.width = wide * sharp
  sheet.height = tall * sharp
  pen.setTransform(sharp, 0, 0, sharp, 0, 0)
  for (const lot of lots.value) {
    pen.fillStyle = printing.value ? INK : resolved(lot.ink)
    pen.beginPath()
    lot.towards.forEach((one, place) => {
      const at = cast(one)
      if (!at || at.x < -8 || at.y < -8 || at.x > wide + 8 || at.y > tall + 8) return
      const radius = lot.radius[place] ?? 1
      if (radius < 0.9) pen.rect(at.x - radius, at.y - radius, 2 * radius, 2 * radius)
      else {
        pen.moveTo(at.x + radius, at.y)
        pen.arc(at.x, at.y, radius, 0, 2 * Math.PI)
      }
    })
    pen.fill()
  }
}
watchEffect(draw)

const drawn = (edge: ReturnType<typeof frameEdge>) => path(edge.map((one) => project.value(one)))
const frame = computed(() => drawn(frameEdge(props.held, props.widthDeg, props.heightDeg)))
/** The middle of the upper edge. */
const top = computed(
  () => frameEdge(props.held, props.widthDeg, props.heightDeg, 2).slice(1, 2).map(project.value)[0] ?? null,
)
/** Objects as directions, made once for each answer; plain things, which are quick to go through at each redraw. */
const bodies = computed(() =>
  toRaw(props.sky)?.objects.map((one) => ({
    ...one,
    middle: toward(one.ra_deg, one.dec_deg),
    edge: ellipseEdge(one.ra_deg, one.dec_deg, one.extent_deg, one.width_deg ?? one.extent_deg, one.angle_deg ?? 0),
  })),
)
const objects = computed(() => {
  const cast = project.value
  const { width: wide, height: tall } = view.value
  return (bodies.value ?? []).flatMap((one) => {
    const at = cast(one.middle)
    if (!at || at.x < 0 || at.y < 0 || at.x > wide || at.y > tall) return []
    return [{ key: one.key, name: one.name, at, d: path(one.edge.map(cast)), chosen: props.wanted.includes(one.key) }]
  })
})
/** Names where they have room, the largest first. */
const named = computed(() => {
  const taken: { x: number; y: number; w: number }[] = []
  return objects.value.filter(({ at, name, chosen }) => {
    const w = name.length * LETTER_PX
    const clear = taken.every((one) => Math.abs(one.y - at.y) > 15 || at.x > one.x + one.w || at.x + w < one.x)
    if (clear || chosen) taken.push({ x: at.x, y: at.y, w })
    return clear || chosen
  })
})
const cells = computed(() =>
  props.panels.map((one) => ({
    ...one,
    d: drawn(
      frameEdge(
        { ra: one.frame.ra_deg, dec: one.frame.dec_deg, angle: one.frame.angle_deg },
        one.frame.width_deg,
        one.frame.height_deg,
      ),
    ),
    at: project.value(toward(one.frame.ra_deg, one.frame.dec_deg)),
  })),
)
/** Where names stand already, for the words behind them. */
const taken = computed(() =>
  named.value.map(({ at, name }) => ({ x: at.x + 4, y: at.y - 4, w: name.length * LETTER_PX })),
)
const spoken = computed(
  () =>
    `Middle at right ascension ${number(props.held.ra / 15, 3)} h, declination ${number(props.held.dec, 2)}°, ` +
    `upper edge at ${number(props.held.angle, 1)}° from north through east`,
)

function place(event: PointerEvent) {
  const edge = box.value?.getBoundingClientRect()
  return { x: event.clientX - (edge?.left ?? 0), y: event.clientY - (edge?.top ?? 0) }
}
/** Two fingers: how far apart they were, and the field then. */
const fingers = new Map<number, { x: number; y: number }>()
let pinch: { apart: number; field: number } | null = null
const apart = () => {
  const [one, two] = [...fingers.values()]
  return one && two ? Math.hypot(one.x - two.x, one.y - two.y) : 0
}
/** On a touch screen the frame and the sky are moved only while this is on: else a finger would never get past the chart. */
const moving = ref(false)
function press(event: PointerEvent, by: 'frame' | 'sky') {
  if (event.pointerType === 'touch' && !moving.value) return // a finger scrolls the page
  if (event.button !== 0) return
  if (by === 'frame') event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const { x, y } = place(event)
  fingers.set(event.pointerId, { x, y })
  if (fingers.size === 2) {
    grip = null
    pinch = { apart: apart(), field: props.fieldDeg }
  } else grip = { by, from: under(view.value, x, y), held: props.held }
}
function drag(event: PointerEvent) {
  const { x, y } = place(event)
  if (fingers.has(event.pointerId)) fingers.set(event.pointerId, { x, y })
  if (pinch) {
    if (apart() > 0) emit('zoom', (pinch.field * pinch.apart) / apart())
    return
  }
  if (!grip) return
  const from = raDec(grip.from)
  const to = raDec(under(view.value, x, y))
  if (grip.by === 'frame') {
    const dec = Math.min(Math.max(grip.held.dec + to.dec - from.dec, -90), 90)
    emit('hold', { ...grip.held, ra: (grip.held.ra + to.ra - from.ra + 720) % 360, dec })
  } else {
    emit('look', {
      ra: (props.middle.ra + from.ra - to.ra + 720) % 360,
      dec: Math.min(Math.max(props.middle.dec + from.dec - to.dec, -89.9), 89.9),
    })
  }
}
function release(event: PointerEvent) {
  fingers.delete(event.pointerId)
  if (fingers.size < 2) pinch = null
  grip = null
}
function step(event: KeyboardEvent) {
  const turns: Record<string, number> = { ',': 1, '.': -1, '<': 10, '>': -10, ';': 10, ':': -10 }
  const moves: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, 1],
    ArrowDown: [0, -1],
  }
  const zooms: Record<string, number> = { '+': 1 / 1.3, '-': 1.3 }
  const turn = turns[event.key]
  const move = moves[event.key]
  const zoom = zooms[event.key]
  if (turn === undefined && move === undefined && zoom === undefined) return
  event.preventDefault()
  if (turn !== undefined) emit('hold', { ...props.held, angle: (props.held.angle + turn + 360) % 360 })
  else if (zoom !== undefined) emit('zoom', props.fieldDeg * zoom)
  else if (move) {
    const size = event.shiftKey ? 1 : 0.1
    const side = props.mirrored ? -1 : 1
    const [wide, tall] = [props.widthDeg, props.heightDeg].map((one) => Math.tan((one * size * Math.PI) / 180))
    emit('hold', moved(props.held, side * move[0] * (wide ?? 0), move[1] * (tall ?? 0)))
  }
}
function wheel(event: WheelEvent) {
  emit('zoom', props.fieldDeg * (event.deltaY > 0 ? 1.15 : 1 / 1.15))
}
</script>

<template>
  <div
    ref="box"
    class="skychart"
    :class="{ moving }"
    @pointerdown="press($event, 'sky')"
    @pointermove="drag"
    @pointerup="release"
    @pointercancel="release"
    @wheel.prevent="wheel">
    <canvas ref="canvas" :style="{ width: `${view.width}px`, height: `${view.height}px` }" aria-hidden="true" />
    <svg :width="view.width" :height="view.height" role="group" aria-label="The sky around the frame">
      <ChartSky :view="view" :field-deg="fieldDeg" :lines="lines ?? null" :over="over ?? null" :taken="taken" />
      <path v-for="one in objects" :key="one.key" class="object" :class="{ chosen: one.chosen }" :d="one.d" />
      <text
        v-for="one in named"
        :key="`n${one.key}`"
        class="name"
        :class="{ chosen: one.chosen }"
        :x="one.at.x + 4"
        :y="one.at.y - 4"
        @pointerdown.stop
        @click="emit('want', one.key)">
        {{ one.name }}
      </text>
      <g v-for="one in cells" :key="`${one.row} ${one.column}`" class="panel-cell" :class="{ dropped: one.dropped }">
        <path :d="one.d" />
        <text
          v-if="one.at && cells.length > 1"
          :x="one.at.x"
          :y="one.at.y"
          @pointerdown.stop
          @click="emit('panel', one.row, one.column)">
          {{ one.row + 1 }}·{{ one.column + 1 }}
        </text>
      </g>
      <ChartWay :view="view" :way="way ?? []" :tries="tries ?? []" />
      <g
        class="frame"
        tabindex="0"
        role="slider"
        aria-label="The frame"
        :aria-valuenow="Math.round(held.angle)"
        aria-valuemin="0"
        aria-valuemax="360"
        :aria-valuetext="spoken"
        @pointerdown="press($event, 'frame')"
        @keydown="step">
        <path :d="frame" />
        <circle v-if="top" :cx="top.x" :cy="top.y" r="4" />
      </g>
    </svg>
    <p v-if="!sky" class="waiting" role="status">Fetching the sky…</p>
    <ChartButtons
      v-model:moving="moving"
      @closer="emit('zoom', fieldDeg / 1.3)"
      @farther="emit('zoom', fieldDeg * 1.3)" />
  </div>
</template>

<style scoped>
.skychart {
  position: relative;
  height: 100%;
  min-height: 300px;
  overflow: hidden;
  background: var(--sky-dark);
  border-radius: 8px;
  cursor: grab;
  touch-action: pan-y pinch-zoom;
}
.skychart.moving {
  touch-action: none;
}
canvas,
svg {
  position: absolute;
  inset: 0;
}
@media print {
  .skychart {
    --path: #000;
    --accent: #000;
    --sky-dark: #fff;
  }
  .object,
  .name {
    opacity: 1 !important;
  }
}
.object {
  fill: none;
  stroke: var(--path);
  stroke-width: 0.8;
  opacity: 0.6;
}
.object.chosen {
  stroke-width: 2;
  opacity: 1;
}
.name {
  fill: var(--path);
  font-size: 11.5px;
  opacity: 0.85;
  cursor: pointer;
  paint-order: stroke;
  stroke: var(--sky-dark);
  stroke-width: 3px;
}
.name.chosen {
  font-weight: 700;
  opacity: 1;
}
.frame {
  cursor: move;
  outline: none;
}
.frame path {
  fill: rgb(255 255 255 / 4%);
  stroke: var(--accent);
  stroke-width: 2;
}
.frame:focus-visible path {
  stroke-width: 3.5;
}
.frame circle {
  fill: var(--accent);
}
.panel-cell path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1;
}
.panel-cell.dropped path {
  stroke-dasharray: 2 5;
  opacity: 0.5;
}
.panel-cell text {
  fill: var(--path);
  font-size: 12px;
  text-anchor: middle;
  cursor: pointer;
}
:root[data-theme='field'] .frame path {
  fill: none;
}
.waiting {
  position: absolute;
  inset: 12px auto auto 14px;
  color: var(--path);
}
.zoom {
  position: absolute;
  right: 8px;
  bottom: 8px;
  display: flex;
  gap: 4px;
}
</style>
