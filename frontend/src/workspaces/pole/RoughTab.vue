<script setup lang="ts">
import { Spin } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'

import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { showFaults } from '@/composables/useFaults'
import { useNeed, useRough, type RoughAsked } from '@/composables/usePole'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** By day and at dusk: azimuth, level, altitude, fine azimuth; nothing here asks for the pole to be in sight. */
const { night } = useContext()
const { data: need } = useNeed()
const read = reactive<RoughAsked>({
  tick_deg: null,
  label_deg: 15,
  first_deg: null,
  second_deg: null,
  near_deg: null,
  away_deg: null,
  body: 'sun',
  at: null,
  landmark: '',
  azimuth_way: 'one compass',
  altitude_way: 'latitude scale',
})
const asked = computed<RoughAsked>(
  () => Object.fromEntries(Object.entries(read).filter(([, value]) => value !== null && value !== '')) as RoughAsked,
)
const { data, refusal } = useRough(asked)
showFaults(computed(() => refusal.value?.list ?? []))
const shown = ref<{ verdict: 'check' | 'serves'; key: string } | null>(null)
const SIGHTED = 'sighted at the pole star'
/** What needs the pole in sight is offered where it is. */
const offered = (ways: string[]) =>
  ways.filter((way) => way !== SIGHTED || !data.value?.pole_hidden).map((value) => ({ value, label: value }))
const azimuths = computed(() =>
  offered(['one compass', 'two compasses that agree', 'Sun, shadow or landmark', SIGHTED]),
)
const altitudes = computed(() => offered(['latitude scale', 'inclinometer', SIGHTED]))
/** A second reading that agrees makes the azimuth better by itself; one that does not, takes it back. */
watch(
  () => data.value?.check?.level,
  (level) => {
    if (level === 'go') read.azimuth_way = 'two compasses that agree'
    else if (level && read.azimuth_way === 'two compasses that agree') read.azimuth_way = 'one compass'
  },
)
const lines = computed(() => (data.value?.lines ?? []).filter((one) => one.altitude_deg > 0).slice(0, 6))
</script>

<template>
  <FormFaults />
  <Spin v-if="!data && !refusal" tip="Looking up bearings…"><div class="hold" /></Spin>
  <section v-if="data" class="rough">
    <ol class="steps">
      <li class="panel">
        <h2>1 · Azimuth, roughly</h2>
        <p class="say">{{ data.bearings.words }}</p>
        <div class="fields">
          <Field
            v-model="read.first_deg"
            path="first_deg"
            label="Compass one reads"
            unit="°"
            hint="along the tracker's edge" />
          <Field
            v-model="read.second_deg"
            path="second_deg"
            label="Compass two reads"
            unit="°"
            hint="along the same edge" />
          <Field
            v-model="read.near_deg"
            path="near_deg"
            label="At the tracker"
            unit="°"
            hint="one of them, to a far mark" />
          <Field v-model="read.away_deg" path="away_deg" label="Three steps away" unit="°" hint="the same, same mark" />
        </div>
        <VerdictBrief v-if="data.check" :verdict="data.check" @working="(key) => (shown = { verdict: 'check', key })" />
      </li>
      <li class="panel">
        <h2>2 · Level</h2>
        <p class="muted">
          Legs first, then the bubble. Once the axis points at the pole, level no longer matters; it only keeps the two
          screws from leaking into one another.
        </p>
      </li>
      <li class="panel">
        <h2>3 · Altitude</h2>
        <p class="say">
          Inclinometer on the axis: <b class="number">{{ number(data.inclinometer_deg, 2) }}°</b>.<template
            v-if="data.scale">
            Latitude scale: <b>{{ data.scale }}</b>.</template
          >
        </p>
        <div class="fields">
          <Field
            v-model="read.tick_deg"
            path="tick_deg"
            label="A tick every"
            unit="°"
            :hint="data.scale ? '' : 'for the scale in words'"
            placeholder="as noted for the tracker" />
          <Field v-model="read.label_deg" path="label_deg" label="A figure every" unit="°" />
        </div>
      </li>
      <li class="panel">
        <h2>How far it serves</h2>
        <div class="fields two">
          <Field
            v-model="read.azimuth_way"
            path="azimuth_way"
            label="Azimuth was set by"
            kind="choice"
            :options="azimuths" />
          <Field
            v-model="read.altitude_way"
            path="altitude_way"
            label="Altitude was set by"
            kind="choice"
            :options="altitudes" />
        </div>
      </li>
    </ol>
    <ol class="steps" start="4">
      <li class="panel">
        <h2>4 · Azimuth, finer, without a compass</h2>
        <p class="say">{{ data.noon.words }}</p>
        <div class="fields">
          <Field
            v-model="read.body"
            path="body"
            label="Line of the"
            kind="choice"
            :options="[
              { value: 'sun', label: 'Sun’s shadow' },
              { value: 'moon', label: 'Moon' },
            ]" />
          <Field
            v-model="read.at"
            path="setup_time"
            kind="text"
            label="From, local time"
            placeholder="now"
            hint="like 18:30" />
          <Field
            v-model="read.landmark"
            path="landmark"
            kind="text"
            class="wide"
            label="A landmark's coordinates"
            placeholder="-24.60, 16.99"
            :hint="
              data.landmark_deg === null
                ? 'its bearing appears here'
                : `true ${number(data.landmark_deg, 1)}°, on a magnetic compass ${number(data.landmark_magnetic_deg ?? 0, 1)}°`
            " />
        </div>
        <p v-if="!lines.length" class="muted">
          The {{ read.body === 'sun' ? 'Sun' : 'Moon' }} is down in the three hours from then.
        </p>
        <table v-else class="number">
          <thead>
            <tr>
              <th scope="col">Time</th>
              <th scope="col">True azimuth</th>
              <th scope="col">Shadow towards</th>
              <th scope="col">High</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in lines" :key="one.moment">
              <td>{{ one.clock }}</td>
              <td>{{ number(one.azimuth_deg, 1) }}°</td>
              <td>{{ number((one.azimuth_deg + 180) % 360, 1) }}°</td>
              <td>{{ number(one.altitude_deg, 0) }}°</td>
            </tr>
          </tbody>
        </table>
      </li>
      <li class="bare">
        <VerdictCard
          :verdict="data.serves"
          :night="night ?? ''"
          @working="(key) => (shown = { verdict: 'serves', key })"
          ><p v-if="need" class="muted">Needed: {{ number(need.need.tolerance_arcmin, 1) }}′.</p></VerdictCard
        >
      </li>
    </ol>
  </section>
  <WorkingDrawer
    :verdict="shown ? (data?.[shown.verdict] ?? null) : null"
    :focus="shown?.key ?? ''"
    @close="shown = null" />
</template>

<style scoped>
.rough {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  align-items: start;
}
.steps {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
li {
  padding: 8px 12px;
  display: grid;
  gap: 6px;
}
li.bare {
  padding: 0;
}
h2 {
  color: var(--accent);
  font-size: 14px;
}
.say {
  font-size: 14.5px;
  line-height: 1.35;
}
.fields {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 4px 10px;
}
.fields.two {
  grid-template-columns: 1fr 1fr;
}
.wide {
  grid-column: span 2;
}
table {
  border-collapse: collapse;
  font-size: 13px;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--muted);
}
td,
th {
  padding: 1px 14px 1px 0;
  border-bottom: 1px solid var(--line);
}
.hold {
  min-height: 160px;
}
@media (max-width: 1000px) {
  .rough,
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
