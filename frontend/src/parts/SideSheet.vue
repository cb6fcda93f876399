<script setup lang="ts">
import { Drawer } from 'ant-design-vue'
import { nextTick, ref, watch } from 'vue'

/** The component library's drawer, told to screen readers as the dialog that it is. */
const props = defineProps<{ open: boolean; title: string; width: number; modal?: boolean }>()
defineEmits<{ close: [] }>()
const body = ref<HTMLElement | null>(null)

watch(() => props.open, async (open) => {
  if (!open) return
  await nextTick()
  await nextTick()
  const sheet = body.value?.closest('.ant-drawer-content')
  sheet?.setAttribute('role', 'dialog')
  sheet?.setAttribute('aria-modal', 'true')
  sheet?.setAttribute('aria-label', props.title)
}, { immediate: true, flush: 'post' })
</script>

<template>
  <Drawer :open="open" :width="width" :title="title" :mask-closable="!modal" @close="$emit('close')">
    <div ref="body"><slot /></div>
    <template v-if="$slots.footer" #footer><slot name="footer" /></template>
  </Drawer>
</template>
