<script setup lang="ts">
import { Button, InputNumber } from 'ant-design-vue'
import { ref, watch } from 'vue'

import type { CameraClock, Folder } from '@/composables/useFrames'

/** What a camera's clock said when its files do not: summer time forgotten, a battery that was flat. */
const props = defineProps<{ folder: Folder }>()
const emit = defineEmits<{ set: [clock: CameraClock] }>()
const east = ref<number>()
const ahead = ref(0)
watch(
  () => [props.folder.clock_offset_min, props.folder.clock_fast_s] as const,
  ([offset, fast]) => {
    east.value = offset === null ? undefined : offset / 60
    ahead.value = fast
  },
  { immediate: true },
)
const set = () =>
  emit('set', {
    offset_min: typeof east.value === 'number' ? Math.round(east.value * 60) : null,
    fast_s: ahead.value || 0,
  })
</script>

<template>
  <form class="clock" @submit.prevent="set">
    <label :for="`clock-zone-${folder.id}`">Hours ahead of UTC</label>
    <InputNumber
      :id="`clock-zone-${folder.id}`"
      v-model:value="east"
      :min="-12"
      :max="14"
      :step="0.5"
      placeholder="as the files say" />
    <label :for="`clock-ahead-${folder.id}`">Ahead of the true time by, s</label>
    <InputNumber :id="`clock-ahead-${folder.id}`" v-model:value="ahead" :min="-86400" :max="86400" />
    <Button size="small" html-type="submit">Put it right</Button>
    <span class="muted">An hour is 3600 s, a day 86400 s. Every frame gets its moment anew.</span>
  </form>
</template>

<style scoped>
.clock {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  padding: 6px 0;
}
.clock :deep(.ant-input-number) {
  width: 150px;
}
</style>
