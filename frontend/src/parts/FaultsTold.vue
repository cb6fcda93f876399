<script setup lang="ts">
import { Alert } from 'ant-design-vue'

import type { Fault } from '@/api/client'

/** What was wrong with what was asked, where no field of the page stands for it. */
defineProps<{ faults: readonly Fault[] }>()
</script>

<template>
  <Alert v-if="faults.length" type="error" show-icon
    ><template #message
      ><p v-for="(fault, place) in faults" :key="place">{{ fault.message }}</p></template
    ></Alert
  >
</template>
