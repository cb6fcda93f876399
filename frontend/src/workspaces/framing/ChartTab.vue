<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useFaults } from '@/composables/useFaults'
import { useFraming } from '@/composables/useFraming'
import SkyChart from '@/instruments/SkyChart.vue'
import Choice from '@/parts/Choice.vue'

import PanelsPanel from './PanelsPanel.vue'
import WantedPanel from './WantedPanel.vue'

/** The sky around the target with the frame on it: moved and turned by hand, composed by the server, cut into panels. */
const framing = useFraming()
const { held, fieldDeg, sky, laid, wanted, refusal } = framing
const upright = ref('north')
const mirrored = ref(false)
const first = computed(() => laid.value?.panels[0]?.frame ?? null)
const composed = ref<Schemas['ComposedOut'] | null>(null)
const { busy, faults, attempt } = useFaults()
const told = computed(() => [
  ...Object.values(faults.value),
  ...(refusal.value?.list ?? [])
    .filter((one) => !['columns', 'rows', 'overlap'].includes(one.field))
    .map((one) => one.message),
])
async function compose(turn: Schemas['ComposeIn']['turn'], hold: Schemas['ComposeIn']['hold']) {
  composed.value = null
  await attempt(async () => {
    composed.value = await framing.compose(turn, hold)
  })
}
const save = () => attempt(framing.keep)
const fewest = () => attempt(framing.fewest)
const zoom = (field: number) => (fieldDeg.value = Math.min(Math.max(field, 0.5), 90))
function wantKey(key: string) {
  const one = sky.value?.objects.find((each) => each.key === key)
  if (one)
    framing.want({
      name: one.name,
      ra_deg: one.ra_deg,
      dec_deg: one.dec_deg,
      long_deg: one.extent_deg,
      short_deg: one.width_deg ?? null,
      angle_deg: one.angle_deg ?? 0,
    })
}
const chosenKeys = computed(() =>
  (sky.value?.objects ?? [])
    .filter((one) => wanted.value.some((each) => each.key === framing.keyOf(one)))
    .map((one) => one.key),
)
const place = computed(
  () =>
    `${number(held.value.ra / 15, 3)} h, ${number(held.value.dec, 2)}°; upper edge at ${number(held.value.angle, 1)}°` +
    (first.value ? `; ${number(first.value.width_deg, 1)}° × ${number(first.value.height_deg, 1)}°` : ''),
)
</script>

<template>
  <section class="framing">
    <div class="left">
      <p class="reading" aria-live="off">
        <b class="number">{{ place }}</b>
        <label for="chart-up">Up</label>
        <Choice
          id="chart-up"
          v-model="upright"
          class="pick"
          :options="[
            { value: 'north', label: 'is north' },
            { value: 'camera', label: 'as the camera sees it' },
          ]" />
        <label><input v-model="mirrored" type="checkbox" /> mirrored</label>
        <span class="muted">Drag the frame or the sky; arrows move, comma and full stop turn, + and − zoom.</span>
      </p>
      <SkyChart
        class="chart"
        :sky="sky ?? null"
        :held="held"
        :width-deg="first?.width_deg ?? 5"
        :height-deg="first?.height_deg ?? 3.4"
        :field-deg="fieldDeg"
        :upright="upright === 'camera'"
        :mirrored="mirrored"
        :wanted="chosenKeys"
        :panels="(laid?.panels.length ?? 0) > 1 ? (laid?.panels ?? []) : []"
        @hold="(now) => (held = now)"
        @zoom="zoom"
        @want="wantKey"
        @panel="framing.drop" />
    </div>
    <div class="right">
      <Alert v-if="told.length" type="error" show-icon
        ><template #message
          ><p v-for="message in told" :key="message">{{ message }}</p></template
        ></Alert
      >
      <WantedPanel
        :wanted="wanted"
        :near="sky?.objects ?? []"
        :key-of="framing.keyOf"
        :composed="composed"
        :busy="busy"
        @want="framing.want"
        @compose="compose" />
      <PanelsPanel
        v-model:columns="framing.columns.value"
        v-model:rows="framing.rows.value"
        v-model:overlap="framing.overlapPercent.value"
        :laid="laid ?? null"
        :refusal="refusal"
        @fewest="fewest"
        @drop="framing.drop" />
      <p class="acts">
        <Button type="primary" :loading="busy" @click="save">{{
          framing.kept.value ? 'Save this framing' : 'Keep this framing'
        }}</Button>
        <span v-if="framing.kept.value" class="muted">Kept for {{ framing.subject.value?.name }}.</span>
      </p>
    </div>
  </section>
</template>

<style scoped>
.framing {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 8px;
  align-items: stretch;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 4px;
  min-width: 0;
}
.chart {
  flex: 1;
  min-height: 420px;
}
.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  font-size: 13px;
}
.pick {
  width: 190px;
}
.right {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
}
@media (max-width: 1000px) {
  .framing {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
