<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useFaults } from '@/composables/useFaults'
import { asSubject, theFraming } from '@/composables/useFraming'
import { useAbove, useFigures } from '@/composables/useFramingNight'
import SkyChart from '@/instruments/SkyChart.vue'
import Choice from '@/parts/Choice.vue'

import ChartTable from './ChartTable.vue'

/** The chart with what belongs to it on every side of the workspace: its reading, what is up, its table, and keeping. */
defineProps<{ way?: Schemas['WaypointOut'][]; tries?: Schemas['FrameOut'][] }>()
const framing = theFraming()
const { held, fieldDeg, middle, sky, laid, wanted, refusal, kept, subject } = framing
const figures = useFigures()
const above = useAbove()
const up = useLocalStorage<'north' | 'zenith' | 'camera'>('wide-dusk-chart-up', 'north')
const mirrored = useLocalStorage('wide-dusk-chart-mirrored', false)
const table = ref(false)
const { busy, faults, attempt } = useFaults()
const save = () => attempt(framing.keep)
const first = computed(() => laid.value?.panels[0]?.frame ?? null)
const told = computed(() => [
  ...Object.values(faults.value),
  ...(refusal.value?.list ?? [])
    .filter((one) => !['columns', 'rows', 'overlap'].includes(one.field))
    .map((one) => one.message),
])
const zoom = (field: number) => (fieldDeg.value = Math.min(Math.max(field, 0.5), 90))
function wantKey(key: string) {
  const one = sky.value?.objects.find((each) => each.key === key)
  if (one) framing.want(asSubject(one))
}
const chosenKeys = computed(() =>
  (sky.value?.objects ?? [])
    .filter((one) => wanted.value.some((each) => each.key === framing.keyOf(one)))
    .map((one) => one.key),
)
const place = computed(
  () =>
    `${number(held.value.ra / 15, 3)} h, ${number(held.value.dec, 2)}°; upper edge at ${number(held.value.angle, 1)}°`,
)
const sides = computed(() =>
  first.value ? `${number(first.value.width_deg, 1)}° × ${number(first.value.height_deg, 1)}°` : '',
)
</script>

<template>
  <div class="pane">
    <p class="reading">
      <b class="number">{{ place }}</b>
      <label for="chart-up">Up is</label>
      <Choice
        id="chart-up"
        v-model="up"
        class="pick"
        :options="[
          { value: 'north', label: 'north' },
          { value: 'zenith', label: `zenith at ${above?.clock ?? 'midnight'}` },
          { value: 'camera', label: 'as held' },
        ]" />
      <label><input v-model="mirrored" type="checkbox" /> mirrored</label>
      <Button size="small" :aria-pressed="table" @click="table = !table">{{
        table ? 'As a chart' : 'As a table'
      }}</Button>
      <Button size="small" type="primary" :loading="busy" @click="save">{{
        kept ? 'Save this framing' : 'Keep this framing'
      }}</Button>
      <span v-if="kept" class="muted">Kept for {{ subject?.name }}.</span>
    </p>
    <Alert v-if="told.length" type="error" show-icon
      ><template #message
        ><p v-for="message in told" :key="message">{{ message }}</p></template
      ></Alert
    >
    <ChartTable
      v-if="table"
      :sky="sky ?? null"
      :stars="figures?.stars ?? []"
      :held="held"
      :width-deg="first?.width_deg ?? 5"
      :height-deg="first?.height_deg ?? 3.4" />
    <SkyChart
      v-else
      class="chart"
      :sky="sky ?? null"
      :held="held"
      :width-deg="first?.width_deg ?? 5"
      :height-deg="first?.height_deg ?? 3.4"
      :field-deg="fieldDeg"
      :middle="middle"
      :up="up"
      :mirrored="mirrored"
      :wanted="chosenKeys"
      :panels="(laid?.panels.length ?? 0) > 1 ? (laid?.panels ?? []) : []"
      :lines="figures ?? null"
      :over="above ?? null"
      :way="way"
      :tries="tries"
      @hold="(now) => (held = now)"
      @look="(now) => (middle = now)"
      @zoom="zoom"
      @want="wantKey"
      @panel="framing.drop" />
    <p class="muted hint">
      <span class="number">{{ sides }}.</span>
      <span class="for-keys">Drag the frame or the sky; arrows move, comma and full stop turn, + and − zoom.</span>
    </p>
  </div>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-width: 0;
}
.chart {
  flex: 1;
  min-height: 380px;
}
.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  font-size: 13px;
}
.pick {
  width: 138px;
}
.hint {
  font-size: 12px;
}
</style>
