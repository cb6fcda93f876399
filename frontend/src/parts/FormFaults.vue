<script setup lang="ts">
import { Alert } from 'ant-design-vue'

import { useFormFaults } from '@/composables/useFaults'

/** The top of a form: what was refused and belongs to no field of the page. */
const { elsewhere } = useFormFaults()
</script>

<template>
  <Alert v-if="elsewhere.length" type="error" show-icon
    ><template #message
      ><p v-for="(message, place) in elsewhere" :key="place">{{ message }}</p></template
    ></Alert
  >
</template>
