<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import { optionsOf, type Choices } from '@/composables/choices'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import { lengthWords } from '@/instruments/lengths'
import Choice from '@/parts/Choice.vue'

import { filterOptions } from './filterOptions'

/** The current setting: each part of it may be left to the school or held by hand. */
const { choices, choose } = useContext()
const { data } = useExposure()
const set = (part: Partial<Choices>) => void choose({ ...choices.value, ...part })
type Option = { value: string | number; label: string }
const AUTO = ''
const SCHOOLS: Option[] = [
  { value: 'best', label: 'most useful signal' },
  { value: 'sky', label: 'sky-limited minimum' },
  { value: 'tracks', label: 'longest that tracks' },
]
/** The camera stands still: its rig has no tracker, or the person leaves it off. */
const still = computed(() => (data.value?.tracking ?? choices.value.tracking) === 'untracked')
const schools = computed<Option[]>(() =>
  choices.value.sub_school === 'fixed'
    ? [...SCHOOLS, { value: 'fixed', label: `held at ${lengthWords(Number(choices.value.fixed_sub_s ?? 0))}` }]
    : still.value
      ? [{ value: choices.value.sub_school ?? 'best', label: 'what the trail allows' }]
      : SCHOOLS,
)
const stops = computed<Option[]>(() => [
  {
    value: AUTO,
    label: `by your school${data.value && choices.value.f_number == null ? `, f/${number(data.value.f_number, 1)}` : ''}`,
  },
  ...(data.value?.apertures ?? []).map((one) => ({
    value: one.f_number,
    label: `f/${Number(one.f_number.toFixed(2))}`,
  })),
])
const isos = computed<Option[]>(() => [
  {
    value: AUTO,
    label: [
      choices.value.sub_school && choices.value.sub_school !== 'best' ? 'lowest sky-limited' : 'most useful',
      ...(data.value && choices.value.iso == null ? [data.value.iso] : []),
    ].join(', '),
  },
  ...(data.value?.isos ?? []).map((one) => ({ value: one.iso, label: `ISO ${one.iso}` })),
])
const filters = computed<Option[]>(() => [{ value: AUTO, label: 'as on the Bench' }, ...filterOptions(data.value)])
const text = (value: unknown) => (typeof value === 'string' || typeof value === 'number' ? value : AUTO)
const number_ = (value: unknown) => (typeof value === 'number' ? value : null)
</script>

<template>
  <section class="bar" aria-label="The current setting">
    <div>
      <label for="set-school">Length</label
      ><Choice
        id="set-school"
        :model-value="choices.sub_school ?? 'best'"
        :options="schools"
        @update:model-value="(value) => set({ sub_school: value })" />
    </div>
    <div>
      <label for="set-f">Aperture</label
      ><Choice
        id="set-f"
        :model-value="text(choices.f_number)"
        :options="stops"
        @update:model-value="(value) => set({ f_number: number_(value) })" />
    </div>
    <div>
      <label for="set-iso">ISO</label
      ><Choice
        id="set-iso"
        :model-value="text(choices.iso)"
        :options="isos"
        @update:model-value="(value) => set({ iso: number_(value) })" />
    </div>
    <div>
      <label for="set-filter">Filter</label
      ><Choice
        id="set-filter"
        :model-value="text(choices.filter_name)"
        :options="filters"
        @update:model-value="(value) => set({ filter_name: value || null })" />
    </div>
    <div v-if="data?.tracker !== false">
      <label for="set-tracking">The camera is</label
      ><Choice
        id="set-tracking"
        :model-value="choices.tracking ?? 'tracked'"
        :options="optionsOf('tracking')"
        @update:model-value="(value) => set({ tracking: value })" />
    </div>
    <div v-if="still">
      <label for="set-untracked">Untracked by</label
      ><Choice
        id="set-untracked"
        :model-value="choices.untracked_school ?? 'pixel'"
        :options="optionsOf('untracked_school')"
        @update:model-value="(value) => set({ untracked_school: value })" />
    </div>
    <div class="narrow">
      <label for="set-wind">Wind</label
      ><Choice
        id="set-wind"
        :model-value="choices.wind_level ?? 'none'"
        :options="optionsOf('wind_level')"
        @update:model-value="(value) => set({ wind_level: value })" />
    </div>
    <Button v-if="choices.sub_school === 'fixed'" class="back" @click="set({ sub_school: 'best', fixed_sub_s: null })"
      >Back to the advice</Button
    >
  </section>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: end;
}
.bar > div {
  flex: 1 1 130px;
  min-width: 0;
  max-width: 230px;
}
.bar > .narrow {
  flex: 0 1 96px;
}
label {
  font-size: 12px;
  color: var(--muted);
}
.back {
  flex: none;
}
</style>
