<script setup lang="ts">
import { computed } from 'vue'

import { useContext } from '@/composables/useContext'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** What is in the picture? */
const TABS = [{ name: 'framing', label: 'Compose' }] as const
const { rig, target } = useContext()
const lacking = computed(() => !(rig.value && target.value))
</script>

<template>
  <WorkspacePage label="Framing" :tabs="TABS" :lacking="lacking">
    <RouterView />
  </WorkspacePage>
</template>
