<script setup lang="ts">
import { useContext } from '@/composables/useContext'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** Is the axis good enough, and which screw? */
const { context } = useContext()
const TABS = [
  { name: 'pole', label: 'How good' },
  { name: 'pole-rough', label: 'By day' },
  { name: 'pole-scope', label: 'Polar scope' },
  { name: 'pole-photographs', label: 'Photographs' },
  { name: 'pole-drift', label: 'Drift' },
  { name: 'pole-record', label: 'Record' },
] as const
</script>

<template>
  <WorkspacePage label="Pole" :tabs="TABS" :lacking="!context"><RouterView /></WorkspacePage>
</template>
