<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { useId } from 'vue'

import { useFormFaults } from '@/composables/useFaults'

import FormFaults from './FormFaults.vue'
import SideSheet from './SideSheet.vue'

/** The frame of every editor: title, the fields, save, delete; faults without a field of their own on top. */
defineProps<{
  open: boolean
  title: string
  busy: boolean
  removable?: boolean
  saveWord?: string
}>()
defineEmits<{ close: []; save: []; remove: [] }>()

const form = useId()
const { count, elsewhere } = useFormFaults()
</script>

<template>
  <SideSheet :open="open" :title="title" :width="560" modal @close="$emit('close')">
    <form :id="form" class="form" @submit.prevent="$emit('save')">
      <FormFaults />
      <Alert
        v-if="count && !elsewhere.length"
        type="error"
        show-icon
        :message="
          count === 1
            ? 'One field needs another value. It is marked below; nothing typed is lost.'
            : `${count} fields need other values. They are marked below; nothing typed is lost.`
        " />
      <slot />
    </form>
    <template #footer>
      <Button type="primary" html-type="submit" :form="form" :loading="busy">{{ saveWord ?? 'Save' }}</Button>
      <Button @click="$emit('close')">Cancel</Button>
      <Button v-if="removable" danger class="remove" @click="$emit('remove')">Delete</Button>
    </template>
  </SideSheet>
</template>

<style scoped>
.form {
  display: flex;
  flex-direction: column;
  gap: 10px;
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
