<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useContext } from '@/composables/useContext'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** When, and what? */
const TABS = [
  { name: 'nights', label: 'Lanes' },
  { name: 'nights-whole', label: 'Whole night' },
  { name: 'nights-suits', label: 'What suits' },
  { name: 'nights-year', label: 'Season' },
  { name: 'nights-targets', label: 'Targets' },
  { name: 'nights-trips', label: 'Trips' },
] as const
/** These sides are about one night somewhere; until there is one, the page says what it waits for. */
const route = useRoute()
const { context } = useContext()
const lacking = computed(
  () => !context.value && ['nights', 'nights-whole', 'nights-suits', 'nights-year'].includes(String(route.name)),
)
</script>

<template>
  <WorkspacePage v-slot="{ tonight }" label="Nights" :tabs="TABS" :lacking="lacking" :tall="route.name === 'nights'">
    <RouterView v-slot="{ Component }"><component :is="Component" :tonight="tonight" /></RouterView>
  </WorkspacePage>
</template>
