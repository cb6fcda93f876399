<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { useEditor } from '@/composables/useEditor'
import { useKeepPart, useKinds, type KitField, type Part, type PartIn } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FieldFault from '@/parts/FieldFault.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

/** One part: the server says which fields its kind has; an empty field takes the default shown in grey. */
const props = defineProps<{ open: boolean; record: Part | null; begin: string }>()
const emit = defineEmits<{ close: []; kept: [part: Part] }>()
const { data: known } = useKinds()
const { faults, busy, save, drop } = useEditor<PartIn, Part>(
  useKeepPart(),
  () => props.record,
  () => props.open,
  {
    kept: (part) => emit('kept', part),
    close: () => emit('close'),
  },
)

type Row = Record<string, string | number | boolean | null>
const kind = ref('')
const draft = ref<Record<string, unknown>>({})
const shape = computed(() => known.value?.kinds.find((one) => one.kind === kind.value))
const fields = computed(() => shape.value?.fields ?? [])
const kindOptions = computed(() => (known.value?.kinds ?? []).map((one) => ({ value: one.kind, label: one.kind })))

/** Masses and lengths stand as text in the person's own unit; left as they are, the stored figure is sent back untouched. */
function fill() {
  const { record } = props
  faults.value = {}
  kind.value = record?.kind ?? props.begin
  draft.value = record ? { ...JSON.parse(JSON.stringify(record.values)), ...record.texts } : {}
}
watch(
  [() => props.open, () => props.record?.id],
  () => {
    if (props.open) fill()
  },
  { immediate: true },
)
watch(kind, (now, before) => {
  if (!props.record && before && now !== before) draft.value = { name: draft.value.name, mass_g: draft.value.mass_g }
})

/** What is told of a value that nobody said by hand. */
const ORIGINS = { book: 'typical, until you give yours', learned: 'measured from your pictures', 'by hand': '' }
const rowOrigin = (field: KitField, row: Row) => ORIGINS[props.record?.origins[`${field.name}.${row.iso}`] ?? 'by hand']
const rowsOf = (name: string) => (draft.value[name] ?? []) as Row[]
const addRow = (name: string) => (draft.value[name] = [...rowsOf(name), {}])
function body(): PartIn {
  const values: Record<string, unknown> = {}
  for (const { name } of fields.value) {
    const value = draft.value[name]
    if (value === null || value === undefined || value === '') continue
    // Rows nobody entered take their default; rows that were all removed are told to be missing.
    if (Array.isArray(value) && !value.length && !props.record) continue
    values[name] = props.record && value === props.record.texts[name] ? props.record.values[name] : value
  }
  return { kind: kind.value, values: values as PartIn['values'] }
}
/** How a field is asked for: own units and texts stay text, so that "2 lb 3 oz" reaches the server as typed. */
function asked(field: KitField, path: string) {
  const options =
    field.sort === 'yes or no'
      ? [
          { value: true, label: 'yes' },
          { value: false, label: 'no' },
        ]
      : field.options.map((value) => ({ value, label: value }))
  const choice = options.length > 0
  return {
    path,
    label: field.label,
    hint: ORIGINS[props.record?.origins[path] ?? 'by hand'] || field.hint,
    placeholder: choice ? '' : field.default,
    options,
    unit: field.unit === 'lb' ? 'lb oz' : field.unit,
    kind: choice
      ? ('choice' as const)
      : field.sort === 'text' ||
          field.name in (props.record?.texts ?? {}) ||
          ['g', 'kg', 'lb', 'mm', 'in'].includes(field.unit)
        ? ('text' as const)
        : ('number' as const),
  }
}
/** A list shows what counts while nothing was chosen: its default, as a value and not in grey. */
function stands(field: KitField, value: unknown) {
  if (value !== null && value !== undefined) return value
  if (field.sort === 'yes or no' && field.default) return field.default === 'yes'
  return field.options.includes(field.default) ? field.default : null
}
</script>

<template>
  <FormDrawer
    :open="open"
    :title="record ? `Change “${record.name}”` : 'A new part'"
    :busy="busy"
    :removable="!!record"
    @close="emit('close')"
    @save="save(body())"
    @remove="drop">
    <Field
      v-if="!record && kindOptions.length"
      v-model="kind"
      path="kind"
      label="Kind of part"
      kind="choice"
      :options="kindOptions" />
    <div class="grid">
      <template v-for="field in fields" :key="field.name">
        <Field
          v-if="field.sort !== 'rows'"
          v-bind="asked(field, field.name)"
          :model-value="stands(field, draft[field.name])"
          @update:model-value="(value: unknown) => (draft[field.name] = value)" />
      </template>
    </div>
    <fieldset v-for="field in fields.filter((one) => one.sort === 'rows')" :key="field.name">
      <legend>{{ field.label }}</legend>
      <div v-for="(row, place) in rowsOf(field.name)" :key="place" class="row">
        <Field
          v-for="column in field.rows"
          :key="column.name"
          v-bind="asked(column, `${field.name}.${place}.${column.name}`)"
          :model-value="stands(column, row[column.name])"
          @update:model-value="(value: unknown) => (row[column.name] = value as string)" />
        <small v-if="rowOrigin(field, row)" class="muted origin">{{ rowOrigin(field, row) }}</small>
        <Button size="small" :aria-label="`Remove row ${place + 1}`" @click="rowsOf(field.name).splice(place, 1)"
          >Remove</Button
        >
      </div>
      <FieldFault :path="field.name" />
      <p v-if="!rowsOf(field.name).length && field.name === 'iso_steps'" class="muted">
        Left empty, an estimate by the size of the pixels stands in until you have measured yours.
      </p>
      <Button size="small" @click="addRow(field.name)">Add a row</Button>
    </fieldset>
    <p v-if="record?.used_by.length" class="muted">
      In {{ record.used_by.join(', ') }}: a change reaches these rigs and their plans.
    </p>
  </FormDrawer>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr auto;
  gap: 10px;
  align-items: center;
}
.origin {
  grid-column: 1 / 4;
  margin-top: -14px;
}
</style>
