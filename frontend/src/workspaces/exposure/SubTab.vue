<script setup lang="ts">
import { Spin } from 'ant-design-vue'
import { computed } from 'vue'

import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure, type Exposure } from '@/composables/useExposure'
import { lengthWords } from '@/instruments/lengths'
import SubWindow from '@/instruments/SubWindow.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import VerdictLines from '@/parts/VerdictLines.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import { priceWords } from './price'
import { useWorkings } from './useWorkings'

/** How long one frame: what each limit leaves, what each school would take, and what it costs. */
const { choices, choose, night } = useContext()
const { data, refusal, isFetching } = useExposure()
const verdict = computed(() => data.value?.verdicts.find((one) => one.topic === 'Exposure') ?? null)
/** A span or a figure may belong to the card. */
const { shown, opened, price, close } = useWorkings(
  (key) => data.value?.verdicts.find((one) => one.workings.some((each) => each.key === key)) ?? verdict.value,
)
const take = (seconds: number) => void choose({ ...choices.value, sub_school: 'fixed', fixed_sub_s: seconds })
const still = computed(() => data.value?.tracking === 'untracked' && choices.value.sub_school !== 'fixed')
function school(row: Exposure['schools'][number]) {
  if (row.key === 'fixed') take(row.exposure_s)
  else if (row.key === 'pixel' || row.key === 'detailed' || row.key === '500')
    void choose({ ...choices.value, untracked_school: row.key })
  else void choose({ ...choices.value, sub_school: row.key, fixed_sub_s: null })
}
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Working out the sub…"><div class="hold" /></Spin>
  <section v-if="data && verdict" class="sub">
    <VerdictLines :verdicts="[verdict]" @working="shown = ''" />
    <div class="panel left">
      <SubWindow
        :window="data.window"
        :stops="data.stops"
        :at="data.at"
        :stale="isFetching"
        :goal="Number(choices.goal_snr ?? 10)"
        @take="take"
        @working="(key) => (shown = key)" />
    </div>
    <div class="right">
      <VerdictCard :verdict="verdict" :night="night ?? ''" @working="(key) => (shown = key)" />
      <div class="panel schools">
        <h2>{{ still ? 'How long without a tracker' : 'What each school would take' }}</h2>
        <table>
          <thead class="unseen">
            <tr>
              <th scope="col">School</th>
              <th scope="col">Sub</th>
              <th scope="col">{{ still ? 'A star is as long as wide' : 'Kept' }}</th>
              <th scope="col">Price against the best</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in data.schools" :key="row.name" :class="{ chosen: row.chosen }">
              <th scope="row">
                <button type="button" class="plain" @click="school(row)">{{ row.name }}</button>
              </th>
              <td class="number">{{ lengthWords(row.exposure_s) }}</td>
              <td class="number">
                {{ still ? `${number(row.elongation, 2)} × long` : `${Math.round(row.keep * 100)} %` }}
              </td>
              <td>
                <button type="button" class="plain number" @click="price(row.name, row.price)">
                  {{ priceWords(row.price) }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="muted">
          <template v-if="still">A star still looks round up to about 1.3 times as long as wide.</template>
          <template v-else>Worked out for {{ data.axis }}.</template>
          <template v-if="data.wind"> The {{ data.wind }}.</template>
        </p>
      </div>
    </div>
  </section>
  <WorkingDrawer :verdict="opened" :focus="shown ?? ''" @close="close" />
</template>

<style scoped>
.sub {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 372px;
  gap: 8px;
  align-items: stretch;
}
.left {
  padding: 8px 12px;
  display: flex;
  min-width: 0;
}
.right {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.schools {
  padding: 8px 12px;
  font-size: 13px;
}
.schools table {
  width: 100%;
  border-collapse: collapse;
}
.schools th,
.schools td {
  text-align: left;
  font-weight: 400;
  padding: 0 4px;
}
.schools td {
  text-align: right;
  white-space: nowrap;
}
.schools .plain {
  min-height: 24px;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.chosen {
  background: var(--raised);
}
.chosen th .plain {
  font-weight: 600;
}
.hold {
  min-height: 300px;
}
@media (max-width: 1000px) {
  .sub {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
