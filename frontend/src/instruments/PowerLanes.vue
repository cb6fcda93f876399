<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

import { clock, fullHours } from './strip'

/** Each supply as a lane through the plan: which battery is in use, when to swap it, and where nothing is left. */
const props = defineProps<{ power: Schemas['PowerNight'] }>()

const TOP = 56
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 330))
/** On a narrow screen a lane's name stands above it. */
const narrow = computed(() => wide.value < 620)
const names = computed(() => (narrow.value ? 30 : 200))
const laneTall = computed(() => (narrow.value ? 78 : 54))
const beside = computed(() => (narrow.value ? 20 : 0))
const tall = computed(() => TOP + props.power.lanes.length * laneTall.value + 26)
const start = computed(() => new Date(props.power.begin))
const across = computed(() => scaleLinear([0, Math.max(props.power.minutes, 1)], [names.value, wide.value - 12]))
const x = (minute: number) => across.value(minute)
const every = computed(() => Math.max(1, Math.ceil(42 / Math.max(x(60) - x(0), 1))))
const hours = computed(() =>
  fullHours(start.value, props.power.time_zone, props.power.minutes).filter((_, place) => place % every.value === 0),
)
const at = (minute: number) => clock(start.value, props.power.time_zone, minute)

const coldest = computed(() => Math.min(...props.power.air_c))
const warmest = computed(() => Math.max(...props.power.air_c, coldest.value + 1))
const airScale = computed(() => scaleLinear([coldest.value, warmest.value], [TOP - 12, TOP - 38]))
const airY = (value: number) => airScale.value(value)
const air = computed(
  () =>
    line<number>()
      .x((_, index) => x(Math.min(index * 15, props.power.minutes)))
      .y(airY)(props.power.air_c) ?? '',
)
const short = (words: string, room: number) =>
  words.length * 6.6 > room ? `${words.slice(0, Math.max(Math.floor(room / 6.6) - 1, 1))}…` : words
const spoken = computed(() =>
  props.power.lanes
    .map((lane) =>
      [
        `${lane.battery}: ${lane.uses.map((use) => `${use.battery} from ${at(use.first)} to ${at(use.last)}`).join(', ')}`,
        lane.runs_out ? `empty at ${lane.runs_out}` : 'lasts to the end',
      ].join(', '),
    )
    .join('; '),
)
</script>

<template>
  <figure class="lanes">
    <div ref="box">
      <svg :width="wide" :height="tall" role="img" :aria-label="spoken">
        <defs>
          <pattern id="empty" width="8" height="8" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line y2="8" />
          </pattern>
        </defs>
        <g v-for="hour in hours" :key="hour.minute" class="hour">
          <line :x1="x(hour.minute)" :x2="x(hour.minute)" :y1="10" :y2="tall - 18" />
          <text :x="x(hour.minute)" :y="tall - 4">{{ hour.label }}</text>
        </g>
        <text class="name" x="0" :y="TOP - 26">Air</text>
        <path class="air" :d="air" />
        <text class="small" :x="x(0) + 4" :y="airY(power.air_c[0] ?? 0) - 4">
          {{ number(power.air_c[0] ?? 0, 0) }} °C
        </text>
        <text class="small end" :x="x(power.minutes)" :y="airY(power.air_c[power.air_c.length - 1] ?? 0) - 4">
          {{ number(power.air_c[power.air_c.length - 1] ?? 0, 0) }} °C
        </text>
        <g
          v-for="(lane, place) in power.lanes"
          :key="lane.battery"
          :transform="`translate(0 ${TOP + place * laneTall})`">
          <text class="name" x="0" y="17">{{ short(lane.battery, narrow ? wide - 150 : names - 10) }}</text>
          <text class="small" :class="{ end: narrow }" :x="narrow ? wide - 12 : 0" :y="narrow ? 17 : 33">
            {{ number(lane.watts, 1) }} W
            <template v-if="lane.runs_out">, empty at {{ lane.runs_out }}</template>
          </text>
          <g v-for="(use, turn) in lane.uses" :key="use.battery" :transform="`translate(0 ${beside})`">
            <rect
              class="use"
              :class="{ second: turn % 2 }"
              :x="x(use.first)"
              y="4"
              :width="Math.max(x(use.last) - x(use.first), 1)"
              height="32"
              rx="4" />
            <text class="inside" :x="x(use.first) + 8" y="25">
              {{ short(turn ? `swap to ${use.battery}` : lane.loads.join(' + '), x(use.last) - x(use.first) - 14) }}
            </text>
            <line v-if="turn" class="swap" :x1="x(use.first)" :x2="x(use.first)" y1="0" y2="44" />
            <text
              v-if="turn"
              class="small"
              :class="{ end: x(use.first) > wide - 120 }"
              :x="x(use.first) + (x(use.first) > wide - 120 ? -4 : 4)"
              y="48">
              {{ at(use.first) }} swap
            </text>
          </g>
          <rect
            v-if="lane.lasts_min < power.minutes"
            class="dead"
            :x="x(lane.lasts_min)"
            :y="4 + beside"
            :width="x(power.minutes) - x(lane.lasts_min)"
            height="32"
            rx="4" />
          <text
            v-if="lane.lasts_min < power.minutes"
            class="small dead-word"
            :x="x(lane.lasts_min) + 6"
            :y="48 + beside">
            {{ lane.runs_out }} nothing left
          </text>
        </g>
      </svg>
    </div>
    <figcaption class="muted">
      From set-up at {{ at(0) }} to {{ at(power.minutes) }},
      {{ power.planned ? 'the end of the plan with its darks' : 'dawn; there is no programme this night' }}.
      <b v-if="power.unfed.length" class="unfed">Fed by nothing: {{ power.unfed.join(', ') }}.</b>
    </figcaption>
  </figure>
</template>

<style scoped>
.lanes {
  margin: 0;
}
svg {
  display: block;
}
.hour line {
  stroke: var(--line);
}
.hour text {
  font-size: 11.5px;
  fill: var(--muted);
  text-anchor: middle;
}
.name {
  font-size: 13px;
  fill: var(--text);
  font-weight: 600;
}
.small {
  font-size: 11.5px;
  fill: var(--muted);
}
.end {
  text-anchor: end;
}
.air {
  fill: none;
  stroke: var(--muted);
  stroke-width: 1.6;
}
.use {
  fill: var(--raised);
  stroke: var(--muted);
}
.use.second {
  fill: var(--line);
}
.inside {
  font-size: 12px;
  fill: var(--text);
}
.swap {
  stroke: var(--care);
  stroke-width: 2;
}
pattern line {
  stroke: var(--stop);
  stroke-width: 3;
}
.dead {
  fill: url(#empty);
  stroke: var(--stop);
}
.dead-word,
.unfed {
  fill: var(--stop);
  color: var(--stop);
}
figcaption {
  font-size: 13px;
}
</style>
