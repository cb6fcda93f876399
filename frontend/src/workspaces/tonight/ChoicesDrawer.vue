<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Faults } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import type { Rig } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

/** How this person works. Empty fields stand at the default that is shown in grey. */
const props = defineProps<{ open: boolean; rig: Rig | null; refused: Faults }>()
const emit = defineEmits<{ close: [] }>()
const { choices, choose } = useContext()
const { faults } = useFaults()
const draft = ref<Partial<Choices>>({})

watch(() => props.open, (open) => { if (open) draft.value = { ...choices.value } }, { immediate: true })
watch(() => props.refused, (refused) => (faults.value = refused), { immediate: true })

const isoOptions = computed(() => [
  { value: null, label: 'Lowest that stays sky-limited' },
  ...(props.rig?.camera.iso_steps ?? []).map((step) => ({ value: step.iso, label: `ISO ${step.iso}` })),
])
const SHOWN = ['payload_school', 'payload_percent', 'darkness', 'min_altitude_deg', 'moon_limit_mag', 'pole', 'setup_time', 'alignment_arcmin', 'elongation_limit', 'keep_percent', 'noise_percent', 'ceiling_percent', 'f_number', 'sub_school', 'fixed_sub_s', 'iso', 'gap_s', 'delay_s', 'convention', 'card_gb', 'darks']

async function save() {
  await choose(draft.value)
  // The answer decides: with nothing refused there is nothing left to do here.
  if (!Object.keys(props.refused).length) emit('close')
}
function reset() {
  draft.value = {}
}
</script>

<template>
  <FormDrawer :open="open" title="How you work" :busy="false" :shown="SHOWN" save-word="Use these" @close="emit('close')" @save="save">
    <p class="muted">Practitioners differ; these are your schools and figures. An empty field stands at the default shown in grey.
      <button type="button" class="plain reset" @click="reset">All back to defaults</button></p>
    <fieldset><legend>Exposure</legend><div class="grid">
      <Field v-model="draft.sub_school" path="sub_school" label="Length of a sub" kind="choice" :options="[{ value: 'best', label: 'Most useful signal per hour' }, { value: 'sky', label: 'Sky-limited minimum' }, { value: 'tracks', label: 'Longest that tracks' }, { value: 'fixed', label: 'A fixed habit' }]" />
      <Field v-model="draft.fixed_sub_s" path="fixed_sub_s" label="The habit" unit="s" placeholder="120" />
      <Field v-model="draft.f_number" path="f_number" label="f-number" :placeholder="rig ? `${rig.lens.f_best}, best corners` : ''" />
      <Field v-model="draft.iso" path="iso" label="ISO" kind="choice" :options="isoOptions" />
      <Field v-model="draft.keep_percent" path="keep_percent" label="Frames to keep" unit="%" placeholder="90" />
      <Field v-model="draft.elongation_limit" path="elongation_limit" label="Round up to an axis ratio of" placeholder="1.3" hint="1.15 strict, 1.3 usual, 1.5 relaxed" />
      <Field v-model="draft.noise_percent" path="noise_percent" label="Read noise may add" unit="%" placeholder="5" />
      <Field v-model="draft.ceiling_percent" path="ceiling_percent" label="Sky may fill" unit="% of clip" placeholder="20" />
    </div></fieldset>
    <fieldset><legend>Pole</legend><div class="grid">
      <Field v-model="draft.alignment_arcmin" path="alignment_arcmin" label="Axis error you expect" unit="′" placeholder="5" />
      <Field v-model="draft.setup_time" path="setup_time" label="Set-up at, local time" kind="text" placeholder="45 min before dark" />
      <Field v-model="draft.pole" path="pole" label="Aim at the pole" kind="choice" :options="[{ value: 'refracted', label: 'as seen, refracted' }, { value: 'true', label: 'true' }]" />
    </div></fieldset>
    <fieldset><legend>Window</legend><div class="grid">
      <Field v-model="draft.darkness" path="darkness" label="Dark from" kind="choice" :options="[{ value: 'astronomical', label: 'astronomical, Sun −18°' }, { value: 'nautical', label: 'nautical, Sun −12°' }]" />
      <Field v-model="draft.min_altitude_deg" path="min_altitude_deg" label="Lowest altitude" unit="°" placeholder="25" />
      <Field v-model="draft.moon_limit_mag" path="moon_limit_mag" label="The Moon may add" unit="mag/arcsec²" placeholder="0.5" />
    </div></fieldset>
    <fieldset><legend>Payload</legend><div class="grid">
      <Field v-model="draft.payload_school" path="payload_school" label="Load the tracker to" kind="choice" :options="[{ value: 'half', label: '50 % of its rating' }, { value: 'sixty', label: '60 % of its rating' }, { value: 'full', label: 'its full rating' }, { value: 'own', label: 'a share of my own' }]" />
      <Field v-model="draft.payload_percent" path="payload_percent" label="Own share" unit="%" placeholder="70" />
    </div></fieldset>
    <fieldset><legend>Timer and card</legend><div class="grid">
      <Field v-model="draft.convention" path="convention" label="Interval means" kind="choice" :options="[{ value: 'gap', label: 'the pause between' }, { value: 'start to start', label: 'from start to start' }]" />
      <Field v-model="draft.gap_s" path="gap_s" label="Gap" unit="s" placeholder="2" />
      <Field v-model="draft.delay_s" path="delay_s" label="Delay" unit="s" placeholder="10" />
      <Field v-model="draft.card_gb" path="card_gb" label="Memory card" unit="GB" placeholder="64" />
      <Field v-model="draft.darks" path="darks" label="Darks" placeholder="20" />
    </div></fieldset>
  </FormDrawer>
</template>

<style scoped>
.reset { color: var(--accent); text-decoration: underline; }
</style>
