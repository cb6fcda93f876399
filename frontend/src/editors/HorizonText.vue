<script setup lang="ts">
import { Textarea } from 'ant-design-vue'
import { computed, useId } from 'vue'

import { useFaultsBelow } from '@/composables/useFaults'

/** A horizon profile as text, one pair a line, and the first thing that is wrong with it, by its line. */
const props = defineProps<{ path: string }>()
const text = defineModel<string>({ required: true })
const id = useId()
const below = useFaultsBelow(() => props.path)
const fault = computed(() => {
  const [first] = Object.entries(below.value)
  if (!first) return ''
  const line = /horizon\.(\d+)/.exec(first[0])?.[1]
  return line ? `Line ${Number(line) + 1}: ${first[1]}` : first[1]
})
</script>

<template>
  <label :for="id">What stands in the way: azimuth and altitude in degrees, one pair a line</label>
  <Textarea
    :id="id"
    v-model:value="text"
    :rows="5"
    :status="fault ? 'error' : ''"
    :aria-describedby="`${id}-hint`"
    placeholder="0 5&#10;90 20&#10;180 3" />
  <small :id="`${id}-hint`" :class="fault ? 'fault' : 'muted'" :role="fault ? 'alert' : undefined">{{
    fault || 'North is 0, east 90. Straight lines join the points. Left empty, an open horizon is assumed.'
  }}</small>
</template>

<style scoped>
label {
  font-size: 13px;
}
small {
  font-size: 12px;
}
.fault {
  color: var(--stop);
}
</style>
