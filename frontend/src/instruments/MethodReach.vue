<script setup lang="ts">
import { computed } from 'vue'

import { scaleLog } from 'd3-scale'

import type { Schemas } from '@/api/client'

/** What each way of aligning leaves, on one bent scale, against the line of what is needed. */
const props = defineProps<{ rows: Schemas['MethodRow'][]; toleranceArcmin: number; advised: string }>()
defineEmits<{ pick: [key: string] }>()

const x = scaleLog([0.1, 600], [0, 100]).clamp(true)
const TICKS = [
  { at: 0.3, label: '18″' },
  { at: 1, label: '1′' },
  { at: 3, label: '3′' },
  { at: 10, label: '10′' },
  { at: 60, label: '1°' },
  { at: 300, label: '5°' },
]
const FITS = { yes: 'will do', perhaps: 'may do', no: 'not enough' } as Record<string, string>
const shown = computed(() => props.rows.map((row) => ({ ...row, from: x(row.best_arcmin), to: x(row.worst_arcmin) })))
</script>

<template>
  <figure class="reach" aria-label="Ways of aligning">
    <ol>
      <li
        v-for="row in shown"
        :key="row.key"
        :class="[row.fits, { cannot: !row.possible, advised: row.key === advised }]">
        <button type="button" class="plain name" @click="$emit('pick', row.key)">{{ row.name }}</button>
        <span class="lane"
          ><i class="bar" :style="{ left: `${row.from}%`, width: `${Math.max(row.to - row.from, 1)}%` }" /><i
            class="need"
            :style="{ left: `${x(toleranceArcmin)}%` }"
        /></span>
        <span class="number far">{{ row.reaches }}</span>
        <span class="number time">{{ row.minutes }} min</span>
        <span class="fit"
          >{{ row.possible ? FITS[row.fits] : 'not here' }}<b v-if="row.key === advised">, quickest</b></span
        >
        <small v-if="!row.possible" class="muted why">{{ row.why_not }}</small>
      </li>
    </ol>
    <div class="scale" aria-hidden="true">
      <span class="lane"
        ><i v-for="tick in TICKS" :key="tick.at" :style="{ left: `${x(tick.at)}%` }">{{ tick.label }}</i></span
      >
    </div>
    <figcaption>
      Each bar is what a way of aligning is known to leave; the upright line is what this rig and sub need. Figures of
      common practice.
    </figcaption>
  </figure>
</template>

<style scoped>
.reach {
  margin: 0;
  padding: 8px 12px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li,
.scale {
  display: grid;
  grid-template-columns: 200px minmax(160px, 1fr) 82px 50px 136px;
  gap: 0 10px;
  align-items: center;
}
li {
  padding: 7px 0;
  border-bottom: 1px solid var(--line);
}
.name {
  font-weight: 600;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.lane {
  position: relative;
  height: 18px;
}
li .lane {
  background: var(--raised);
  border-radius: 4px;
}
.bar {
  position: absolute;
  top: 4px;
  bottom: 4px;
  border-radius: 3px;
  background: var(--muted);
}
.yes .bar {
  background: var(--go);
}
.perhaps .bar {
  background: var(--care);
}
.cannot .bar {
  opacity: 0.35;
}
.need {
  position: absolute;
  top: -8px;
  bottom: -8px;
  width: 2px;
  background: var(--accent);
}
.fit {
  font-size: 13px;
}
.yes .fit {
  color: var(--go);
}
.perhaps .fit {
  color: var(--care);
}
.far,
.time {
  font-size: 13px;
  text-align: right;
}
.why {
  grid-column: 2 / -1;
  font-size: 12px;
}
.scale .lane {
  grid-column: 2;
}
.scale i {
  position: absolute;
  transform: translateX(-50%);
  font-style: normal;
  font-size: 11px;
  color: var(--muted);
}
figcaption {
  font-size: 12px;
  color: var(--muted);
  margin-top: 4px;
}
@media (max-width: 900px) {
  li,
  .scale {
    grid-template-columns: 150px minmax(90px, 1fr) 80px 50px 90px;
  }
}
@media (max-width: 640px) {
  li {
    grid-template-columns: 1fr auto auto;
  }
  li .lane {
    grid-column: 1 / -1;
  }
  .name {
    grid-column: 1 / -1;
    text-align: left;
  }
  .fit {
    order: 1;
  }
  .far,
  .time {
    order: 2;
  }
  .why {
    order: 3;
    grid-column: 1 / -1;
  }
  .scale {
    grid-template-columns: minmax(0, 1fr);
  }
  .scale .lane {
    grid-column: 1;
  }
}
</style>
