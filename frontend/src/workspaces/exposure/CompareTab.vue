<script setup lang="ts">
import { Alert } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Choices } from '@/composables/choices'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure, type Exposure } from '@/composables/useExposure'
import { useFaults } from '@/composables/useFaults'
import { lengthWords } from '@/instruments/lengths'
import Field from '@/parts/Field.vue'

/** The setting in hand beside another one, on the same target and night. */
const { choices } = useContext()
const { data: left } = useExposure()
const other = ref<{ exposure_s: number | string | null; f_number: number | string | null; iso: number | string | null; filter_name: string | null; tracking: string | null; wind_level: string | null }>({ exposure_s: null, f_number: null, iso: null, filter_name: null, tracking: null, wind_level: null })
const changed = computed<Partial<Choices>>(() => {
  const { exposure_s, ...rest } = other.value
  const found: Record<string, unknown> = Object.fromEntries(Object.entries(rest).filter(([, value]) => value !== null && value !== ''))
  if (exposure_s !== null && exposure_s !== '') Object.assign(found, { sub_school: 'fixed', fixed_sub_s: exposure_s })
  return found as Partial<Choices>
})
const { data: right, refusal } = useExposure(changed)
const { faults } = useFaults(computed(() => {
  const found = refusal.value?.faults ?? {}
  return found.fixed_sub_s ? { ...found, exposure_s: found.fixed_sub_s } : found
}))
void faults
const told = computed(() => (refusal.value?.list ?? []).filter((one) => !(one.field in other.value) && one.field !== 'fixed_sub_s'))
const filters = computed(() => [{ value: null, label: 'the same' }, ...(left.value?.filters ?? []).map((one) => ({ value: one.name === 'No filter' ? 'none' : one.name, label: one.name }))])
const percent = (share: number, decimals = 0) => `${number(share * 100, decimals)} %`
function column(one: Exposure | undefined): string[] {
  const stop = one?.stops[one.at]
  if (!one || !stop) return []
  const { reading } = stop
  return [
    `f/${number(one.f_number, 1)}`, `ISO ${one.iso}`, lengthWords(reading.exposure_s), percent(reading.keep), percent(reading.noise_share, 1),
    `${percent(reading.background_share, 1)} of clip, ${percent(reading.back_share)} from the left`, reading.clip_mag == null ? 'all' : `mag ${number(reading.clip_mag, 1)}`, percent(reading.useful),
    `${stop.frames}, ${stop.kept_frames} kept`, `${number(stop.storage_gb, 1)} GB`, number(stop.snr, 1), stop.hours == null ? 'out of reach' : `${number(stop.hours, 1)} h`,
    one.verdicts.find((each) => each.topic === 'Exposure')?.binding ?? '',
  ]
}
const NAMES = computed(() => ['Aperture', 'ISO', 'Sub', 'Kept', 'Read noise adds', 'Sky', 'Stars clip from', 'Useful signal, of the best', 'Frames tonight', 'Storage', 'Signal to noise tonight', `Hours to ${choices.value.goal_snr ?? 10}`, 'Decides'])
const columns = computed(() => [column(left.value), column(right.value)] as const)
</script>

<template>
  <section class="compare">
    <div class="panel given">
      <h2>Against the setting in hand</h2>
      <p class="muted">Change one thing or several; what stays empty is the same.</p>
      <Alert v-if="told.length" type="error" show-icon :message="told.map((one) => one.message).join(' ')" />
      <Field v-model="other.exposure_s" path="exposure_s" label="Sub" unit="s" placeholder="the school’s" />
      <Field v-model="other.f_number" path="f_number" label="f-number" placeholder="the same" />
      <Field v-model="other.iso" path="iso" label="ISO" placeholder="the same" />
      <Field v-model="other.filter_name" path="filter_name" label="Filter" kind="choice" :options="filters" />
      <Field v-model="other.tracking" path="tracking" label="The camera is" kind="choice" :options="[{ value: null, label: 'the same' }, { value: 'tracked', label: 'tracked' }, { value: 'guided in RA', label: 'guided in RA' }, { value: 'guided', label: 'guided, both axes' }, { value: 'untracked', label: 'standing still' }]" />
      <Field v-model="other.wind_level" path="wind_level" label="Wind" kind="choice" :options="[{ value: null, label: 'the same' }, { value: 'none', label: 'none' }, { value: 'light', label: 'light' }, { value: 'fresh', label: 'fresh' }, { value: 'strong', label: 'strong' }]" />
    </div>
    <div class="panel table">
      <table class="rows">
        <thead><tr><th scope="col"><span class="unseen">Figure</span></th><th scope="col">In hand</th><th scope="col">The other</th></tr></thead>
        <tbody><tr v-for="(name, place) in NAMES" :key="name" :class="{ differs: columns[0][place] !== columns[1][place] }"><th scope="row">{{ name }}</th><td class="number">{{ columns[0][place] }}</td><td class="number">{{ columns[1][place] }}</td></tr></tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.compare { display: grid; grid-template-columns: 300px minmax(0, 1fr); gap: 8px; align-items: start; }
.given, .table { padding: 10px 14px; display: grid; gap: 6px; }
.rows { font-size: 15px; }
.rows th, .rows td { padding: 5px 10px; }
.differs td { font-weight: 600; }
.differs td:last-child { color: var(--accent); }
@media (max-width: 900px) { .compare { grid-template-columns: 1fr; } }
</style>
