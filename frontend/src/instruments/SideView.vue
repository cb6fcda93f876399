<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref } from 'vue'

import type { Drawing, Piece } from '@/composables/useBench'

import { armAt, boxOf, LABELS, pointAt, radiusOf, spread, viewOf } from './rigview'

/**
 * The rig on its axis. Areas are masses; arrows, all along the axis, are moments, so that both sides push alike when it
 * balances. A part is dragged along the arm, or moved with the arrow keys.
 */
const props = defineProps<{ drawing: Drawing; selected: string | null; stale: boolean }>()
const emit = defineEmits<{ move: [name: string, arm: number]; done: [name: string]; select: [name: string] }>()

const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
const view = computed(() => viewOf(props.drawing, Math.max(width.value, 330), Math.max(height.value, 260)))
const heaviest = computed(() => Math.max(...props.drawing.pieces.map((one) => one.mass_g), 1))
const strongest = computed(() => Math.max(...props.drawing.pieces.map((one) => Math.abs(one.moment_g_mm)), 1))
const ARROW = 60

const rods = computed(() =>
  props.drawing.pieces
    .filter((one) => one.length_mm > 0)
    .map((one) => ({
      ...one,
      from: pointAt(view.value, one.arm_mm + one.length_mm / 2, one.along_mm),
      to: pointAt(view.value, one.arm_mm - one.length_mm / 2, one.along_mm),
    })),
)
const pieces = computed(() => {
  const { a } = view.value
  const found = props.drawing.pieces.map((one) => {
    const at = pointAt(view.value, one.arm_mm, one.along_mm)
    const r = radiusOf(one.mass_g, heaviest.value)
    const box = boxOf(one.kind, r)
    const push = (Math.abs(one.moment_g_mm) / strongest.value) * ARROW
    const from = { x: at.x - (a.x * box.long) / 2, y: at.y - (a.y * box.long) / 2 }
    return { ...one, ...at, r, box, push, from, to: { x: from.x - a.x * push, y: from.y - a.y * push } }
  })
  const rows = spread(
    found.map((one) => one.y),
    17,
    18,
    view.value.height - 30,
  )
  // Large ones first, so that small ones stay within reach on top of them.
  return found
    .map((one, index) => ({ ...one, label: rows[index] ?? one.y }))
    .sort((first, second) => second.mass_g - first.mass_g)
})
const arm = computed(() => {
  const arms = [0, ...props.drawing.pieces.filter((one) => one.length_mm === 0).map((one) => one.arm_mm)]
  return { from: pointAt(view.value, Math.max(...arms)), to: pointAt(view.value, Math.min(...arms)) }
})
const axis = computed(() => ({
  from: pointAt(view.value, 0, -95 / view.value.scale),
  to: pointAt(view.value, 0, 130 / view.value.scale),
}))
const centre = computed(() => pointAt(view.value, props.drawing.centre_mm))
const solved = computed(() => {
  const { solved_mm, weight, fits } = props.drawing
  const moving = props.drawing.pieces.find((one) => one.name === weight)
  if (solved_mm === null || !moving || !fits) return null
  const box = boxOf(moving.kind, radiusOf(moving.mass_g, heaviest.value))
  return { ...pointAt(view.value, solved_mm, moving.along_mm), box, there: Math.abs(solved_mm - moving.arm_mm) < 0.6 }
})
/** Where the word for it has no room beside, it stands below. */
const roomRight = computed(() => !!solved.value && solved.value.x + solved.value.box.long / 2 + 150 < view.value.width)
const legs = computed(() => {
  const { pivot, height } = view.value
  return [-46, 0, 46].map((aside) => `M${pivot.x} ${pivot.y + 8}L${pivot.x + aside} ${height - 12}`).join('')
})
const tilt = computed(() => -Math.abs(props.drawing.latitude_deg))
const pole = computed(() => (props.drawing.latitude_deg < 0 ? 'south' : 'north'))

/** A weight stops at the ends of its shaft. */
function held(piece: Piece, arm: number) {
  const { far_mm, near_mm, weight } = props.drawing
  const free = Math.round(arm)
  return piece.name === weight && far_mm !== null && near_mm !== null
    ? Math.min(Math.max(free, Math.ceil(far_mm)), Math.floor(near_mm))
    : free
}
const dragged = ref<{ name: string; grip: number } | null>(null)
function armUnder(event: PointerEvent) {
  const frame = box.value?.getBoundingClientRect()
  return armAt(view.value, { x: event.clientX - (frame?.left ?? 0), y: event.clientY - (frame?.top ?? 0) })
}
function take(event: PointerEvent, piece: Piece) {
  emit('select', piece.name)
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  dragged.value = { name: piece.name, grip: piece.arm_mm - armUnder(event) }
}
function pull(event: PointerEvent, piece: Piece) {
  if (dragged.value?.name === piece.name) emit('move', piece.name, held(piece, armUnder(event) + dragged.value.grip))
}
function drop(piece: Piece) {
  if (dragged.value) emit('done', piece.name)
  dragged.value = null
}
function step(event: KeyboardEvent, piece: Piece) {
  const sizes: Record<string, number> = {
    ArrowUp: 1,
    ArrowRight: 1,
    ArrowDown: -1,
    ArrowLeft: -1,
    PageUp: 10,
    PageDown: -10,
  }
  const size = sizes[event.key]
  if (size === undefined) return
  event.preventDefault()
  emit('move', piece.name, held(piece, piece.arm_mm + size * (event.shiftKey ? 10 : 1)))
  emit('done', piece.name)
}
const side = (piece: Piece) =>
  piece.arm_mm === 0 ? 'on the axis' : `${piece.arm} out on the ${piece.arm_mm > 0 ? 'camera' : 'weight'} side`
</script>

<template>
  <figure class="side" :class="{ stale }">
    <div ref="box" class="box">
      <svg
        :width="view.width"
        :height="view.height"
        :viewBox="`0 0 ${view.width} ${view.height}`"
        role="group"
        :aria-label="`The rig from the side, axis tipped ${Math.abs(drawing.latitude_deg).toFixed(1)}°`">
        <defs>
          <marker id="push" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="4.500" markerHeight="4.500" orient="auto">
            <path d="M0 0L8 4L0 8z" />
          </marker>
        </defs>
        <line class="ground" :x1="LABELS" :x2="view.width" :y1="view.height - 12" :y2="view.height - 12" />
        <path class="legs" :d="legs" />
        <line v-if="drawing.tracker" class="axis" :x1="axis.from.x" :y1="axis.from.y" :x2="axis.to.x" :y2="axis.to.y" />
        <text
          v-if="drawing.tracker"
          class="pole"
          :x="Math.min(axis.to.x, view.width - 110)"
          :y="view.width < 420 ? axis.to.y + 34 : Math.max(axis.to.y - 8, 14)">
          {{ pole }} pole, {{ Math.abs(drawing.latitude_deg).toFixed(1) }}°
        </text>
        <line class="arm" :x1="arm.from.x" :y1="arm.from.y" :x2="arm.to.x" :y2="arm.to.y" />
        <line
          v-for="rod in rods"
          :key="rod.name"
          class="rod"
          :x1="rod.from.x"
          :y1="rod.from.y"
          :x2="rod.to.x"
          :y2="rod.to.y" />
        <path
          v-for="piece in pieces"
          :key="`d${piece.name}`"
          class="lead"
          :class="{ chosen: piece.name === selected }"
          :d="`M${LABELS - 14} ${piece.label - 4}H${LABELS}L${piece.x} ${piece.y}`" />
        <rect
          v-if="drawing.tracker"
          class="tracker"
          :x="view.pivot.x - 13"
          :y="view.pivot.y - 13"
          width="26"
          height="26"
          rx="5" />
        <g
          v-for="piece in pieces"
          :key="piece.name"
          class="piece"
          :class="{ weight: piece.arm_mm < 0, chosen: piece.name === selected }"
          tabindex="0"
          role="slider"
          :aria-label="piece.name"
          :aria-valuenow="Math.round(piece.arm_mm)"
          aria-valuemin="-1500"
          aria-valuemax="1500"
          :aria-valuetext="`${side(piece)}, ${piece.mass}, moment ${piece.moment}`"
          @pointerdown="take($event, piece)"
          @pointermove="pull($event, piece)"
          @pointerup="drop(piece)"
          @pointercancel="drop(piece)"
          @keydown="step($event, piece)"
          @focus="emit('select', piece.name)">
          <circle class="grip" :cx="piece.x" :cy="piece.y" :r="Math.max(piece.r, 11)" />
          <circle v-if="piece.length_mm" class="middle" :cx="piece.x" :cy="piece.y" r="3.500" />
          <rect
            v-if="!piece.length_mm"
            class="body"
            :x="-piece.box.long / 2"
            :y="-piece.box.broad / 2"
            :width="piece.box.long"
            :height="piece.box.broad"
            :rx="piece.box.corner"
            :transform="`translate(${piece.x} ${piece.y}) rotate(${tilt})`" />
        </g>
        <g aria-hidden="true" class="over">
          <line
            v-for="piece in pieces.filter((one) => drawing.tracker && one.push > 6)"
            :key="piece.name"
            class="push"
            marker-end="url(#push)"
            :x1="piece.from.x"
            :y1="piece.from.y"
            :x2="piece.to.x"
            :y2="piece.to.y" />
          <g v-for="piece in pieces" :key="`l${piece.name}`" :class="{ chosen: piece.name === selected }">
            <text class="name" :x="LABELS - 18" :y="piece.label">
              {{ piece.name.length > 25 ? `${piece.name.slice(0, 24)}…` : piece.name }}
            </text>
          </g>
          <rect
            v-if="solved && !solved.there"
            class="solved"
            :x="-solved.box.long / 2 - 4"
            :y="-solved.box.broad / 2 - 4"
            :width="solved.box.long + 8"
            :height="solved.box.broad + 8"
            rx="6"
            :transform="`translate(${solved.x} ${solved.y}) rotate(${tilt})`" />
          <text
            v-if="solved && !solved.there"
            class="belongs"
            :x="roomRight ? solved.x + solved.box.long / 2 + 10 : view.width - 6"
            :y="roomRight ? solved.y + 4 : Math.min(solved.y + solved.box.long / 2 + 22, view.height - 18)"
            :text-anchor="roomRight ? 'start' : 'end'">
            belongs here, {{ drawing.solved }}
          </text>
          <path
            v-if="drawing.tracker"
            class="centre"
            :d="`M${centre.x - 7} ${centre.y}L${centre.x} ${centre.y - 7}L${centre.x + 7} ${centre.y}L${centre.x} ${centre.y + 7}Z`" />
        </g>
        <g v-if="drawing.tracker" class="key" aria-hidden="true">
          <path class="centre" :d="`M8 ${view.height - 17}l5 -5l5 5l-5 5z`" />
          <text x="24" :y="view.height - 13">centre of mass</text>
          <line class="push" marker-end="url(#push)" x1="22" x2="8" :y1="view.height - 33" :y2="view.height - 33" />
          <text x="28" :y="view.height - 29">moment; areas are masses</text>
          <text x="8" y="18">
            Drag a part
            <tspan class="for-keys">, or use the arrow keys</tspan>
          </text>
        </g>
      </svg>
    </div>
    <figcaption>
      {{
        drawing.pieces.length && !drawing.tracker
          ? 'No tracker: nothing turns, so nothing has to balance.'
          : drawing.pieces.length
            ? `${drawing.torque} to the ${drawing.heavy_side}; centre of mass ${drawing.centre} off the axis.`
            : 'Add parts, and they appear here.'
      }}<template v-if="drawing.lifting"> {{ drawing.lifting }}</template>
    </figcaption>
  </figure>
</template>

<style scoped>
.side {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.side.stale .box {
  opacity: 0.7;
}
.box {
  flex: 1;
  min-height: 260px;
  position: relative;
  overflow: hidden;
}
svg {
  position: absolute;
  inset: 0;
  touch-action: pan-y pinch-zoom;
}
.ground {
  stroke: var(--line);
  stroke-width: 2;
}
.legs {
  fill: none;
  stroke: var(--line);
  stroke-width: 3;
}
.axis {
  stroke: var(--muted);
  stroke-dasharray: 7 5;
}
.pole,
.key text {
  font-size: 11.5px;
  fill: var(--muted);
}
.arm {
  stroke: var(--line);
  stroke-width: 7;
  stroke-linecap: round;
}
.rod {
  stroke: var(--muted);
  stroke-width: 4;
  stroke-linecap: round;
}
.tracker {
  fill: var(--panel);
  stroke: var(--muted);
  stroke-width: 1.5;
}
.piece {
  cursor: grab;
  outline: none;
}
.grip {
  fill: transparent;
}
.body {
  fill: var(--raised);
  stroke: var(--text);
  stroke-width: 1.5;
}
.middle {
  fill: var(--text);
}
.weight .body {
  fill: var(--line);
}
.piece:hover .body,
.chosen .body {
  stroke: var(--accent);
  stroke-width: 2.5;
}
.piece:focus-visible .grip {
  stroke: var(--accent);
  stroke-width: 2;
  stroke-dasharray: 4 3;
}
.over {
  pointer-events: none;
}
.push {
  stroke: var(--accent);
  stroke-width: 2;
}
marker path {
  fill: var(--accent);
}
.lead {
  fill: none;
  stroke: var(--line);
  stroke-width: 1;
}
.name {
  font-size: 11.5px;
  fill: var(--muted);
  text-anchor: end;
}
.chosen .name {
  fill: var(--text);
  font-weight: 600;
}
.lead.chosen {
  stroke: var(--accent);
}
.solved {
  fill: none;
  stroke: var(--go);
  stroke-width: 2;
  stroke-dasharray: 5 4;
}
.belongs {
  font-size: 11.5px;
  fill: var(--go);
}
.centre {
  fill: var(--go);
  stroke: var(--panel);
}
figcaption {
  font-size: 12.5px;
  color: var(--muted);
  padding: 2px 4px 0;
}
</style>
