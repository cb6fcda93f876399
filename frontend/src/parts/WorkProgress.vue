<script setup lang="ts">
import { Alert, Button, Progress } from 'ant-design-vue'

import type { Schemas } from '@/api/client'

/** Long work while it runs, failed or was cancelled; what came out of it stands in the slot. */
defineProps<{ result: Omit<Schemas['WorkOut'], 'asked_at'> & { left_s?: number | null } }>()
defineEmits<{ cancel: []; again: [] }>()
</script>

<template>
  <template v-if="result.state === 'waiting' || result.state === 'running'">
    <Alert
      v-if="result.silent"
      type="warning"
      show-icon
      message="Nobody is working on it: the worker fell silent. Nothing is lost; it goes on by itself within half a minute."
      ><template #action><Button size="small" @click="$emit('again')">Begin again</Button></template></Alert
    >
    <p role="status">
      {{ result.state === 'waiting' ? 'Waiting for the worker…' : result.doing }}
      <span v-if="result.left_s" class="muted">about {{ Math.max(1, Math.round(result.left_s)) }} s left</span>
    </p>
    <Progress
      :percent="Math.round(result.share * 100)"
      :show-info="false"
      stroke-color="var(--accent)"
      aria-label="How far it is" />
    <Button size="small" @click="$emit('cancel')">Cancel</Button>
  </template>
  <Alert v-else-if="result.state === 'failed'" type="error" show-icon
    ><template #message
      ><p v-for="(fault, place) in result.faults" :key="place">{{ fault.message }}</p></template
    ><template #action><Button size="small" @click="$emit('again')">Try again</Button></template></Alert
  >
  <p v-else-if="result.state === 'cancelled'">
    Cancelled. <Button size="small" @click="$emit('again')">Begin again</Button>
  </p>
  <slot v-else />
</template>
