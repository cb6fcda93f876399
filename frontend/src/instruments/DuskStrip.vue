<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { scaleLinear } from 'd3-scale'
import { area, line } from 'd3-shape'
import { computed, ref } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'

import { clock, fullHours, labelRows, skyColour, STATE_WORDS, stretches } from './strip'
import SideSheet from '@/parts/SideSheet.vue'

/**
 * The night from sunset to sunrise as one band.
 *
 *   labels   flags of what happens
 *   band     colour: sky at the target; line: the target's altitude; dark shape below: what stands in its way
 *   bar      when it is usable, and the planned exposures
 *   hours    local clock
 */
const props = defineProps<{
  strip: Schemas['Strip']
  cues: Schemas['Cue'][]
  now: string
  programme: string
  stale: boolean
  slim?: boolean
}>()

/** Slim, it is a reminder at the head of another workspace: the band, what is usable, and the hours. */
const LABELS = props.slim ? 0 : 46
const BAND = props.slim ? 26 : 96
const BAR = props.slim ? 7 : 16
const HEIGHT = LABELS + BAND + BAR + (props.slim ? 14 : 18)

const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const minutes = computed(() => props.strip.state.length)
const start = computed(() => new Date(props.strip.start))
const wide = computed(() => Math.max(width.value, 300))
const x = computed(() => scaleLinear([0, Math.max(minutes.value - 1, 1)], [0, wide.value]))
const y = scaleLinear([0, 90], [LABELS + BAND, LABELS]).clamp(true)

const shades = computed(() =>
  props.strip.sky_mag
    .map((mag, minute) => ({ mag, minute }))
    .filter(({ minute }) => minute % 3 === 0 || minute === minutes.value - 1),
)
const profile = computed(
  () =>
    area<number>()
      .x((_, minute) => x.value(minute))
      .y0(LABELS + BAND)
      .y1((altitude) => y(altitude))(props.strip.obstruction) ?? '',
)
const path = computed(
  () =>
    line<number>()
      .defined((altitude) => altitude > 0)
      .x((_, minute) => x.value(minute))
      .y((altitude) => y(altitude))(props.strip.target_altitude) ?? '',
)
const moonPath = computed(
  () =>
    line<number>()
      .defined((altitude) => altitude > 0)
      .x((_, minute) => x.value(minute))
      .y((altitude) => y(altitude))(props.strip.moon_altitude) ?? '',
)
const usable = computed(() => stretches(props.strip.state).filter(({ state }) => state === 'usable'))
/** As many hours as have room beside one another. */
const every = computed(() => Math.max(1, Math.ceil(42 / Math.max(x.value(60) - x.value(0), 1))))
const hours = computed(() =>
  fullHours(start.value, props.strip.time_zone, minutes.value).filter(
    ({ minute }, place) => place % every.value === 0 && x.value(minute) > 20 && x.value(minute) < wide.value - 20,
  ),
)
const roomForProgramme = computed(
  () =>
    props.strip.exposures &&
    x.value(props.strip.exposures.last) - x.value(props.strip.exposures.first) > props.programme.length * 7 + 12,
)
const moonTop = computed(() => props.strip.moon_altitude.indexOf(Math.max(...props.strip.moon_altitude)))
const minuteOf = (moment: string) => (new Date(moment).getTime() - start.value.getTime()) / 60_000

const flags = computed(() => {
  const placed = props.cues.map((cue) => {
    const at = x.value(minuteOf(cue.moment))
    const text = `${cue.clock} ${cue.name}`
    const room = text.length * 6.4
    return { ...cue, text, at, x: Math.min(at, wide.value - room - 2), width: room }
  })
  const rows = labelRows(placed, 3)
  return placed.map((flag, index) => ({ ...flag, row: rows[index] ?? -1 }))
})
/** Cloud hangs from the upper edge, the deeper the more of the sky it covers; dew lies along the lower one. */
const CLOUD = 0.4
const cloud = computed(() => {
  const { weather } = props.strip
  return weather
    ? (area<number>()
        .x((_, minute) => x.value(minute))
        .y0(LABELS)
        .y1((percent) => LABELS + (percent / 100) * BAND * CLOUD)(weather.cloud_percent) ?? '')
    : ''
})
const dewy = computed(() =>
  stretches((props.strip.weather?.glass_above_dew_c ?? []).map((margin) => (margin <= 0 ? 'dew' : 'dry'))).filter(
    ({ state }) => state === 'dew',
  ),
)
const nowMinute = computed(() => {
  const minute = minuteOf(props.now)
  return minute >= 0 && minute < minutes.value ? minute : null
})

/** The minute being read; the middle of the night until someone points. */
const chosen = ref<number | null>(null)
const read = computed(() => Math.min(chosen.value ?? Math.floor(minutes.value / 2), minutes.value - 1))
const reading = computed(() => sentence(read.value))

function sentence(minute: number) {
  const { strip } = props
  const at = (list: number[]) => list[minute] ?? 0
  const target = at(strip.target_altitude)
  return {
    time: clock(start.value, strip.time_zone, minute),
    state: STATE_WORDS[strip.state[minute] ?? ''] ?? '',
    target: target > 0 ? `${number(target, 0)}° up` : 'below the horizon',
    profile: `${number(at(strip.obstruction), 0)}°`,
    sky: `${number(at(strip.sky_mag), 2)} mag/arcsec²`,
    moon: at(strip.moon_altitude) > 0 ? `${number(at(strip.moon_altitude), 0)}° up` : 'down',
    weather: strip.weather
      ? [
          `cloud ${at(strip.weather.cloud_percent)} %`,
          `${number(at(strip.weather.temperature_c), 0)} °C`,
          `wind ${number(at(strip.weather.wind_m_s), 0)} m/s`,
          ...(at(strip.weather.glass_above_dew_c) <= 0 ? ['dew'] : []),
        ].join(', ')
      : '',
  }
}
const spoken = computed(() =>
  [
    reading.value.time,
    reading.value.state,
    `target ${reading.value.target}`,
    `sky ${reading.value.sky}`,
    `Moon ${reading.value.moon}`,
    ...(reading.value.weather ? [reading.value.weather] : []),
  ].join(', '),
)

function point(event: PointerEvent) {
  const left = box.value?.getBoundingClientRect().left ?? 0
  chosen.value = Math.max(
    0,
    Math.min(minutes.value - 1, Math.round(((event.clientX - left) / wide.value) * (minutes.value - 1))),
  )
}
function step(event: KeyboardEvent) {
  const sizes: Record<string, number> = {
    ArrowLeft: -1,
    ArrowRight: 1,
    PageDown: -60,
    PageUp: 60,
    Home: -minutes.value,
    End: minutes.value,
  }
  const size = sizes[event.key]
  if (size === undefined) return
  event.preventDefault()
  chosen.value = Math.max(0, Math.min(minutes.value - 1, read.value + size * (event.shiftKey ? 15 : 1)))
}

const table = ref(false)
const rows = computed(() => Array.from({ length: Math.ceil(minutes.value / 30) }, (_, index) => sentence(index * 30)))
</script>

<template>
  <figure class="strip" :class="{ stale }">
    <figcaption v-if="!slim">
      <span class="number time">{{ reading.time }}</span>
      <b>{{ reading.state }}</b>
      <span>target {{ reading.target }}</span>
      <span>horizon {{ reading.profile }}</span>
      <span>sky {{ reading.sky }}</span>
      <span>Moon {{ reading.moon }}</span>
      <span v-if="reading.weather">{{ reading.weather }}</span>
      <Button size="small" type="text" class="table" @click="table = true">As a table</Button>
    </figcaption>
    <div
      ref="box"
      class="box"
      tabindex="0"
      role="slider"
      aria-label="Minute of the night"
      :aria-valuemin="0"
      :aria-valuemax="minutes - 1"
      :aria-valuenow="read"
      :aria-valuetext="spoken"
      @pointermove="point"
      @pointerdown="point"
      @pointerleave="chosen = null"
      @keydown="step">
      <svg :width="wide" :height="HEIGHT" :viewBox="`0 0 ${wide} ${HEIGHT}`" aria-hidden="true">
        <defs>
          <linearGradient id="dusk" x1="0" x2="1" y1="0" y2="0">
            <stop
              v-for="shade in shades"
              :key="shade.minute"
              :offset="shade.minute / Math.max(minutes - 1, 1)"
              :style="{ stopColor: skyColour(shade.mag) }" />
          </linearGradient>
          <clipPath id="usable">
            <rect
              v-for="one in usable"
              :key="one.first"
              :x="x(one.first)"
              :y="LABELS"
              :width="x(one.last) - x(one.first)"
              :height="BAND" />
          </clipPath>
        </defs>
        <rect x="0" :y="LABELS" :width="wide" :height="BAND" fill="url(#dusk)" rx="3" />
        <path class="moon" :d="moonPath" />
        <text
          v-if="!slim && (strip.moon_altitude[moonTop] ?? 0) > 4"
          class="on-band"
          :x="Math.min(Math.max(x(moonTop), 20), wide - 20)"
          :y="y(strip.moon_altitude[moonTop] ?? 0) + ((strip.moon_altitude[moonTop] ?? 0) > 16 ? 13 : -5)">
          Moon
        </text>
        <path class="path" :d="path" />
        <path class="path bold" :d="path" clip-path="url(#usable)" />
        <path class="profile" :d="profile" />
        <path v-if="cloud" class="cloud" :d="cloud" />
        <line
          v-for="one in dewy"
          :key="one.first"
          class="dew"
          :x1="x(one.first)"
          :x2="x(one.last)"
          :y1="LABELS + BAND - 2"
          :y2="LABELS + BAND - 2" />
        <g v-for="flag in flags" :key="flag.key + flag.at" class="flag">
          <line
            :x1="flag.at"
            :x2="flag.at"
            :y1="slim || flag.row < 0 ? LABELS : flag.row * 15 + 3"
            :y2="LABELS + BAND" />
          <text v-if="!slim && flag.row >= 0" :x="flag.x + 4" :y="flag.row * 15 + 12">{{ flag.text }}</text>
        </g>
        <rect class="ground" x="0" :y="LABELS + BAND + 2" :width="wide" :height="BAR - 2" rx="2" />
        <rect
          v-for="one in usable"
          :key="one.first"
          class="usable"
          :x="x(one.first)"
          :y="LABELS + BAND + 2"
          :width="x(one.last) - x(one.first)"
          :height="BAR - 2"
          rx="2" />
        <g v-if="strip.exposures">
          <rect
            class="exposures"
            :x="x(strip.exposures.first)"
            :y="LABELS + BAND + 2"
            :width="Math.max(x(strip.exposures.last) - x(strip.exposures.first), 2)"
            :height="BAR - 2"
            rx="2" />
          <text v-if="roomForProgramme" class="programme" :x="x(strip.exposures.first) + 8" :y="LABELS + BAND + 13">
            {{ programme }}
          </text>
        </g>
        <g v-for="hour in hours" :key="hour.minute" class="hour">
          <line :x1="x(hour.minute)" :x2="x(hour.minute)" :y1="LABELS + BAND + BAR" :y2="LABELS + BAND + BAR + 4" />
          <text :x="x(hour.minute)" :y="HEIGHT - 2">{{ hour.label }}</text>
        </g>
        <g v-if="nowMinute !== null" class="now">
          <line :x1="x(nowMinute)" :x2="x(nowMinute)" :y1="LABELS - 4" :y2="LABELS + BAND + BAR" />
          <text :x="x(nowMinute) + 4" :y="LABELS + 12">now</text>
        </g>
        <line class="reader" :x1="x(read)" :x2="x(read)" :y1="LABELS" :y2="LABELS + BAND" />
        <circle
          v-if="(strip.target_altitude[read] ?? 0) > 0"
          class="reader-dot"
          :cx="x(read)"
          :cy="y(strip.target_altitude[read] ?? 0)"
          r="4" />
      </svg>
    </div>
    <SideSheet :open="table" title="The night, every half hour" :width="720" middle @close="table = false">
      <table class="rows">
        <thead>
          <tr>
            <th>Local time</th>
            <th>State</th>
            <th>Target</th>
            <th>Horizon</th>
            <th>Sky</th>
            <th>Moon</th>
            <th v-if="strip.weather">Weather</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.time">
            <td class="number">{{ row.time }}</td>
            <td>{{ row.state }}</td>
            <td>{{ row.target }}</td>
            <td>{{ row.profile }}</td>
            <td>{{ row.sky }}</td>
            <td>{{ row.moon }}</td>
            <td v-if="strip.weather">{{ row.weather }}</td>
          </tr>
        </tbody>
      </table>
    </SideSheet>
  </figure>
</template>

<style scoped>
.strip {
  margin: 0;
  transition: opacity 0.15s;
}
.stale {
  opacity: 0.65;
}
figcaption {
  display: flex;
  gap: 16px;
  align-items: baseline;
  font-size: 13px;
  padding: 0 2px;
  flex-wrap: wrap;
  row-gap: 0;
}
.time {
  font-size: 16px;
  font-weight: 600;
}
.table {
  margin-left: auto;
}
.box {
  overflow: hidden;
  border-radius: 6px;
  cursor: crosshair;
}
svg {
  display: block;
}
text {
  font-size: 11.5px;
  fill: var(--muted);
}
.path {
  fill: none;
  stroke: var(--path);
  stroke-width: 1.2;
  stroke-dasharray: 3 4;
  opacity: 0.85;
}
.path.bold {
  stroke-width: 3;
  stroke-dasharray: none;
  opacity: 1;
}
.moon {
  fill: none;
  stroke: var(--path);
  stroke-width: 1;
  stroke-dasharray: 1 5;
  opacity: 0.7;
}
.on-band {
  fill: var(--path);
  text-anchor: middle;
  font-size: 11px;
  opacity: 0.85;
}
.profile {
  fill: var(--earth);
  stroke: var(--muted);
  stroke-width: 1;
}
.cloud {
  fill: var(--text);
  opacity: 0.42;
}
.dew {
  stroke: var(--path);
  stroke-width: 3;
  stroke-dasharray: 1 5;
  stroke-linecap: round;
}
.flag line {
  stroke: var(--text);
  stroke-width: 0.8;
  opacity: 0.55;
}
.flag text {
  fill: var(--text);
}
.ground {
  fill: var(--raised);
}
.usable {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.5;
}
.exposures {
  fill: var(--accent);
}
.programme {
  fill: var(--accent-text);
  font-weight: 600;
}
.hour line {
  stroke: var(--muted);
}
.hour text {
  text-anchor: middle;
}
.now line {
  stroke: var(--stop);
  stroke-width: 2;
}
.now text {
  fill: var(--path);
  font-weight: 600;
}
.reader {
  stroke: var(--path);
  stroke-width: 1;
}
.reader-dot {
  fill: var(--path);
  stroke: var(--earth);
}
</style>
