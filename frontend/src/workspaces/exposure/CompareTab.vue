<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Choices } from '@/composables/choices'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure, type Exposure } from '@/composables/useExposure'
import { showFaults } from '@/composables/useFaults'
import { lengthWords } from '@/instruments/lengths'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import { filterOptions } from './filterOptions'

/** The current setting beside another one, on the same target and night. */
const { choices } = useContext()
const { data: left } = useExposure()
const other = ref<{
  exposure_s: number | string | null
  f_number: number | string | null
  iso: number | string | null
  filter_name: string | null
  tracking: string | null
  wind_level: string | null
}>({ exposure_s: null, f_number: null, iso: null, filter_name: null, tracking: null, wind_level: null })
const changed = computed<Partial<Choices>>(() => {
  const { exposure_s, ...rest } = other.value
  const found: Record<string, unknown> = Object.fromEntries(
    Object.entries(rest).filter(([, value]) => value !== null && value !== ''),
  )
  if (exposure_s !== null && exposure_s !== '') Object.assign(found, { sub_school: 'fixed', fixed_sub_s: exposure_s })
  return found as Partial<Choices>
})
const { data: right, refusal } = useExposure(changed)
/** The sub of the other column is a habit for the server. */
showFaults(
  computed(() =>
    (refusal.value?.list ?? []).map((one) => (one.field === 'fixed_sub_s' ? { ...one, field: 'exposure_s' } : one)),
  ),
)
const filters = computed(() => [{ value: null, label: 'the same' }, ...filterOptions(left.value)])
const percent = (share: number, decimals = 0) => `${number(share * 100, decimals)} %`
type Stop = Exposure['stops'][number]
/** What stands side by side: a name, the working it opens, and its words in one column. */
const rows = computed<{ name: string; key?: string; words: (one: Exposure, stop: Stop) => string }[]>(() => [
  { name: 'Aperture', words: (one) => `f/${number(one.f_number, 1)}` },
  { name: 'ISO', words: (one) => `ISO ${one.iso}` },
  { name: 'Sub', key: 'advice', words: (_, stop) => lengthWords(stop.reading.exposure_s) },
  { name: 'Kept', key: 'keep', words: (_, stop) => percent(stop.reading.keep) },
  { name: 'Read noise adds', key: 'sky_limited', words: (_, stop) => percent(stop.reading.noise_share, 1) },
  {
    name: 'Sky',
    key: 'histogram',
    words: (_, stop) =>
      `${percent(stop.reading.background_share, 1)} of clip, ${percent(stop.reading.back_share)} from the left`,
  },
  {
    name: 'Stars clip from',
    key: 'clipping',
    words: (_, stop) => (stop.reading.clip_mag == null ? 'all' : `mag ${number(stop.reading.clip_mag, 1)}`),
  },
  { name: 'Useful signal, of the best', key: 'advice', words: (_, stop) => percent(stop.reading.useful) },
  { name: 'Frames tonight', key: 'frames', words: (_, stop) => `${stop.frames}, ${stop.kept_frames} kept` },
  { name: 'Storage', key: 'storage', words: (_, stop) => `${number(stop.storage_gb, 1)} GB` },
  { name: 'Signal to noise tonight', key: 'snr', words: (_, stop) => number(stop.snr, 1) },
  {
    name: `Hours to ${choices.value.goal_snr ?? 10}`,
    key: 'hours',
    words: (_, stop) => (stop.hours == null ? 'out of reach' : `${number(stop.hours, 1)} h`),
  },
  { name: 'Decides', words: (one) => one.verdicts.find((each) => each.topic === 'Exposure')?.binding ?? '' },
])
const sides = computed(() =>
  [left.value, right.value].map((one) => {
    const stop = one?.stops[one.at]
    return { words: one && stop ? rows.value.map((row) => row.words(one, stop)) : [], verdicts: one?.verdicts ?? [] }
  }),
)
const shown = ref<{ side: number; key: string } | null>(null)
const opened = computed(
  () =>
    sides.value[shown.value?.side ?? 0]?.verdicts.find((one) =>
      one.workings.some((each) => each.key === shown.value?.key),
    ) ?? null,
)
</script>

<template>
  <section class="compare">
    <div class="panel given">
      <h2>Against the current setting</h2>
      <p class="muted">Change one thing or several; what stays empty is the same.</p>
      <FormFaults />
      <Field v-model="other.exposure_s" path="exposure_s" label="Sub" unit="s" placeholder="the school’s" />
      <Field v-model="other.f_number" path="f_number" label="f-number" placeholder="the same" />
      <Field v-model="other.iso" path="iso" label="ISO" placeholder="the same" />
      <Field v-model="other.filter_name" path="filter_name" label="Filter" kind="choice" :options="filters" />
      <Field
        v-model="other.tracking"
        path="tracking"
        label="The camera is"
        kind="choice"
        :options="[
          { value: null, label: 'the same' },
          { value: 'tracked', label: 'tracked' },
          { value: 'guided in RA', label: 'guided in RA' },
          { value: 'guided', label: 'guided, both axes' },
          { value: 'untracked', label: 'standing still' },
        ]" />
      <Field
        v-model="other.wind_level"
        path="wind_level"
        label="Wind"
        kind="choice"
        :options="[
          { value: null, label: 'the same' },
          { value: 'none', label: 'none' },
          { value: 'light', label: 'light' },
          { value: 'fresh', label: 'fresh' },
          { value: 'strong', label: 'strong' },
        ]" />
    </div>
    <div class="panel table">
      <table class="rows">
        <thead>
          <tr>
            <th scope="col"><span class="unseen">Figure</span></th>
            <th scope="col">Current</th>
            <th scope="col">The other</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="(row, place) in rows"
            :key="row.name"
            :class="{ differs: sides[0]?.words[place] !== sides[1]?.words[place] }">
            <th scope="row">{{ row.name }}</th>
            <td v-for="(one, side) in sides" :key="side" class="number">
              <button v-if="row.key" type="button" class="plain dotted" @click="shown = { side, key: row.key }">
                {{ one.words[place] }}</button><template v-else>{{ one.words[place] }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
  <WorkingDrawer :verdict="shown === null ? null : opened" :focus="shown?.key ?? ''" @close="shown = null" />
</template>

<style scoped>
.compare {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.given,
.table {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
}
.rows {
  font-size: 15px;
}
.rows th,
.rows td {
  padding: 5px 10px;
}
.differs td {
  font-weight: 600;
}
.differs td:last-child {
  color: var(--accent);
}
@media (max-width: 900px) {
  .compare {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
