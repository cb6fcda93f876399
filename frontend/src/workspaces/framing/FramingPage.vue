<script setup lang="ts">
import { computed } from 'vue'

import { useContext } from '@/composables/useContext'
import { provideFraming } from '@/composables/useFraming'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** What is in the picture, in how many panels, and how do I get there? */
const TABS = [
  { name: 'framing', label: 'Compose' },
  { name: 'framing-panels', label: 'Panels' },
  { name: 'framing-way', label: 'Way there' },
] as const
const { rig, target } = useContext()
const lacking = computed(() => !(rig.value && target.value))
provideFraming()
</script>

<template>
  <WorkspacePage label="Framing" :tabs="TABS" :lacking="lacking">
    <RouterView />
  </WorkspacePage>
</template>
