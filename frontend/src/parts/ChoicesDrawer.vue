<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import type { Faults } from '@/api/client'
import { CHOICES, TRACKINGS, UNTRACKED, WINDS, type ChoiceName, type Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useHabits, useKeepHabits, type Habits, type Rig } from '@/composables/useRecords'

import Field from './Field.vue'
import FormDrawer from './FormDrawer.vue'

/** How this person works. Empty fields stand at the default that is shown in grey. */
const props = defineProps<{ open: boolean; rig: Rig | null; refused: Faults; settled: () => Promise<boolean>; focus: ChoiceName | null }>()
const emit = defineEmits<{ close: [] }>()
const { choices, choose } = useContext()
const { faults, busy, attempt } = useFaults()
const draft = ref<Partial<Choices>>({})
const { data: habits } = useHabits()
const { keepUnits, remember } = useKeepHabits()
type Units = Pick<Habits, 'mass_unit' | 'length_unit' | 'carry_limit'>
const units = ref<Units>({ mass_unit: 'g', length_unit: 'mm', carry_limit: '' })
const remembered = ref(true)

watch(() => props.open, (open) => {
  if (!open) return
  draft.value = { ...choices.value }
  if (habits.value) units.value = { mass_unit: habits.value.mass_unit, length_unit: habits.value.length_unit, carry_limit: habits.value.carry_limit }
}, { immediate: true })
/** Whoever comes for one field is led to it. */
const sheet = ref<HTMLElement | null>(null)
watch(() => props.open && props.focus, async (name) => {
  if (!name) return
  await new Promise((done) => setTimeout(done, 350))
  const label = [...(sheet.value?.querySelectorAll('label') ?? [])].find((one) => one.textContent?.startsWith(CHOICES[name].label))
  document.getElementById(label?.getAttribute('for') ?? '')?.focus()
})
watch(() => props.refused, (refused) => (faults.value = refused), { immediate: true })

const isoOptions = computed(() => [
  { value: null, label: 'Most useful, or lowest that stays sky-limited' },
  ...(props.rig?.isos ?? []).map((iso) => ({ value: iso, label: `ISO ${iso}` })),
])
const SHOWN = [...Object.keys(CHOICES), 'carry_limit']
/** What a field needs to know about its choice. */
function of(name: ChoiceName) {
  const { kind, label, ...rest } = CHOICES[name]
  return { path: name, label, kind: kind === 'number' ? ('number' as const) : ('text' as const), ...rest }
}

/** Figures are tried out first; only what the server takes is remembered. */
async function save() {
  await choose(draft.value)
  if (!(await props.settled())) return
  const done = await attempt(async () => {
    // Left as it was, the limit is sent in grams, so that a change of units does not change what it means.
    const same = units.value.carry_limit === habits.value?.carry_limit
    await keepUnits({ ...units.value, carry_limit: same && habits.value ? habits.value.carry_limit_g : units.value.carry_limit })
    if (remembered.value) await remember(draft.value)
  })
  if (done) emit('close')
}
function reset() {
  draft.value = {}
}
</script>

<template>
  <FormDrawer :open="open" title="How you work" :busy="busy" :shown="SHOWN" save-word="Use these" @close="emit('close')" @save="save">
    <div ref="sheet" class="sheet">
    <p class="muted">Practitioners differ; these are your schools and figures. An empty field stands at the default shown in grey.
      <button type="button" class="plain reset" @click="reset">All back to defaults</button></p>
    <fieldset><legend>Exposure</legend><div class="grid">
      <Field v-model="draft.sub_school" v-bind="of('sub_school')" kind="choice" :options="[{ value: 'best', label: 'Most useful signal per hour' }, { value: 'sky', label: 'Sky-limited minimum' }, { value: 'tracks', label: 'Longest that tracks' }, { value: 'fixed', label: 'A fixed habit' }]" />
      <Field v-model="draft.fixed_sub_s" v-bind="of('fixed_sub_s')" placeholder="120" />
      <Field v-model="draft.f_number" v-bind="of('f_number')" :placeholder="rig?.f_best ? `${rig.f_best}, best corners` : ''" />
      <Field v-model="draft.iso" v-bind="of('iso')" kind="choice" :options="isoOptions" />
      <Field v-model="draft.keep_percent" v-bind="of('keep_percent')" placeholder="90" />
      <Field v-model="draft.elongation_limit" v-bind="of('elongation_limit')" placeholder="1.3" hint="1.15 strict, 1.3 usual, 1.5 relaxed" />
      <Field v-model="draft.noise_percent" v-bind="of('noise_percent')" placeholder="5" />
      <Field v-model="draft.ceiling_percent" v-bind="of('ceiling_percent')" placeholder="20" />
      <Field v-model="draft.tracking" v-bind="of('tracking')" kind="choice" :options="TRACKINGS" />
      <Field v-model="draft.untracked_school" v-bind="of('untracked_school')" kind="choice" :options="UNTRACKED" />
      <Field v-model="draft.guide_rms_arcsec" v-bind="of('guide_rms_arcsec')" placeholder="1.5" />
      <Field v-model="draft.wind_level" v-bind="of('wind_level')" kind="choice" :options="WINDS" />
      <Field v-model="draft.spoils_per_h" v-bind="of('spoils_per_h')" placeholder="1" hint="a knock, a cloud, a lamp, a cable" />
      <Field v-model="draft.star_mag" v-bind="of('star_mag')" placeholder="8" />
      <Field v-model="draft.goal_snr" v-bind="of('goal_snr')" placeholder="10" hint="of one pixel" />
      <Field v-model="draft.most_hours" v-bind="of('most_hours')" placeholder="the window" />
    </div></fieldset>
    <fieldset><legend>Pole</legend><div class="grid">
      <Field v-model="draft.alignment_arcmin" v-bind="of('alignment_arcmin')" placeholder="5" />
      <Field v-model="draft.shift_percent" v-bind="of('shift_percent')" placeholder="5" hint="over the whole run, for an axis off the pole" />
      <Field v-model="draft.setup_time" v-bind="of('setup_time')" placeholder="45 min before dark" />
      <Field v-model="draft.pole" v-bind="of('pole')" kind="choice" :options="[{ value: 'refracted', label: 'as seen, refracted' }, { value: 'true', label: 'true' }]" />
      <Field v-model="draft.recheck_school" v-bind="of('recheck_school')" kind="choice" :options="[{ value: 'thirty frames', label: 'after every 30 frames' }, { value: 'each target', label: 'at each target' }, { value: 'never', label: 'never' }]" />
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
    <fieldset><legend>Bench</legend><div class="grid">
      <Field v-model="draft.aperture_school" v-bind="of('aperture_school')" kind="choice" :options="[{ value: 'corners', label: 'the lens’s own best corners' }, { value: 'wide', label: 'wide open' }, { value: 'ring', label: 'a ring instead of the iris' }]" />
      <Field v-model="draft.support_school" v-bind="of('support_school')" kind="choice" :options="[{ value: 'bracket from 100', label: 'bracket from 100 mm on' }, { value: 'ball head to 200', label: 'ball head up to 200 mm' }]" />
      <Field v-model="draft.dec_school" v-bind="of('dec_school')" kind="choice" :options="[{ value: 'note', label: 'a note only' }, { value: 'balance', label: 'balance it' }]" />
      <Field v-model="draft.lifting" v-bind="of('lifting')" kind="choice" :options="[{ value: 'none', label: 'none, balance exactly' }, { value: 'camera east', label: 'lifting, camera to the east' }, { value: 'camera west', label: 'lifting, camera to the west' }]" />
      <Field v-model="draft.lifting_g_cm" v-bind="of('lifting_g_cm')" placeholder="300" />
      <Field v-model="draft.dew_school" v-bind="of('dew_school')" kind="choice" :options="[{ value: 'heater', label: 'hood and heater' }, { value: 'hood', label: 'hood only' }, { value: 'warmers', label: 'hand warmers' }]" />
    </div></fieldset>
    <fieldset><legend>Weather you expect this night (empty: as forecast)</legend><div class="grid">
      <Field v-model="draft.air_evening_c" v-bind="of('air_evening_c')" />
      <Field v-model="draft.air_low_c" v-bind="of('air_low_c')" />
      <Field v-model="draft.humidity_percent" v-bind="of('humidity_percent')" />
      <Field v-model="draft.wind_m_s" v-bind="of('wind_m_s')" />
    </div></fieldset>
    <fieldset><legend>Timer and card</legend><div class="grid">
      <Field v-model="draft.convention" v-bind="of('convention')" kind="choice" :options="[{ value: 'gap', label: 'the pause between' }, { value: 'start to start', label: 'from start to start' }]" />
      <Field v-model="draft.gap_s" v-bind="of('gap_s')" placeholder="2" hint="5 lets the sensor rest" />
      <Field v-model="draft.mirror_s" v-bind="of('mirror_s')" placeholder="0" hint="2 for the usual self-timer" />
      <Field v-model="draft.noise_reduction" v-bind="of('noise_reduction')" kind="choice" :options="[{ value: 'off', label: 'off' }, { value: 'on', label: 'on, doubles each frame' }]" />
      <Field v-model="draft.delay_s" v-bind="of('delay_s')" placeholder="10" />
      <Field v-model="draft.card_gb" v-bind="of('card_gb')" placeholder="64" />
      <Field v-model="draft.dark_school" v-bind="of('dark_school')" kind="choice" :options="[{ value: 'matched', label: 'darks, same length and warmth' }, { value: 'dither', label: 'dither, no darks' }]" />
      <Field v-model="draft.darks" v-bind="of('darks')" placeholder="20" />
      <Field v-model="draft.flats" v-bind="of('flats')" placeholder="20" />
      <Field v-model="draft.bias" v-bind="of('bias')" placeholder="20" />
    </div></fieldset>
    <fieldset><legend>Units and carrying</legend><div class="grid">
      <Field v-model="units.mass_unit" path="mass_unit" label="Masses in" kind="choice" :options="[{ value: 'g', label: 'g, from 1000 g kg' }, { value: 'kg', label: 'kg' }, { value: 'lb', label: 'lb and oz' }]" />
      <Field v-model="units.length_unit" path="length_unit" label="Lengths in" kind="choice" :options="[{ value: 'mm', label: 'mm' }, { value: 'in', label: 'in' }]" />
      <Field v-model="units.carry_limit" path="carry_limit" label="One walk carries" :unit="units.mass_unit" kind="text" hint="12 kg, 26 lb" />
    </div></fieldset>
    <Checkbox v-model:checked="remembered">Remember these as my way of working (weather and tonight’s own figures aside)</Checkbox></div>
  </FormDrawer>
</template>

<style scoped>
.sheet { display: flex; flex-direction: column; gap: 10px; }
.reset { color: var(--accent); text-decoration: underline; }
</style>
