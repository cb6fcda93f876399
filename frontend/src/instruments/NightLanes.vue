<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { Button } from 'ant-design-vue'
import { scaleLinear } from 'd3-scale'
import { area } from 'd3-shape'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

import NightLanesKey from './NightLanesKey.vue'
import NightLanesTable from './NightLanesTable.vue'
import { fullHours, stretches } from './strip'

/**
 * Each target as one lane through the night: its altitude as a shape, filled where it is usable, grained where something
 * stands in the way, dotted where the Moon is too bright, empty where it is too low or not dark. Lies under the dusk strip,
 * minute under minute.
 */
const props = defineProps<{
  lanes: Schemas['Lanes']
  ids: number[]
  current: number | null
  timeZone: string
  minutes: number
  removable: boolean
}>()
const emit = defineEmits<{ pick: [id: number]; remove: [id: number]; working: [place: number] }>()

const LANE = 58
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
const wide = computed(() => Math.max(width.value, 300))
const x = computed(() => scaleLinear([0, Math.max(props.minutes - 1, 1)], [0, wide.value]))
const y = scaleLinear([0, 90], [LANE - 4, 6]).clamp(true)
const start = computed(() => new Date(props.lanes.start))
const hours = computed(() => fullHours(start.value, props.timeZone, props.minutes))

const drawn = computed(() =>
  props.lanes.lanes.map((lane, place) => {
    const shape = area<number>()
      .x((_, step) => x.value(step * props.lanes.step_min))
      .y0(LANE - 4)
      .y1((altitude) => y(altitude))
    const runs = stretches(lane.state).map((run) => ({
      ...run,
      from: x.value(run.first * props.lanes.step_min),
      to: x.value((run.last + 1) * props.lanes.step_min),
    }))
    return {
      lane,
      place,
      id: props.ids[place] ?? 0,
      shape: shape(lane.altitude) ?? '',
      runs: runs.filter((run) => ['usable', 'blocked', 'moonlit', 'low'].includes(run.state)),
    }
  }),
)
const minuteOf = (moment: string) => (new Date(moment).getTime() - start.value.getTime()) / 60_000
const table = ref(false)
</script>

<template>
  <div class="lanes">
    <ol ref="box">
      <li v-for="one in drawn" :key="one.id" :class="{ current: one.id === current }">
        <div class="said">
          <button
            type="button"
            class="plain name"
            :aria-pressed="one.id === current"
            title="Plan with this target"
            @click="emit('pick', one.id)">
            {{ one.lane.name }}
          </button>
          <button
            type="button"
            class="plain sentence"
            aria-label="Open the working of this lane"
            @click="emit('working', one.place)">
            <b class="number">{{ one.lane.usable_words }}</b> usable<template v-if="one.lane.usable.length"
              >,
              <span class="number">{{
                one.lane.usable.map((slot) => `${slot.from_clock}–${slot.to_clock}`).join(', ')
              }}</span></template
            >
          </button>
          <span v-if="one.lane.best" class="number"
            >best {{ one.lane.best.from_clock }}–{{ one.lane.best.to_clock }}</span
          >
          <span v-if="one.lane.transit_clock" class="muted number"
            >highest {{ one.lane.transit_clock }}, {{ number(one.lane.transit_deg, 0) }}°</span
          >
          <span v-if="!one.lane.usable.length" class="why"
            >{{ one.lane.verdict.sentence }} {{ one.lane.verdict.advice }}</span
          >
          <Button
            v-if="removable"
            size="small"
            type="text"
            class="off"
            :aria-label="`Take ${one.lane.name} off this night`"
            @click="emit('remove', one.id)"
            >×</Button
          >
        </div>
        <svg :width="wide" :height="LANE" role="img" :aria-label="`${one.lane.name}: ${one.lane.verdict.sentence}`">
          <defs>
            <clipPath :id="`lane-${one.id}`"><path :d="one.shape" /></clipPath>
            <pattern
              :id="`grain-${one.id}`"
              width="6"
              height="6"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)">
              <line y2="6" />
            </pattern>
            <pattern :id="`dots-${one.id}`" width="6" height="6" patternUnits="userSpaceOnUse">
              <circle cx="3" cy="3" r="1.1" />
            </pattern>
          </defs>
          <rect class="back" x="0" y="0" :width="wide" :height="LANE - 4" rx="3" />
          <line
            v-for="hour in hours"
            :key="hour.minute"
            class="hour"
            :x1="x(hour.minute)"
            :x2="x(hour.minute)"
            y1="0"
            :y2="LANE - 4" />
          <g :clip-path="`url(#lane-${one.id})`">
            <template v-for="run in one.runs" :key="run.first">
              <rect
                :class="run.state"
                :x="run.from"
                y="0"
                :width="run.to - run.from"
                :height="LANE"
                :fill="
                  run.state === 'blocked'
                    ? `url(#grain-${one.id})`
                    : run.state === 'moonlit'
                      ? `url(#dots-${one.id})`
                      : undefined
                " />
            </template>
          </g>
          <path class="outline" :d="one.shape" />
          <g v-if="one.lane.best" class="best">
            <rect
              :x="x(one.lane.best.first)"
              :y="LANE - 3"
              :width="Math.max(x(one.lane.best.last) - x(one.lane.best.first), 2)"
              height="3" />
          </g>
          <line
            v-if="one.lane.transit"
            class="transit"
            :x1="x(minuteOf(one.lane.transit))"
            :x2="x(minuteOf(one.lane.transit))"
            y1="2"
            :y2="LANE - 4" />
        </svg>
      </li>
    </ol>
    <NightLanesKey @table="table = true" />
    <NightLanesTable :open="table" :lanes="lanes" :time-zone="timeZone" @close="table = false" />
  </div>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.said {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  align-items: baseline;
  font-size: 13px;
  min-height: 24px;
}
.name {
  font-weight: 600;
  font-size: 14px;
}
.current .name {
  color: var(--accent);
}
.sentence {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.why {
  color: var(--muted);
}
.off {
  margin-left: auto;
}
svg {
  display: block;
}
.back {
  fill: var(--panel);
}
.hour {
  stroke: var(--line);
  stroke-width: 0.7;
}
.usable {
  fill: var(--accent);
}
.low {
  fill: var(--raised);
}
pattern line {
  stroke: var(--text);
  stroke-width: 1.6;
  opacity: 0.6;
}
pattern circle {
  fill: var(--text);
  opacity: 0.85;
}
.outline {
  fill: none;
  stroke: var(--muted);
  stroke-width: 0.8;
}
.best rect {
  fill: var(--text);
}
.transit {
  stroke: var(--text);
  stroke-width: 1;
  stroke-dasharray: 2 3;
}
</style>
