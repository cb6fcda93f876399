<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { useRigs, useTrips, type Trip } from '@/composables/useRecords'
import TripEditor from '@/editors/TripEditor.vue'
import NightWeather from '@/parts/NightWeather.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import NothingHere from '@/parts/NothingHere.vue'

import TripNights from './TripNights.vue'

/** Runs of nights, and one of them night by night. */
const { rig, spot, night, choices, change } = useContext()
const { data: trips } = useTrips()
const { data: rigs } = useRigs()
const picked = ref<number | null>(null)
const trip = computed(() => trips.value?.items.find((one) => one.id === picked.value) ?? trips.value?.items[0] ?? null)
const editing = ref<{ record: Trip | null } | null>(null)
const { data, error } = useQuery({
  queryKey: ['trip', computed(() => trip.value?.id), rig, choices],
  queryFn: () =>
    answer(
      api.GET('/api/trips/{record_id}/overview', {
        params: {
          path: { record_id: trip.value?.id ?? 0 },
          query: { rig: rig.value, choices: choices.value as Choices },
        },
      }),
    ),
  enabled: computed(() => trip.value !== null),
  placeholderData: keepPreviousData,
})
const refused = computed(() => (error.value instanceof Refusal ? error.value.message : ''))
const said = (day: string) => dateWords(day, 'named')
const withRigs = computed(() =>
  (rigs.value?.items ?? [])
    .filter((one) => trip.value?.rigs.includes(one.id))
    .map((one) => one.name)
    .join(', '),
)
const shown = ref<string | null>(null)
</script>

<template>
  <section class="trips">
    <NightWeather />
    <div class="acts">
      <Button type="primary" @click="editing = { record: null }">New trip</Button>
      <nav v-if="(trips?.items.length ?? 0) > 1" aria-label="Trips">
        <Button
          v-for="one in trips?.items ?? []"
          :key="one.id"
          size="small"
          :type="one.id === trip?.id ? 'primary' : 'default'"
          @click="picked = one.id"
          >{{ one.name }}</Button
        >
      </nav>
    </div>
    <NothingHere
      v-if="trips && !trips.items.length"
      words="No trip yet. A trip is some nights in a row: darkness, Moon and every target’s time at a glance." />
    <Alert v-if="refused" type="error" show-icon :message="refused" />
    <template v-if="trip">
      <header>
        <h2>{{ trip.name }}</h2>
        <span v-if="withRigs" class="muted">with {{ withRigs }}</span
        ><Button size="small" @click="editing = { record: trip }">Change</Button>
      </header>
      <Spin v-if="!data && !refused" tip="Adding up the nights…"><div class="hold" /></Spin>
      <template v-if="data">
        <div class="wide">
          <table>
            <thead>
              <tr>
                <th scope="col">Night</th>
                <th scope="col">Where</th>
                <th scope="col">Dark</th>
                <th scope="col">Without the Moon</th>
                <th scope="col">Moon</th>
                <th scope="col">Clear</th>
                <th v-for="one in data.nights[0]?.targets ?? []" :key="one.target" scope="col">{{ one.target }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(row, place) in data.nights" :key="row.night">
                <th scope="row">
                  <button
                    type="button"
                    class="plain go"
                    @click="change({ night: row.night, spot: trip.spots[place] ?? spot ?? 0 })">
                    {{ said(row.night) }}
                  </button>
                </th>
                <td>{{ row.spot }}</td>
                <td class="number">{{ row.summary.dark_words }}</td>
                <td class="number">{{ (row.summary.moonless_minutes / 60).toFixed(1) }} h</td>
                <td class="number">{{ Math.round(row.summary.moon_lit_percent) }} % lit</td>
                <td class="number">
                  {{ row.clear_percent == null ? 'not known' : `${Math.round(row.clear_percent)} %` }}
                </td>
                <td v-for="one in row.targets" :key="one.target" class="number">{{ one.words }}</td>
              </tr>
            </tbody>
            <tfoot>
              <tr>
                <th scope="row">In all</th>
                <td />
                <td class="number">
                  <b>{{ data.dark_words }}</b>
                </td>
                <td class="number">
                  <b>{{ data.moonless_words }}</b>
                </td>
                <td />
                <td />
                <td v-for="one in data.nights[0]?.targets ?? []" :key="one.target" />
              </tr>
            </tfoot>
          </table>
        </div>
        <VerdictBrief class="drive" :verdict="data.verdict" @working="(key) => (shown = key)"
          ><p v-if="data.verdict.caution" class="caution">{{ data.verdict.caution }}</p></VerdictBrief
        >
        <TripNights :key="trip.id" :trip="trip" :evenings="data.nights.map((one) => one.night)" />
      </template>
    </template>
    <TripEditor
      :open="editing !== null"
      :record="editing?.record ?? null"
      :night="night"
      :spot="spot"
      @close="editing = null"
      @kept="(kept) => (picked = kept.id)" />
    <WorkingDrawer
      :verdict="shown === null ? null : (data?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.trips {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
/* On a laptop the page stands still; what does not fit scrolls below the tabs. */
@media (min-width: 1001px) {
  .trips {
    max-height: calc(100vh - 124px);
    overflow-y: auto;
    overscroll-behavior: contain;
  }
}
@media print {
  .trips {
    max-height: none;
    overflow: visible;
  }
}
.acts,
nav,
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: baseline;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 4px 12px 4px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}
thead th {
  color: var(--muted);
  font-size: 12.5px;
}
.wide {
  overflow-x: auto;
  flex: none;
}
.go {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.drive {
  max-width: 620px;
}
.caution {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
.hold {
  min-height: 160px;
}
</style>
