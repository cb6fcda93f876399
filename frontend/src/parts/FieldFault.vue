<script setup lang="ts">
import { useFieldFault } from '@/composables/useFaults'

/** What is wrong with something that is no Field: a list, a drawing, a long text. */
const props = defineProps<{ path: string }>()
const fault = useFieldFault(() => props.path)
</script>

<template>
  <p v-if="fault" class="fault" role="alert">{{ fault }}</p>
</template>

<style scoped>
.fault {
  color: var(--stop);
  font-size: 12px;
}
</style>
