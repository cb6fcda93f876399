<script setup lang="ts">
import { computed } from 'vue'

import { useRigs, useTargets } from '@/composables/useRecords'
import { useKeptNight } from '@/composables/useWholeNight'
import { clock } from '@/instruments/strip'

/** What is planned for this night when it is more than one run; the page itself stays the answer for one. */
defineProps<{ timeZone: string }>()
const { data: rigs } = useRigs()
const { data: targets } = useTargets()
const { kept } = useKeptNight()
const name = (list: { id: number; name: string }[] | undefined, id: number | undefined) =>
  list?.find((one) => one.id === id)?.name ?? ''
const runs = computed(() => {
  const asked = kept.value?.asked
  if (!asked) return []
  return kept.value?.runs.map((one) => ({
    at: new Date(one.change_at ?? one.begins_at),
    target: name(targets.value?.items, asked.wishes[one.wish]?.target),
    rig: asked.rigs.length > 1 ? name(rigs.value?.items, asked.rigs[one.rig]) : '',
  }))
})
</script>

<template>
  <p v-if="runs && runs.length > 1" class="planned">
    <RouterLink :to="{ name: 'nights-whole', query: $route.query }">{{ runs.length }} runs planned</RouterLink>
    <span v-for="(one, place) in runs" :key="place"
      ><b class="number">{{ clock(one.at, timeZone, 0) }}</b> {{ one.target }}{{ one.rig ? ', ' : ''
      }}<span v-if="one.rig" class="muted">{{ one.rig }}</span></span
    >
  </p>
</template>

<style scoped>
.planned {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  font-size: 13px;
}
@media (max-width: 820px) {
  .planned > a {
    min-height: 44px;
    display: flex;
    align-items: center;
  }
}
</style>
