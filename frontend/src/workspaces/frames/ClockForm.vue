<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import type { Fault } from '@/api/client'
import { showFaults } from '@/composables/useFaults'
import type { CameraClock, Folder } from '@/composables/useFrames'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'

/** What a camera's clock said when its files do not: summer time forgotten, a battery that was flat. */
const props = defineProps<{ folder: Folder }>()
const emit = defineEmits<{ set: [clock: CameraClock] }>()
const east = ref<number | string | null>(null)
const ahead = ref<number | string | null>(0)
const wrong = ref<Fault[]>([])
showFaults(wrong)
watch(
  () => [props.folder.clock_offset_min, props.folder.clock_fast_s] as const,
  ([offset, fast]) => {
    east.value = offset === null ? null : offset / 60
    ahead.value = fast
  },
  { immediate: true },
)
function set() {
  const asked = { east: east.value ?? 0, ahead: ahead.value ?? 0 }
  wrong.value = Object.entries(asked)
    .filter(([, value]) => typeof value === 'string')
    .map(([field, value]) => ({ field, value, message: 'Give a number, like 5.5.' }))
  if (typeof asked.east === 'string' || typeof asked.ahead === 'string') return
  emit('set', { offset_min: east.value === null ? null : Math.round(asked.east * 60), fast_s: asked.ahead })
}
</script>

<template>
  <form class="clock" @submit.prevent="set">
    <FormFaults />
    <Field v-model="east" path="east" label="Hours ahead of UTC" placeholder="as the files say" />
    <Field v-model="ahead" path="ahead" label="Ahead of the true time by" unit="s" />
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
.clock .field {
  width: 170px;
}
</style>
