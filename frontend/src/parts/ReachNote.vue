<script setup lang="ts">
import { watch } from 'vue'
import { useRoute } from 'vue-router'

import { useReach } from '@/composables/useReach'

/** While the server cannot be reached: how old the figures are, and that a change has to wait. */
const { reached, words, look } = useReach()
const route = useRoute()
watch(() => route.fullPath, look, { flush: 'post' })
</script>

<template>
  <p v-if="!reached" class="note" role="status">
    <b>No connection.</b> {{ words }} Changes have to wait; nothing typed is lost.
  </p>
</template>

<style scoped>
.note {
  position: sticky;
  top: 0;
  z-index: 1500;
  padding: 6px 14px;
  background: var(--raised);
  border-bottom: 2px solid var(--care);
  font-size: 13px;
}
@media print {
  .note {
    position: static;
    color: #000;
    background: #fff;
  }
}
</style>
