<script setup lang="ts">
import { Spin } from 'ant-design-vue'
import { computed } from 'vue'

import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import { lengthWords } from '@/instruments/lengths'
import LinePlot from '@/parts/LinePlot.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import { priceWords } from './price'
import { useWorkings } from './useWorkings'

/** ISO, aperture and filter: what the one in hand gives, and what each other would cost in hours. */
const { choices, choose } = useContext()
const { data, refusal } = useExposure()
const { shown, opened, price, close } = useWorkings(
  () => data.value?.verdicts.find((one) => one.topic === 'Exposure') ?? null,
)
const sub = computed(() => (data.value ? lengthWords(data.value.advised_s) : ''))
const lines = computed(() => [
  { name: 'Read noise, e⁻', points: (data.value?.isos ?? []).map((one) => [one.iso, one.read_noise_e] as const) },
  {
    name: 'Range, stops',
    points: (data.value?.isos ?? []).map((one) => [one.iso, one.range_stops] as const),
    right: true,
    dashed: true,
  },
])
const invariant = computed(() => data.value?.isos.find((one) => one.invariant)?.iso)
const mark = computed(() =>
  invariant.value ? { at: invariant.value, name: `ISO-invariant from ${invariant.value}` } : null,
)
const estimated = computed(() => data.value?.isos.some((one) => one.origin === 'book' && !one.between))
const percent = (share: number, decimals = 0) => `${number(share * 100, decimals)} %`
const set = (part: object) => void choose({ ...choices.value, ...part })
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Working out the light…"><div class="hold" /></Spin>
  <section v-if="data" class="light">
    <div class="panel iso">
      <h2>ISO, at subs of {{ sub }}</h2>
      <p v-if="estimated" class="note">
        Read noise and full well are an estimate by the size of the pixels, not this camera’s own; cameras differ by
        half.
        <RouterLink :to="{ name: 'exposure-camera', query: $route.query }">Measure yours</RouterLink> from two flats and
        two bias frames.
      </p>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">ISO</th>
            <th scope="col">Read noise</th>
            <th scope="col">Full well</th>
            <th scope="col">
              <button type="button" class="plain dotted" @click="shown = 'sky_limited'">Sky-limited from</button>
            </th>
            <th scope="col">
              <button type="button" class="plain dotted" @click="shown = 'sky_limited'">Noise added</button>
            </th>
            <th scope="col">
              <button type="button" class="plain dotted" @click="shown = 'histogram'">Sky on camera</button>
            </th>
            <th scope="col">
              <button type="button" class="plain dotted" @click="shown = 'clipping'">Stars clip from</button>
            </th>
            <th scope="col">Hours to S/N {{ choices.goal_snr ?? 10 }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in data.isos" :key="one.iso" :class="{ chosen: one.chosen }" class="number">
            <th scope="row">
              <button type="button" class="plain" @click="set({ iso: one.iso })">{{ one.iso }}</button><small
                v-if="one.between || one.origin !== 'by hand'"
                class="muted">
                {{ one.between ? 'in between' : one.origin === 'book' ? 'estimate' : 'measured' }}</small
              >
            </th>
            <td>{{ number(one.read_noise_e, 2) }} e⁻</td>
            <td>{{ number(one.full_well_e, 0) }} e⁻</td>
            <td :class="{ short: !one.sky_limited }">{{ lengthWords(Math.max(1, Math.round(one.sky_limited_s))) }}</td>
            <td>{{ percent(one.noise_share, 1) }}</td>
            <td>{{ percent(one.back_share) }}</td>
            <td>{{ one.clip_mag == null ? 'all' : `mag ${number(one.clip_mag, 1)}` }}</td>
            <td>
              <button type="button" class="plain dotted" @click="price(`ISO ${one.iso}`, one.price)">
                {{ priceWords(one.price) }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
      <LinePlot
        class="plot"
        :lines="lines"
        x-name="ISO"
        y-name="e⁻"
        right-name="stops"
        steps
        :mark="mark"
        label="Read noise and range of this camera over ISO; the table above holds the figures" />
      <p class="muted">
        Above the point where read noise is flat, more ISO wins nothing and costs a stop of range each time.
      </p>
    </div>
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
      <div class="panel">
        <h2>Filter, under this night’s sky</h2>
        <table class="rows filters">
          <thead>
            <tr>
              <th scope="col">Filter</th>
              <th scope="col"><button type="button" class="plain dotted" @click="shown = 'filter'">Sky</button></th>
              <th scope="col"><button type="button" class="plain dotted" @click="shown = 'filter'">Target</button></th>
              <th scope="col">Tonight</th>
              <th scope="col">Hours</th>
              <th scope="col"><span class="unseen">Does it pay</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data.filters" :key="one.name" :class="{ chosen: one.chosen }" class="number">
              <th scope="row">
                <button
                  v-if="one.whose === 'yours'"
                  type="button"
                  class="plain"
                  @click="set({ filter_name: one.name === 'No filter' ? 'none' : one.name })">
                  {{ one.name }}</button><template v-else
                  >{{ one.name }}<small class="muted">{{ one.whose }}</small></template
                >
              </th>
              <td>
                <button type="button" class="plain dotted" @click="shown = 'filter'">
                  {{ one.sky_stops < 0.05 ? 'all' : `−${number(one.sky_stops, 1)} stops` }}
                </button>
              </td>
              <td>
                {{ percent(one.target_share) }}<small class="muted"> {{ one.colour }}</small>
              </td>
              <td>{{ one.usable_min ? `${number(one.usable_min / 60, 1)} h` : 'no time' }}</td>
              <td>
                <button type="button" class="plain dotted" @click="price(one.name, one.price)">
                  {{ priceWords(one.price) }}
                </button>
              </td>
              <td>{{ one.words }}</td>
            </tr>
          </tbody>
        </table>
        <p class="muted">
          Your own filters, and usual ones you do not own, each with the time this night leaves it: a filter that keeps
          the sky out bears more of the Moon.
        </p>
      </div>
      <div v-if="data.stops[data.at]" class="panel">
        <h2>Where the sky’s peak stands</h2>
        <div
          class="histo"
          role="img"
          :aria-label="`On the camera's histogram ${percent(data.stops[data.at]!.reading.back_share)} from the left: ${data.stops[data.at]!.reading.back_words}`">
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

<style scoped>
.note {
  border-left: 3px solid var(--care);
  padding: 2px 8px;
}
.light {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.panel {
  padding: 8px 12px;
  font-size: 13px;
  min-width: 0;
}
.right {
  display: grid;
  gap: 8px;
}
.rows {
  font-size: 12.5px;
  margin: 4px 0;
}
.rows th,
.rows td {
  padding: 2px 5px;
}
.iso td,
.filters td:not(:last-child) {
  white-space: nowrap;
}
.rows thead th {
  font-size: 11.5px;
  vertical-align: bottom;
}
.rows tbody th .plain {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
small {
  margin-left: 5px;
}
.chosen {
  background: var(--raised);
}
.chosen th .plain {
  font-weight: 700;
}
.short {
  color: var(--care);
}
.plot {
  height: 220px;
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
