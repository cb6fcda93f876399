<script setup lang="ts">
import { Spin } from 'ant-design-vue'
import { computed } from 'vue'

import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import Field from '@/parts/Field.vue'
import LinePlot from '@/parts/LinePlot.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import GatheredPanel from './GatheredPanel.vue'
import { useWorkings } from './useWorkings'

/** How many frames: what hours bring, what ends the run tonight, and what earlier nights count for. */
const { choices, choose } = useContext()
const { data, refusal } = useExposure()
const { shown, opened, row, close } = useWorkings(
  () => data.value?.verdicts.find((one) => one.topic === 'Exposure') ?? null,
)
const many = computed(() => data.value?.many ?? null)
const goal = computed(() => Number(choices.value.goal_snr ?? 10))
const lines = computed(() => [
  {
    name: 'Signal to noise of one pixel',
    points: [
      ...(many.value?.gathered.snr ? [[0, many.value.gathered.snr] as const] : []),
      ...(many.value?.rows ?? []).map((one) => [one.hours, one.snr] as const),
    ],
  },
])
const mark = computed(() =>
  many.value?.goal_hours != null && many.value.goal_hours <= 24
    ? { at: many.value.goal_hours, name: `${number(many.value.goal_hours, 1)} h` }
    : null,
)
const levels = computed(() => [{ at: goal.value, name: `wanted, ${goal.value}` }])
const set = (part: object) => void choose({ ...choices.value, ...part })
const binding = computed(() => [...(many.value?.limits ?? [])].sort((a, b) => a.frames - b.frames)[0]?.name)
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Counting…"><div class="hold" /></Spin>
  <section v-if="data && many" class="many">
    <div class="panel left">
      <p class="sentence">
        <template v-if="many.goal_frames === 0">The signal to noise you want is gathered already.</template>
        <template v-else-if="many.goal_frames != null"
          >{{ many.goal_frames }} frames to shoot,
          <button type="button" class="plain dotted" @click="shown = 'hours'">
            {{ number(many.goal_hours ?? 0, 1) }} h</button
          >, until one pixel of the target stands at {{ goal }}.</template
        >
        <template v-else>At this setting the target does not reach {{ goal }}.</template>
      </p>
      <p>
        Tonight’s {{ data.card.frames }} frames bring it to
        <button type="button" class="plain dotted number" @click="shown = 'snr'">
          {{ number(many.tonight_snr, 1) }}</button><template v-if="many.enough_hours != null"
          >; past {{ number(many.enough_hours, 1) }} h the next hour adds less than 5 %</template
        >.
      </p>
      <LinePlot
        class="plot"
        :lines="lines"
        x-name="hours at the tripod, on top of what is gathered"
        y-name="signal to noise"
        :mark="mark"
        :levels="levels"
        label="Signal to noise over hours; the table holds the figures" />
      <div class="two">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Hours</th>
              <th scope="col">Frames</th>
              <th scope="col"><button type="button" class="plain dotted" @click="shown = 'snr'">S/N</button></th>
              <th scope="col">The next hour adds</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in many.rows.filter((row) => row.hours >= 0.5)" :key="one.hours" class="number">
              <td>{{ one.hours }}</td>
              <td>{{ one.frames }}</td>
              <td>{{ number(one.snr, 1) }}</td>
              <td>{{ one.adds == null ? '–' : `${number(one.adds * 100, 0)} %` }}</td>
            </tr>
          </tbody>
        </table>
        <div>
          <h2>What ends it tonight</h2>
          <table class="rows">
            <tbody>
              <tr v-for="one in many.limits" :key="one.name" :class="{ chosen: one.name === binding }">
                <th scope="row">{{ one.name }}<small v-if="one.name === binding"> decides</small></th>
                <td class="number">{{ one.frames }} frames</td>
              </tr>
            </tbody>
          </table>
          <div class="fields">
            <Field
              :model-value="choices.goal_snr ?? null"
              path="goal_snr"
              label="Signal to noise wanted"
              placeholder="10"
              @update:model-value="(value: unknown) => set({ goal_snr: value })" />
            <Field
              :model-value="choices.most_hours ?? null"
              path="most_hours"
              label="Patience"
              unit="h"
              placeholder="the window"
              @update:model-value="(value: unknown) => set({ most_hours: value })" />
          </div>
          <h2>So many frames stacked</h2>
          <table class="rows">
            <thead>
              <tr>
                <th scope="col">Frames</th>
                <th scope="col">S/N per pixel</th>
                <th scope="col">Noise, of the target’s light</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in many.stacks" :key="one.frames" class="number">
                <th scope="row">{{ one.frames }}</th>
                <td>{{ number(one.snr, 1) }}</td>
                <td>{{ number(one.noise_share * 100, one.noise_share < 0.1 ? 1 : 0) }} %</td>
              </tr>
            </tbody>
          </table>
          <p class="muted">Four times the frames halve the noise.</p>
        </div>
      </div>
    </div>
    <GatheredPanel :data="data" :many="many" @working="row" />
  </section>
  <WorkingDrawer :verdict="opened" :focus="shown ?? ''" @close="close" />
</template>

<style scoped>
.many {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.left {
  padding: 8px 14px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
.sentence {
  font-size: 16px;
  font-weight: 600;
}
.plot {
  height: 190px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1.1fr;
  gap: 18px;
  align-items: start;
}
.rows {
  font-size: 12.5px;
}
.rows th,
.rows td {
  padding: 1px 6px;
}
.rows thead th {
  font-size: 11.5px;
}
.chosen {
  background: var(--raised);
}
.chosen small {
  color: var(--accent);
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-top: 6px;
}
.hold {
  min-height: 300px;
}
@media (max-width: 1000px) {
  .many,
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
