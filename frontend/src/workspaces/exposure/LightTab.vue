<script setup lang="ts">
import { Spin } from 'ant-design-vue'
import { computed } from 'vue'

import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import { lengthWords, percent } from '@/instruments/lengths'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import FilterPanel from './FilterPanel.vue'
import IsoPanel from './IsoPanel.vue'
import { priceWords } from './price'
import { useWorkings } from './useWorkings'

/** ISO, aperture and filter: what the one in hand gives, and what each other would cost in hours. */
const { choices, choose } = useContext()
const { data, refusal } = useExposure()
const { shown, opened, price, close } = useWorkings(
  () => data.value?.verdicts.find((one) => one.topic === 'Exposure') ?? null,
)
const peak = computed(() => {
  const reading = data.value?.stops[data.value.at]?.reading
  return reading && `On the camera's histogram ${percent(reading.back_share)} from the left: ${reading.back_words}`
})
const set = (part: object) => void choose({ ...choices.value, ...part })
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Working out the light…"><div class="hold" /></Spin>
  <section v-if="data" class="light">
    <IsoPanel
      :data="data"
      :goal="Number(choices.goal_snr ?? 10)"
      @open="(key) => (shown = key)"
      @price="price"
      @set="set" />
    <div class="right">
      <div class="panel">
        <h2>Aperture</h2>
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">f/</th>
              <th scope="col">Corners</th>
              <th scope="col">Ring</th>
              <th scope="col"><button type="button" class="plain dotted" @click="shown = 'advice'">Sub</button></th>
              <th scope="col">Hours</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data.apertures" :key="one.f_number" :class="{ chosen: one.chosen }" class="number">
              <th scope="row">
                <button type="button" class="plain" @click="set({ f_number: one.f_number })">
                  {{ Number(one.f_number.toFixed(2)) }}</button><small class="muted">
                  {{ one.stops < 0.05 ? 'open' : `−${number(one.stops, 1)} stops` }}</small
                >
              </th>
              <td>{{ one.corners }}</td>
              <td>{{ number(one.ring_mm, 0) }} mm</td>
              <td>{{ lengthWords(one.exposure_s) }}</td>
              <td>
                <button
                  type="button"
                  class="plain dotted"
                  @click="price(`f/${Number(one.f_number.toFixed(2))}`, one.price)">
                  {{ priceWords(one.price) }}
                </button>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="muted">
          By the iris bright stars grow spikes; a ring in front of that clear diameter keeps them round, from about 85
          mm on.
        </p>
      </div>
      <FilterPanel :rows="data.filters" @open="shown = 'filter'" @price="price" @set="set" />
      <div v-if="data.stops[data.at]" class="panel">
        <h2>Where the sky’s peak stands</h2>
        <div class="histo" role="img" :aria-label="peak">
          <i class="usual" /><i class="peak" :style="{ left: `${data.stops[data.at]!.reading.back_share * 100}%` }" />
        </div>
        <p>
          <button type="button" class="plain dotted number" @click="shown = 'histogram'">
            {{ percent(data.stops[data.at]!.reading.back_share) }} from the left on the camera,
            {{ percent(data.stops[data.at]!.reading.background_share, 1) }} of clip in raw,
            {{ number(data.stops[data.at]!.reading.raw_level, 0) }} counts above black</button
          >: {{ data.stops[data.at]!.reading.back_words }}.
        </p>
      </div>
    </div>
  </section>
  <WorkingDrawer :verdict="opened" :focus="shown ?? ''" @close="close" />
</template>

<style scoped src="./ways.css"></style>

<style scoped>
.light {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.right {
  display: grid;
  gap: 8px;
}
.histo {
  position: relative;
  height: 34px;
  margin: 6px 0;
  background: linear-gradient(90deg, var(--ground), var(--raised));
  border: 1px solid var(--line);
  border-radius: 4px;
}
.usual {
  position: absolute;
  left: 25%;
  width: 8.4%;
  top: 0;
  bottom: 0;
  background: var(--accent);
  opacity: 0.25;
}
.peak {
  position: absolute;
  top: -3px;
  bottom: -3px;
  width: 3px;
  margin-left: -1px;
  background: var(--text);
}
.hold {
  min-height: 300px;
}
@media (max-width: 1000px) {
  .light {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
