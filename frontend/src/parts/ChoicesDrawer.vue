<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed, ref, shallowRef, watch } from 'vue'

import type { Faults } from '@/api/client'
import { CHOICES, type ChoiceName, type Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useHabits, useKeepHabits, useParts, type Habits, type Rig } from '@/composables/useRecords'

import Field from './Field.vue'
import ForecastFile from './ForecastFile.vue'
import FormDrawer from './FormDrawer.vue'

/** How this person works. Empty fields stand at the default that is shown in grey. */
const props = defineProps<{
  open: boolean
  rig: Rig | null
  refused: Faults
  settled: () => Promise<boolean>
  focus: ChoiceName | null
}>()
const emit = defineEmits<{ close: [] }>()
const { choices, choose } = useContext()
const { faults, busy, attempt } = useFaults()
const draft = ref<Partial<Choices>>({})
let before: Partial<Choices> = {}
const tried = ref(false)
const { data: habits } = useHabits()
const { data: parts } = useParts()
const { keepUnits, remember } = useKeepHabits()
type Units = Pick<Habits, 'mass_unit' | 'length_unit' | 'carry_limit'>
const NONE: Units = { mass_unit: 'g', length_unit: 'mm', carry_limit: '' }
const units = shallowRef<Units>(NONE)
const change = (name: keyof Units, value: unknown) => (units.value = { ...units.value, [name]: value })
const remembered = ref(true)

watch(
  () => props.open,
  (open) => {
    if (!open) return
    before = { ...choices.value }
    draft.value = { ...choices.value }
    units.value = NONE
  },
  { immediate: true },
)
/** Units stand as they are remembered, once that is known. */
watch(
  [() => props.open, habits],
  () => {
    if (props.open && habits.value && units.value === NONE)
      units.value = {
        mass_unit: habits.value.mass_unit,
        length_unit: habits.value.length_unit,
        carry_limit: habits.value.carry_limit,
      }
  },
  { immediate: true },
)
/** Whoever comes for one field is led to it. */
const sheet = ref<HTMLElement | null>(null)
watch(
  () => props.open && props.focus,
  async (name) => {
    if (!name) return
    await new Promise((done) => setTimeout(done, 350))
    const label = [...(sheet.value?.querySelectorAll('label') ?? [])].find((one) =>
      one.textContent?.startsWith(CHOICES[name].label),
    )
    document.getElementById(label?.getAttribute('for') ?? '')?.focus()
  },
  { immediate: true },
)
watch(
  () => props.refused,
  (refused) => (faults.value = refused),
  { immediate: true },
)

const SHOWN = [...Object.keys(CHOICES), 'carry_limit']
const GROUPS = [...new Set(Object.values(CHOICES).map((one) => one.group))].map((name) => ({
  name,
  choices: (Object.keys(CHOICES) as ChoiceName[]).filter((one) => CHOICES[one].group === name),
}))
/** What is offered where only this person's own things can be. */
const own = computed<Partial<Record<ChoiceName, { value: string | number | null; label: string }[]>>>(() => ({
  iso: [
    { value: null, label: CHOICES.iso.empty },
    ...(props.rig?.isos ?? []).map((iso) => ({ value: iso, label: `ISO ${iso}` })),
  ],
  filter_name: [
    { value: null, label: CHOICES.filter_name.empty },
    { value: 'none', label: 'none' },
    ...(parts.value?.items ?? [])
      .filter((one) => one.kind === 'filter')
      .map((one) => ({ value: one.name, label: one.name })),
  ],
}))
/** What a list stands at while nothing is chosen. */
const standing = (name: ChoiceName) =>
  CHOICES[name].options.find((one) => one.label === CHOICES[name].empty)?.value ?? null
/** Whether the aperture is that of the best corners while nothing is given. */
const best = computed(() => {
  const { aperture_school: school, tracking } = draft.value
  const still = tracking === 'untracked' || !props.rig?.placed.some((one) => one.kind === 'tracker')
  return school ? school === 'corners' : !still
})
/** A field of the form, as the core describes it. */
function field(name: ChoiceName) {
  const { kind, label, unit, hint, empty, options } = CHOICES[name]
  const unsaid = options.length && !options.some((one) => one.label === empty) ? [{ value: null, label: empty }] : []
  const offered = own.value[name] ?? [...unsaid, ...options]
  const grey = name === 'f_number' && props.rig?.f_best && best.value ? `${props.rig.f_best}, best corners` : empty
  return {
    path: name,
    label,
    unit,
    hint,
    placeholder: grey,
    options: offered,
    kind: offered.length ? ('choice' as const) : kind === 'number' ? ('number' as const) : ('text' as const),
  }
}

/** Figures are tried out first; only what the server takes is remembered. */
async function save() {
  tried.value = true
  await choose(draft.value)
  if (!(await props.settled())) return
  const done = await attempt(async () => {
    // Left as it was, the limit is sent in grams, so that a change of units does not change what it means.
    const same = units.value.carry_limit === habits.value?.carry_limit
    if (units.value !== NONE)
      await keepUnits({
        ...units.value,
        carry_limit: same && habits.value ? habits.value.carry_limit_g : units.value.carry_limit,
      })
    if (remembered.value) await remember(draft.value)
  })
  if (!done) return
  tried.value = false
  emit('close')
}
/** What was tried and refused does not stay behind in the address. */
async function close() {
  if (tried.value) await choose(before)
  tried.value = false
  emit('close')
}
function reset() {
  draft.value = {}
}
</script>

<template>
  <FormDrawer
    :open="open"
    title="How you work"
    :busy="busy"
    :shown="SHOWN"
    save-word="Use these"
    @close="close"
    @save="save">
    <div ref="sheet" class="sheet">
      <p class="muted">
        Practitioners differ; these are your schools and figures. An empty field stands at the default shown in grey.
        <button type="button" class="plain reset" @click="reset">All back to defaults</button>
      </p>
      <fieldset v-for="group in GROUPS" :key="group.name">
        <legend>{{ group.name }}</legend>
        <div class="grid">
          <Field
            v-for="name in group.choices"
            :key="name"
            :model-value="draft[name] ?? standing(name)"
            v-bind="field(name)"
            @update:model-value="(value: unknown) => (draft = { ...draft, [name]: value })" />
        </div>
        <ForecastFile v-if="group.name === CHOICES.humidity_percent.group" />
      </fieldset>
      <fieldset>
        <legend>Units and carrying</legend>
        <div class="grid">
          <Field
            :model-value="units.mass_unit"
            path="mass_unit"
            label="Masses in"
            kind="choice"
            :options="[
              { value: 'g', label: 'g, from 1000 g kg' },
              { value: 'kg', label: 'kg' },
              { value: 'lb', label: 'lb and oz' },
            ]"
            @update:model-value="(value: unknown) => change('mass_unit', value)" />
          <Field
            :model-value="units.length_unit"
            path="length_unit"
            label="Lengths in"
            kind="choice"
            :options="[
              { value: 'mm', label: 'mm' },
              { value: 'in', label: 'in' },
            ]"
            @update:model-value="(value: unknown) => change('length_unit', value)" />
          <Field
            :model-value="units.carry_limit"
            path="carry_limit"
            label="One walk carries"
            :unit="units.mass_unit"
            kind="text"
            hint="12 kg, 26 lb"
            @update:model-value="(value: unknown) => change('carry_limit', value)" />
        </div>
      </fieldset>
      <Checkbox v-model:checked="remembered"
        >Remember these as my way of working (weather and tonight’s own figures aside)</Checkbox
      >
    </div>
  </FormDrawer>
</template>

<style scoped>
.sheet {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.reset {
  color: var(--accent);
  text-decoration: underline;
}
</style>
