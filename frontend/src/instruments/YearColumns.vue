<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { scaleLinear } from 'd3-scale'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'
import SideSheet from '@/parts/SideSheet.vue'

/** A year of nights as columns: darkness behind, clear time before it, and what the Moon leaves of it in front. */
const props = defineProps<{ year: Schemas['YearCalendar']; stale: boolean }>()
const emit = defineEmits<{ pick: [night: string] }>()

const LEFT = 34
const GROUND = 24
const box = ref<HTMLElement | null>(null)
const { width, height } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 330))
const tall = computed(() => Math.max(height.value, 220))
const nights = computed(() => props.year.nights)
const most = computed(() => Math.max(4, Math.ceil(Math.max(...nights.value.map((one) => one.dark_minutes)) / 60)))
const across = computed(() => scaleLinear([0, nights.value.length], [LEFT, wide.value]))
const up = computed(() => scaleLinear([0, most.value * 60], [tall.value - GROUND, 6]))
const x = (place: number) => across.value(place)
const y = (minutes: number) => up.value(minutes)
function stairs(of: (one: Schemas['YearNight']) => number) {
  const steps = nights.value.map(
    (one, place) =>
      `L${x(place).toFixed(1)},${y(of(one)).toFixed(1)} L${x(place + 1).toFixed(1)},${y(of(one)).toFixed(1)}`,
  )
  return `M${x(0)},${y(0)} ${steps.join(' ')} L${x(nights.value.length)},${y(0)} Z`
}
const shapes = computed(() => ({
  dark: stairs((one) => one.dark_minutes),
  clear: stairs((one) => one.clear_minutes),
  usable: stairs((one) => one.usable_minutes),
}))
const rules = computed(() => Array.from({ length: Math.floor(most.value / 2) }, (_, place) => (place + 1) * 2))
const months = computed(() =>
  nights.value
    .map((one, place) => ({ one, place }))
    .filter(({ one, place }) => one.night.endsWith('-01') || place === 0)
    .filter(({ place }, index, all) => index > 0 || (all[1]?.place ?? 99) - place > 18)
    .map(({ one, place }) => ({
      at: x(place),
      label: dateWords(one.night, 'month'),
    })),
)
const marks = computed(() =>
  [
    ['best', props.year.best],
    ['before midnight from', props.year.first_before_midnight],
  ].flatMap(([label, night]) => {
    const place = nights.value.findIndex((one) => one.night === night)
    return place > 0 && label ? [{ label, at: x(place) }] : []
  }),
)

const chosen = ref<number | null>(null)
const read = computed(() => Math.min(chosen.value ?? 0, nights.value.length - 1))
const words = (minutes: number) =>
  minutes ? `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}` : 'none'
const reading = computed(() => nights.value[read.value])
const said = (night: string) => dateWords(night, 'whole')
const spoken = computed(() =>
  reading.value
    ? [
        `${said(reading.value.night)}: dark ${words(reading.value.dark_minutes)}`,
        `clear ${words(reading.value.clear_minutes)}`,
        `with the Moon ${words(reading.value.usable_minutes)}`,
      ].join(', ')
    : '',
)
function point(event: PointerEvent) {
  const left = box.value?.getBoundingClientRect().left ?? 0
  chosen.value = Math.max(
    0,
    Math.min(
      nights.value.length - 1,
      Math.floor(((event.clientX - left - LEFT) / (wide.value - LEFT)) * nights.value.length),
    ),
  )
}
function step(event: KeyboardEvent) {
  const sizes: Record<string, number> = {
    ArrowLeft: -1,
    ArrowRight: 1,
    PageDown: -30,
    PageUp: 30,
    Home: -400,
    End: 400,
  }
  const size = sizes[event.key]
  if (size !== undefined) {
    event.preventDefault()
    chosen.value = Math.max(0, Math.min(nights.value.length - 1, read.value + size))
  } else if (event.key === 'Enter' && reading.value) emit('pick', reading.value.night)
}
const table = ref(false)
const rows = computed(() => nights.value.filter((_, place) => place % 7 === 0))
</script>

<template>
  <figure class="year" :class="{ stale }">
    <figcaption v-if="reading">
      <b class="number">{{ said(reading.night) }}</b><span
        >dark <b class="number">{{ words(reading.dark_minutes) }}</b></span
      ><span
        >clear of everything <b class="number">{{ words(reading.clear_minutes) }}</b></span
      ><span
        >and the Moon bearable <b class="number">{{ words(reading.usable_minutes) }}</b></span
      >
      <Button size="small" type="text" class="table" @click="table = true">As a table</Button>
    </figcaption>
    <div
      ref="box"
      class="box"
      tabindex="0"
      role="slider"
      aria-label="Night of the year"
      :aria-valuemin="0"
      :aria-valuemax="nights.length - 1"
      :aria-valuenow="read"
      :aria-valuetext="spoken"
      @pointermove="point"
      @pointerdown="point"
      @click="reading && emit('pick', reading.night)"
      @keydown="step">
      <svg :width="wide" :height="tall" aria-hidden="true">
        <path class="dark" :d="shapes.dark" />
        <path class="clear" :d="shapes.clear" />
        <path class="usable" :d="shapes.usable" />
        <g v-for="hour in rules" :key="hour" class="rule">
          <line :x1="LEFT" :x2="wide" :y1="y(hour * 60)" :y2="y(hour * 60)" />
          <text x="2" :y="y(hour * 60) + 4">{{ hour }} h</text>
        </g>
        <g v-for="month in months" :key="month.label + month.at" class="month">
          <line :x1="month.at" :x2="month.at" :y1="y(0)" :y2="y(0) + 5" />
          <text :x="month.at + 3" :y="tall - 7">{{ month.label }}</text>
        </g>
        <g v-for="(mark, place) in marks" :key="mark.label" class="mark">
          <line :x1="mark.at" :x2="mark.at" y1="4" :y2="y(0)" />
          <text
            :x="mark.at + (mark.at > wide * 0.8 ? -5 : 5)"
            :y="14 + place * 14"
            :text-anchor="mark.at > wide * 0.8 ? 'end' : 'start'">
            {{ mark.label }}
          </text>
        </g>
        <line class="reader" :x1="x(read + 0.5)" :x2="x(read + 0.5)" y1="4" :y2="y(0)" />
      </svg>
    </div>
    <p class="key muted">
      <i class="k dark" /> dark <i class="k clear" /> clear of the horizon profile and haze, Moon aside
      <i class="k usable" /> and the Moon bearable. Press on a night to go to it.
    </p>
    <SideSheet :open="table" title="The year, every seventh night" :width="640" middle @close="table = false">
      <div class="scroll">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Night</th>
              <th scope="col">Dark</th>
              <th scope="col">Clear</th>
              <th scope="col">With the Moon</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in rows" :key="one.night">
              <td>{{ said(one.night) }}</td>
              <td class="number">{{ words(one.dark_minutes) }}</td>
              <td class="number">{{ words(one.clear_minutes) }}</td>
              <td class="number">{{ words(one.usable_minutes) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </SideSheet>
  </figure>
</template>

<style scoped>
.year {
  margin: 0;
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
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
}
.table {
  margin-left: auto;
}
.box {
  position: relative;
  flex: 1;
  min-height: 240px;
  overflow: hidden;
  cursor: crosshair;
}
svg {
  position: absolute;
  inset: 0;
}
text {
  font-size: 11.5px;
  fill: var(--muted);
}
path.dark {
  fill: var(--raised);
  stroke: var(--line);
}
path.clear {
  fill: var(--muted);
  opacity: 0.55;
}
path.usable {
  fill: var(--accent);
}
.rule line {
  stroke: var(--text);
  stroke-width: 0.5;
  opacity: 0.25;
}
.month line {
  stroke: var(--muted);
}
.mark line {
  stroke: var(--text);
  stroke-width: 1;
  stroke-dasharray: 3 3;
}
.mark text {
  fill: var(--text);
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--ground);
  stroke-width: 3px;
}
.reader {
  stroke: var(--text);
  stroke-width: 1;
}
.key {
  font-size: 12px;
}
.k {
  display: inline-block;
  width: 14px;
  height: 10px;
  margin: 0 3px 0 10px;
  border: 1px solid var(--line);
}
.k.dark {
  background: var(--raised);
}
.k.clear {
  background: var(--muted);
  opacity: 0.55;
}
.k.usable {
  background: var(--accent);
}
.scroll {
  max-height: 60vh;
  overflow: auto;
}
</style>
