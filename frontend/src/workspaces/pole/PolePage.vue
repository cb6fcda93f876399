<script setup lang="ts">
import { useContext } from '@/composables/useContext'
import { useNeed } from '@/composables/usePole'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** Is the axis good enough, and which screw? */
const { context } = useContext()
const { data: need } = useNeed()
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
  <WorkspacePage label="Pole" :tabs="TABS" :lacking="!context">
    <section v-if="need && !need.tracks" class="panel still" aria-label="No axis">
      <p>
        <b>{{ need.need.verdict.sentence }}</b>
      </p>
      <p>{{ need.at_target.sentence }}</p>
      <p class="muted">
        With a tracker in the rig, and in use, this page tells how well it must be aligned and how to get there.
        <RouterLink :to="{ name: 'exposure', query: $route.query }">How long each rule lets you expose</RouterLink> is
        under Exposure; <RouterLink :to="{ name: 'bench', query: $route.query }">the tracker is added</RouterLink> on
        the Bench.
      </p>
    </section>
    <RouterView v-else />
  </WorkspacePage>
</template>

<style scoped>
.still {
  max-width: 640px;
  padding: 12px 18px;
  display: grid;
  gap: 8px;
}
</style>
