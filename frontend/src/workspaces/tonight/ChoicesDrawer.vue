<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { Faults } from '@/api/client'
import { CHOICES, type ChoiceName, type Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import type { Rig } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

/** How this person works. Empty fields stand at the default that is shown in grey. */
const props = defineProps<{ open: boolean; rig: Rig | null; refused: Faults; settled: () => Promise<boolean> }>()
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
const SHOWN = Object.keys(CHOICES)
/** What a field needs to know about its choice. */
function of(name: ChoiceName) {
  const { kind, label, ...rest } = CHOICES[name]
  return { path: name, label, kind: kind === 'number' ? ('number' as const) : ('text' as const), ...rest }
}

async function save() {
  await choose(draft.value)
  if (await props.settled()) emit('close')
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
      <Field v-model="draft.sub_school" v-bind="of('sub_school')" kind="choice" :options="[{ value: 'best', label: 'Most useful signal per hour' }, { value: 'sky', label: 'Sky-limited minimum' }, { value: 'tracks', label: 'Longest that tracks' }, { value: 'fixed', label: 'A fixed habit' }]" />
      <Field v-model="draft.fixed_sub_s" v-bind="of('fixed_sub_s')" placeholder="120" />
      <Field v-model="draft.f_number" v-bind="of('f_number')" :placeholder="rig ? `${rig.lens.f_best}, best corners` : ''" />
      <Field v-model="draft.iso" v-bind="of('iso')" kind="choice" :options="isoOptions" />
      <Field v-model="draft.keep_percent" v-bind="of('keep_percent')" placeholder="90" />
      <Field v-model="draft.elongation_limit" v-bind="of('elongation_limit')" placeholder="1.3" hint="1.15 strict, 1.3 usual, 1.5 relaxed" />
      <Field v-model="draft.noise_percent" v-bind="of('noise_percent')" placeholder="5" />
      <Field v-model="draft.ceiling_percent" v-bind="of('ceiling_percent')" placeholder="20" />
    </div></fieldset>
    <fieldset><legend>Pole</legend><div class="grid">
      <Field v-model="draft.alignment_arcmin" v-bind="of('alignment_arcmin')" placeholder="5" />
      <Field v-model="draft.setup_time" v-bind="of('setup_time')" placeholder="45 min before dark" />
      <Field v-model="draft.pole" v-bind="of('pole')" kind="choice" :options="[{ value: 'refracted', label: 'as seen, refracted' }, { value: 'true', label: 'true' }]" />
    </div></fieldset>
    <fieldset><legend>Window</legend><div class="grid">
      <Field v-model="draft.darkness" v-bind="of('darkness')" kind="choice" :options="[{ value: 'astronomical', label: 'astronomical, Sun −18°' }, { value: 'nautical', label: 'nautical, Sun −12°' }]" />
      <Field v-model="draft.min_altitude_deg" v-bind="of('min_altitude_deg')" placeholder="25" />
      <Field v-model="draft.moon_limit_mag" v-bind="of('moon_limit_mag')" placeholder="0.5" />
    </div></fieldset>
    <fieldset><legend>Payload</legend><div class="grid">
      <Field v-model="draft.payload_school" v-bind="of('payload_school')" kind="choice" :options="[{ value: 'sixty', label: '60 % of its rating' }, { value: 'half', label: '50 % of its rating' }, { value: 'full', label: 'its full rating' }, { value: 'own', label: 'a share of my own' }]" />
      <Field v-model="draft.payload_percent" v-bind="of('payload_percent')" placeholder="70" />
    </div></fieldset>
    <fieldset><legend>Timer and card</legend><div class="grid">
      <Field v-model="draft.convention" v-bind="of('convention')" kind="choice" :options="[{ value: 'gap', label: 'the pause between' }, { value: 'start to start', label: 'from start to start' }]" />
      <Field v-model="draft.gap_s" v-bind="of('gap_s')" placeholder="2" />
      <Field v-model="draft.delay_s" v-bind="of('delay_s')" placeholder="10" />
      <Field v-model="draft.card_gb" v-bind="of('card_gb')" placeholder="64" />
      <Field v-model="draft.darks" v-bind="of('darks')" placeholder="20" />
    </div></fieldset>
  </FormDrawer>
</template>

<style scoped>
.reset { color: var(--accent); text-decoration: underline; }
</style>
