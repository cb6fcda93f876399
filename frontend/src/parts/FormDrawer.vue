<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, useId } from 'vue'

import { useFormFaults } from '@/composables/useFaults'

import SideSheet from './SideSheet.vue'

/** The frame of every editor: title, the fields, save, delete; faults without a field of their own on top. */
const props = defineProps<{
  open: boolean
  title: string
  busy: boolean
  shown: string[]
  removable?: boolean
  saveWord?: string
}>()
defineEmits<{ close: []; save: []; remove: [] }>()

const form = useId()
const faults = useFormFaults()
const wrong = computed(() => Object.keys(faults.value).length)
/** Messages for fields that are not on this form are told on top, with the name of the field. */
const elsewhere = computed(() =>
  Object.entries(faults.value)
    .filter(([field]) => !props.shown.some((known) => field === known || field.startsWith(`${known}.`)))
    .map(([field, message]) => (field ? `${field}: ${message}` : message)),
)
</script>

<template>
  <SideSheet :open="open" :title="title" :width="560" modal @close="$emit('close')">
    <form :id="form" class="form" @submit.prevent="$emit('save')">
      <Alert v-for="message in elsewhere" :key="message" type="error" show-icon :message="message" />
      <Alert
        v-if="wrong && !elsewhere.length"
        type="error"
        show-icon
        :message="
          wrong === 1
            ? 'One field needs another value. It is marked below; nothing typed is lost.'
            : `${wrong} fields need other values. They are marked below; nothing typed is lost.`
        " />
      <slot />
    </form>
    <template #footer>
      <div class="acts">
        <Button type="primary" html-type="submit" :form="form" :loading="busy">{{ saveWord ?? 'Save' }}</Button>
        <Button @click="$emit('close')">Cancel</Button>
        <Button v-if="removable" danger class="remove" @click="$emit('remove')">Delete</Button>
      </div>
    </template>
  </SideSheet>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.acts {
  display: flex;
  gap: 8px;
}
.remove {
  margin-left: auto;
}
.form :deep(fieldset) {
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 4px 12px 10px;
  margin: 0;
}
.form :deep(legend) {
  width: auto;
  margin: 0;
  padding: 0 6px;
  font-size: 13px;
  font-weight: 600;
  color: var(--accent);
  border: 0;
}
.form :deep(.grid) {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 6px 12px;
}
</style>
