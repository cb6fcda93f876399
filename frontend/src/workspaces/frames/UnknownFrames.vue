<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useTargets } from '@/composables/useRecords'
import Choice from '@/parts/Choice.vue'

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
    <label for="frames-show">These frames show</label>
    <Choice id="frames-show" v-model="shows" :options="options" placeholder="one of your targets" />
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
