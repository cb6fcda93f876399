<script setup lang="ts">
import { Alert, Button, Select } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useTargets } from '@/composables/useRecords'

/** Frames that nothing explains: what was found in them, and the user's word on what they show. */
defineProps<{ why: string }>()
const emit = defineEmits<{ assign: [target: number] }>()
const { data: targets } = useTargets()
const shows = ref<number>()
const options = computed(() => (targets.value?.items ?? []).map(({ id, name }) => ({ value: id, label: name })))
</script>

<template>
  <div class="unknown">
    <Alert type="warning" show-icon message="Not recognised. Is this the right lens?" :description="why" />
    <Select
      v-model:value="shows"
      :options="options"
      show-search
      option-filter-prop="label"
      placeholder="These frames show…"
      aria-label="These frames show" />
    <Button :disabled="shows === undefined" @click="shows !== undefined && emit('assign', shows)"
      >Use this target</Button
    >
  </div>
</template>

<style scoped>
.unknown {
  display: grid;
  gap: 6px;
}
</style>
