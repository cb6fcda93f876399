<script setup lang="ts">
import { onMounted, onUnmounted } from 'vue'

import NightList from './NightList.vue'
import NightScreen from './NightScreen.vue'
import { useField } from './useField'

/** The address names the night: #/12. */
const field = useField()
function follow() {
  const named = Number(/^#\/(\d+)/.exec(location.hash)?.[1])
  if (named && named !== field.night.value) void field.open(named)
  if (!location.hash.startsWith('#/') && !field.single.value) field.night.value = null
}
onMounted(() => {
  window.addEventListener('hashchange', follow)
  follow()
})
onUnmounted(() => window.removeEventListener('hashchange', follow))
</script>

<template>
  <NightScreen v-if="field.pack.value" :key="field.pack.value.night" :pack="field.pack.value" />
  <NightList v-else />
</template>
