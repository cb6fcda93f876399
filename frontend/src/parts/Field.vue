<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed, ref, useId, watch } from 'vue'

import { typed } from '@/composables/choices'
import { dateWords, momentWords, readDate, readMoment } from '@/composables/dates'
import { useFieldFault } from '@/composables/useFaults'

import Choice from './Choice.vue'

/** One field of a form: label, unit, hint, and what is wrong with it. What was typed stays, whatever it is. */
const props = withDefaults(
  defineProps<{
    path: string
    label: string
    unit?: string
    hint?: string
    kind?: 'number' | 'text' | 'password' | 'choice' | 'date' | 'moment'
    options?: { value: string | boolean | number | null; label: string }[]
    placeholder?: string
  }>(),
  { unit: '', hint: '', kind: 'number', options: () => [], placeholder: '' },
)
// What a server types as a number may hold any text while it is being typed; the server answers what is wrong with it.
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const value = defineModel<any>()
const id = useId()
const fault = useFieldFault(() => props.path)
const text = ref('')
const WAYS: Partial<Record<typeof props.kind, { read: (typed: string) => unknown; show: (kept: string) => string }>> = {
  number: { read: typed, show: String },
  date: { read: readDate, show: dateWords },
  moment: { read: readMoment, show: momentWords },
}
const way = computed(() => WAYS[props.kind])
const read = (now: string) => (way.value ? way.value.read(now) : now)
const show = (kept: unknown) => (kept === null || kept === undefined ? '' : (way.value?.show ?? String)(kept as string))

watch(
  value,
  (now) => {
    if (read(text.value) === (now ?? null)) return
    text.value = show(now)
  },
  { immediate: true },
)

function take(now: string) {
  text.value = now
  value.value = read(now)
}
</script>

<template>
  <div class="field" :class="{ wrong: fault }">
    <label :for="id"
      >{{ label }}<span v-if="unit" class="muted"> ({{ unit }})</span></label
    >
    <Choice
      v-if="kind === 'choice'"
      :id="id"
      v-model="value"
      :options="options"
      :placeholder="placeholder"
      :invalid="fault !== ''" />
    <Input
      v-else
      :id="id"
      :value="text"
      :status="fault ? 'error' : ''"
      :type="kind === 'password' ? kind : 'text'"
      :inputmode="kind === 'number' ? 'decimal' : undefined"
      :placeholder="placeholder"
      :aria-invalid="fault !== ''"
      :aria-describedby="`${id}-hint`"
      @update:value="take"
      @blur="(kind === 'date' || kind === 'moment') && (text = show(value))" />
    <small :id="`${id}-hint`" :class="fault ? 'fault' : 'muted'" :role="fault ? 'alert' : undefined">{{
      fault || hint
    }}</small>
  </div>
</template>

<style scoped>
.field {
  display: flex;
  flex-direction: column;
  gap: 2px;
  min-width: 0;
}
label {
  font-size: 13px;
}
small {
  min-height: 1em;
  font-size: 12px;
  line-height: 1.25;
}
.fault {
  color: var(--stop);
}
</style>
