<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useContext } from '@/composables/useContext'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** Where do I stand? */
const TABS = [
  { name: 'grounds', label: 'Spot' },
  { name: 'grounds-spots', label: 'Side by side' },
  { name: 'grounds-places', label: 'Places' },
] as const
/** These sides are about one night somewhere; until there is one, the page says what it waits for. */
const route = useRoute()
const { context, spot, night } = useContext()
const lacking = computed(
  () =>
    (route.name === 'grounds' && !(spot.value && night.value)) || (route.name === 'grounds-spots' && !context.value),
)
</script>

<template>
  <WorkspacePage v-slot="{ tonight }" label="Grounds" :tabs="TABS" :lacking="lacking">
    <RouterView v-slot="{ Component }"><component :is="Component" :tonight="tonight" /></RouterView>
  </WorkspacePage>
</template>
