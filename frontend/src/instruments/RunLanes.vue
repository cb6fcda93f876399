<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'

import { clock, fullHours } from './strip'

/**
 * The runs of a night as blocks, one lane a rig, under the dusk strip and minute under minute. A block is framed in its grained part
 * and shot in the plain one; it is moved by mouse, touch and keys, and its edges likewise. Behind it, when its target can be taken.
 */
const props = defineProps<{ whole: Schemas['WholeNight']; rigs: string[]; selected: number | null }>()
const emit = defineEmits<{
  select: [place: number]
  move: [place: number, from: number, to: number]
  hold: [place: number]
  drop: [place: number]
  split: [place: number]
}>()

const LANE = 56
const EDGE_PX = 9
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 280))
const x = computed(() => scaleLinear([0, Math.max(props.whole.minutes, 1)], [0, wide.value]))
const start = computed(() => new Date(props.whole.start))
const hours = computed(() => fullHours(start.value, props.whole.time_zone, props.whole.minutes))
const minuteOf = (moment: string) => Math.round((new Date(moment).getTime() - start.value.getTime()) / 60_000)

type Part = 'all' | 'begin' | 'end'
const dragged = ref<{ place: number; part: Part; at: number; by: number; moved: boolean } | null>(null)
function shifted(place: number, part: Part, by: number) {
  const one = props.whole.runs[place]
  if (!one) return { from: 0, to: 0 }
  const [from, to] = [minuteOf(one.run.held_from), minuteOf(one.run.held_to)]
  const least = 2 * props.whole.slot
  if (part === 'begin') return { from: Math.min(from + by, to - least), to }
  if (part === 'end') return { from, to: Math.max(to + by, from + least) }
  return { from: from + by, to: to + by }
}
const drawn = computed(() =>
  props.rigs.map((rig, stand) => {
    const mine = props.whole.runs.map((one, place) => ({ ...one, place })).filter((one) => one.run.stand === stand)
    const picked = mine.find((one) => one.place === props.selected) ?? null
    return {
      rig,
      stand,
      windows: props.whole.windows
        .filter(
          (one) => one.stand === stand && (!picked || (one.wish === picked.run.wish && one.panel === picked.run.panel)),
        )
        .flatMap((one) => one.spans),
      blocks: mine.map((one) => {
        const by = dragged.value?.place === one.place ? dragged.value : null
        const moved = by ? shifted(one.place, by.part, by.by) : null
        const from = moved?.from ?? one.run.change
        const first = moved ? moved.from + (one.run.first - one.run.change) : one.run.first
        const to = moved?.to ?? one.run.last
        return { ...one, from: x.value(from), first: x.value(Math.min(first, to)), to: x.value(to) }
      }),
    }
  }),
)

const slots = (px: number) => Math.round(x.value.invert(px) / props.whole.slot) * props.whole.slot
function press(event: PointerEvent, place: number, from: number, to: number) {
  const target = event.currentTarget as SVGGElement
  const at = event.clientX - (target.ownerSVGElement?.getBoundingClientRect().left ?? 0)
  const part: Part = at - from < EDGE_PX ? 'begin' : to - at < EDGE_PX ? 'end' : 'all'
  target.setPointerCapture(event.pointerId)
  dragged.value = { place, part, at: event.clientX, by: 0, moved: false }
}
function pull(event: PointerEvent) {
  if (!dragged.value) return
  const by = slots(event.clientX - dragged.value.at)
  dragged.value = { ...dragged.value, by, moved: dragged.value.moved || by !== 0 }
}
function release() {
  const one = dragged.value
  dragged.value = null
  if (!one) return
  emit('select', one.place)
  if (one.by !== 0) {
    const { from, to } = shifted(one.place, one.part, one.by)
    emit('move', one.place, from, to)
  }
}
function key(event: KeyboardEvent, place: number) {
  const step = { ArrowLeft: -props.whole.slot, ArrowRight: props.whole.slot }[event.key]
  if (step) {
    const { from, to } = shifted(place, event.shiftKey ? 'end' : event.altKey ? 'begin' : 'all', step)
    emit('move', place, from, to)
  } else if (event.key === 'Enter' || event.key === ' ') emit('select', place)
  else if (event.key === 'f') emit('hold', place)
  else if (event.key === 's') emit('split', place)
  else if (event.key === 'Delete') emit('drop', place)
  else return
  event.preventDefault()
}
const LETTER_PX = 7.2
/** As much of some words as a block holds. */
function fitting(words: string, px: number) {
  const room = Math.floor((px - 12) / LETTER_PX)
  if (room < 4) return ''
  return words.length > room ? `${words.slice(0, room - 1)}…` : words
}
const frames = ({ run }: Schemas['PlannedRun']) => `${run.frames} × ${run.exposure_s} s${run.held ? ', fixed' : ''}`
const said = (one: Schemas['PlannedRun'], rig: string) =>
  `${rig}, ${one.name}: ${one.run.begins_clock} to ${one.run.ends_clock}, ${one.run.frames} frames${one.run.held ? ', fixed' : ''}`
</script>

<template>
  <div class="runs">
    <ol ref="box">
      <li v-for="lane in drawn" :key="lane.stand" :aria-label="lane.rig">
        <h3>{{ lane.rig }}</h3>
        <svg :width="wide" :height="LANE" role="group" :aria-label="`Runs of ${lane.rig}`">
          <defs>
            <pattern
              :id="`change-${lane.stand}`"
              width="5"
              height="5"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)">
              <line y2="5" />
            </pattern>
          </defs>
          <rect class="back" :width="wide" :height="LANE" rx="3" />
          <rect
            v-if="whole.dark"
            class="dark"
            :x="x(whole.dark.first)"
            :width="x(whole.dark.last) - x(whole.dark.first)"
            :height="LANE" />
          <rect
            v-for="(span, place) in lane.windows"
            :key="place"
            class="window"
            :x="x(span.first)"
            :width="Math.max(x(span.last) - x(span.first), 0)"
            :y="LANE - 5"
            height="5" />
          <line
            v-for="hour in hours"
            :key="hour.minute"
            class="hour"
            :x1="x(hour.minute)"
            :x2="x(hour.minute)"
            :y2="LANE" />
          <g
            v-for="one in lane.blocks"
            :key="one.place"
            class="block"
            :class="{ held: one.run.held, picked: one.place === selected, carried: dragged?.place === one.place }"
            role="button"
            tabindex="0"
            aria-keyshortcuts="ArrowLeft ArrowRight f s Delete"
            :aria-pressed="one.place === selected"
            :aria-label="said(one, lane.rig)"
            @pointerdown="press($event, one.place, one.from, one.to)"
            @pointermove="pull"
            @pointerup="release"
            @pointercancel="dragged = null"
            @keydown="key($event, one.place)">
            <rect
              class="frames"
              :x="one.from"
              y="6"
              :width="Math.max(one.to - one.from, 2)"
              :height="LANE - 14"
              rx="3" />
            <rect
              class="change"
              :x="one.from"
              y="6"
              :width="Math.max(one.first - one.from, 0)"
              :height="LANE - 14"
              :fill="`url(#change-${lane.stand})`" />
            <svg :x="one.first" y="6" :width="Math.max(one.to - one.first - 4, 0)" :height="LANE - 14">
              <text x="5" y="16" class="name">{{ fitting(one.name, one.to - one.first) }}</text>
              <text x="5" y="33">{{ fitting(frames(one), one.to - one.first) }}</text>
            </svg>
          </g>
          <rect
            v-if="whole.asleep"
            class="asleep"
            :x="x(whole.asleep.first)"
            :width="x(whole.asleep.last) - x(whole.asleep.first)"
            :height="LANE" />
        </svg>
      </li>
    </ol>
    <p class="hours number" aria-hidden="true">
      <span v-for="hour in hours" :key="hour.minute" :style="{ left: `${x(hour.minute)}px` }">{{ hour.label }}</span>
    </p>
    <p class="muted key">
      Grained: framing and focus. Dark behind: the hours of darkness. The bar below: when the chosen one can be taken.
      Drag a block or an edge<span class="for-keys"
        >, or use the arrows; with Shift the end, with Alt the beginning; f fixes, s splits, Delete drops</span
      >.
      <template v-if="whole.asleep">
        Shaded: you sleep, {{ clock(start, whole.time_zone, whole.asleep.first) }} to
        {{ clock(start, whole.time_zone, whole.asleep.last) }}.
      </template>
    </p>
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
h3 {
  font-size: 13px;
  font-weight: 600;
}
svg {
  display: block;
}
.back {
  fill: var(--panel);
}
.dark {
  fill: var(--sky-dark);
}
.window {
  fill: var(--muted);
  opacity: 0.55;
}
.hour {
  stroke: var(--line);
  stroke-width: 0.7;
}
.block {
  cursor: grab;
  touch-action: none;
}
.carried {
  cursor: grabbing;
}
.block:focus-visible {
  outline: none;
}
.frames {
  fill: color-mix(in oklab, var(--accent) 34%, var(--raised));
  stroke: var(--accent);
  stroke-width: 1;
}
.held .frames {
  stroke: var(--text);
  stroke-width: 2;
}
.picked .frames,
.block:focus-visible .frames {
  stroke: var(--text);
  stroke-dasharray: 4 2;
  stroke-width: 2;
}
pattern line {
  stroke: var(--text);
  stroke-width: 1.2;
  opacity: 0.6;
}
text {
  fill: var(--text);
  font-size: 12px;
  pointer-events: none;
}
.name {
  font-weight: 600;
}
.asleep {
  fill: var(--text);
  opacity: 0.1;
  pointer-events: none;
}
.hours {
  position: relative;
  height: 16px;
  font-size: 11.5px;
  color: var(--muted);
}
.hours span {
  position: absolute;
  transform: translateX(-50%);
}
.key {
  font-size: 12px;
}
@media (max-width: 820px) {
  .hours span:nth-child(odd) {
    display: none;
  }
}
</style>
