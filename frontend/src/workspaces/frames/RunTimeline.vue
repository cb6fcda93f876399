<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, onMounted, ref, watch } from 'vue'

import { number } from '@/composables/figures'
import { wordOf, type JudgedRun } from '@/composables/useFrames'
import { useTheme } from '@/theme/useTheme'

import { lanesOf, type LaneKey } from './lanes'

/** A run over time, a lane a figure. Dots are drawn on a canvas, thousands at once; what can be touched lies above it. */
const props = defineProps<{
  run: JudgedRun
  selected: number
  marked: readonly number[]
  line: { key: LaneKey; at: number } | null
}>()
const emit = defineEmits<{ select: [place: number]; brush: [places: number[]]; line: [at: number] }>()

const EDGE = { left: 128, right: 14, top: 8, bottom: 26 }
const GAP = 6
const box = ref<HTMLElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const { width, height } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 260))
const tall = computed(() => Math.max(height.value, 240))
const laneTall = computed(() => (tall.value - EDGE.top - EDGE.bottom - 4 * GAP) / 5)
const lanes = computed(() => lanesOf(props.run, EDGE.top, laneTall.value, GAP))
const minutes = computed(() => props.run.columns.minutes)
const along = computed(() =>
  scaleLinear(
    [minutes.value[0] ?? 0, Math.max(minutes.value.at(-1) ?? 1, (minutes.value[0] ?? 0) + 1)],
    [EDGE.left + 8, wide.value - EDGE.right - 8],
  ),
)
const ticks = computed(() => along.value.ticks(Math.max(Math.floor(wide.value / 110), 2)))
const marked = computed(() => new Set(props.marked))
const { theme } = useTheme()

function dot(paint: CanvasRenderingContext2D, x: number, y: number, word: string, size: number) {
  paint.beginPath()
  if (word === 'cull') {
    paint.moveTo(x - size, y - size)
    paint.lineTo(x + size, y + size)
    paint.moveTo(x - size, y + size)
    paint.lineTo(x + size, y - size)
    paint.stroke()
  } else if (word === 'less') {
    paint.moveTo(x, y - size - 1)
    paint.lineTo(x + size + 1, y + size)
    paint.lineTo(x - size - 1, y + size)
    paint.closePath()
    paint.stroke()
  } else {
    paint.arc(x, y, size, 0, 2 * Math.PI)
    paint.fill()
  }
}

function draw() {
  const paint = canvas.value?.getContext('2d')
  if (!paint || !canvas.value) return
  const sharp = window.devicePixelRatio || 1
  canvas.value.width = wide.value * sharp
  canvas.value.height = tall.value * sharp
  paint.setTransform(sharp, 0, 0, sharp, 0, 0)
  const style = getComputedStyle(canvas.value)
  const inks = { keep: '--go', less: '--care', cull: '--stop' } as const
  const size = props.run.frames.length > 400 ? 1.6 : 2.6
  for (const lane of lanes.value) {
    lane.values.forEach((values, which) => {
      values.forEach((value, place) => {
        const frame = props.run.frames[place]
        if (value === null || !frame) return
        const [x, y] = [along.value(minutes.value[place] ?? 0), lane.scale(value)]
        const word = wordOf(frame)
        const faint = marked.value.size > 0 && !marked.value.has(place)
        paint.globalAlpha = faint ? 0.25 : 1
        paint.strokeStyle = paint.fillStyle = style.getPropertyValue(inks[word])
        if (lane.key === 'drift') {
          paint.strokeStyle = paint.fillStyle = style.getPropertyValue(which ? '--star-cool' : '--accent')
          if (which) paint.strokeRect(x - size, y - size, 2 * size, 2 * size)
          else dot(paint, x, y, 'keep', size)
        } else dot(paint, x, y, word, size)
      })
    })
  }
}
onMounted(draw)
watch([() => props.run, lanes, along, marked, theme], draw, { flush: 'post' })

/** The frame nearest to a place on the screen. */
function placeAt(x: number) {
  const at = along.value.invert(x)
  let best = 0
  minutes.value.forEach((one, place) => {
    if (Math.abs(one - at) < Math.abs((minutes.value[best] ?? 0) - at)) best = place
  })
  return best
}
const begun = ref<number | null>(null)
const now = ref(0)
const inside = (event: PointerEvent) => event.clientX - (box.value?.getBoundingClientRect().left ?? 0)
const upright = (event: PointerEvent) => event.clientY - (box.value?.getBoundingClientRect().top ?? 0)
const pulling = ref(false)
const lined = computed(() => {
  const lane = props.line ? lanes.value.find((one) => one.key === props.line?.key) : null
  return lane && props.line ? { lane, y: lane.scale(props.line.at) } : null
})

function press(event: PointerEvent) {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  if (lined.value && Math.abs(upright(event) - lined.value.y) < 12) pulling.value = true
  else begun.value = now.value = inside(event)
}
function pull(event: PointerEvent) {
  if (pulling.value && lined.value) emit('line', Number(lined.value.lane.scale.invert(upright(event)).toFixed(2)))
  else if (begun.value !== null) now.value = inside(event)
}
function letGo(event: PointerEvent) {
  if (begun.value !== null) {
    const [first, last] = [begun.value, inside(event)].sort((a, b) => a - b) as [number, number]
    if (last - first < 5) emit('select', placeAt(last))
    else
      emit(
        'brush',
        minutes.value.flatMap((one, place) => (along.value(one) >= first && along.value(one) <= last ? [place] : [])),
      )
  }
  begun.value = null
  pulling.value = false
}
const brushed = computed(() =>
  begun.value === null ? null : { x: Math.min(begun.value, now.value), width: Math.abs(now.value - begun.value) },
)
const ends = (lane: (typeof lanes.value)[number]) => lane.scale.domain() as [number, number]
</script>

<template>
  <div ref="box" class="timeline">
    <canvas ref="canvas" :style="{ width: `${wide}px`, height: `${tall}px` }" aria-hidden="true" />
    <svg
      :viewBox="`0 0 ${wide} ${tall}`"
      :width="wide"
      :height="tall"
      role="img"
      :aria-label="`${run.frames.length} frames, ${number(minutes.at(-1) ?? 0, 0)} min. The table has every figure.`"
      @pointerdown="press"
      @pointermove="pull"
      @pointerup="letGo">
      <g v-for="lane in lanes" :key="lane.key">
        <rect
          :x="EDGE.left"
          :y="lane.scale.range()[1]"
          :width="wide - EDGE.left - EDGE.right"
          :height="laneTall"
          class="ground" />
        <text :x="4" :y="(lane.scale.range()[1] ?? 0) + 13" class="name">{{ lane.label }}</text>
        <text v-if="lane.key === 'drift'" :x="4" :y="(lane.scale.range()[1] ?? 0) + 27" class="small">
          ● east □ north
        </text>
        <text :x="EDGE.left - 5" :y="(lane.scale.range()[1] ?? 0) + 10" class="end">
          {{ number(ends(lane)[1], lane.key === 'clear' || lane.key === 'drift' ? 0 : 1) }}{{ lane.unit }}
        </text>
        <text :x="EDGE.left - 5" :y="(lane.scale.range()[0] ?? 0) - 1" class="end">
          {{ number(ends(lane)[0], lane.key === 'clear' || lane.key === 'drift' ? 0 : 1) }}
        </text>
        <line
          v-if="lane.limit !== null"
          :x1="EDGE.left"
          :x2="wide - EDGE.right"
          :y1="lane.scale(lane.limit)"
          :y2="lane.scale(lane.limit)"
          class="limit" />
      </g>
      <g v-for="tick in ticks" :key="tick">
        <line :x1="along(tick)" :x2="along(tick)" :y1="tall - EDGE.bottom" :y2="tall - EDGE.bottom + 4" class="tick" />
        <text :x="along(tick)" :y="tall - 8" class="at">{{ number(tick, 0) }}</text>
      </g>
      <text :x="4" :y="tall - 8" class="small">minutes</text>
      <line
        :x1="along(minutes[selected] ?? 0)"
        :x2="along(minutes[selected] ?? 0)"
        :y1="EDGE.top"
        :y2="tall - EDGE.bottom"
        class="here" />
      <rect
        v-if="brushed"
        :x="brushed.x"
        :y="EDGE.top"
        :width="brushed.width"
        :height="tall - EDGE.top - EDGE.bottom"
        class="brush" />
      <g v-if="lined" class="drawn">
        <line :x1="EDGE.left" :x2="wide - EDGE.right" :y1="lined.y" :y2="lined.y" />
        <rect :x="wide - EDGE.right - 34" :y="lined.y - 9" width="34" height="18" rx="4" />
        <path :d="`M${wide - EDGE.right - 24} ${lined.y - 2}h14M${wide - EDGE.right - 24} ${lined.y + 2}h14`" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.timeline {
  position: relative;
  min-height: 280px;
  height: 100%;
  overflow: hidden;
}
canvas,
svg {
  position: absolute;
  inset: 0;
}
svg {
  touch-action: pan-y;
  cursor: crosshair;
}
.ground {
  fill: none;
  stroke: var(--line);
}
text {
  fill: var(--muted);
  font-size: 12px;
}
.name {
  fill: var(--text);
  font-weight: 600;
}
.small {
  font-size: 11px;
}
.end {
  text-anchor: end;
  font-size: 11px;
}
.at {
  text-anchor: middle;
}
.tick {
  stroke: var(--muted);
}
.limit {
  stroke: var(--stop);
  stroke-dasharray: 5 4;
}
.here {
  stroke: var(--accent);
  stroke-width: 1.5;
}
.brush {
  fill: var(--accent);
  opacity: 0.18;
}
.drawn line {
  stroke: var(--accent);
  stroke-width: 2;
}
.drawn rect {
  fill: var(--accent);
  cursor: ns-resize;
}
.drawn path {
  stroke: var(--accent-text);
}
</style>
