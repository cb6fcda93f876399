<script setup lang="ts">
import { computed } from 'vue'

import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'
import NothingHere from './NothingHere.vue'

/** What is still to be chosen or made before a night can be shown. */
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()
const lacking = computed(() =>
  [
    rigs.value && !rigs.value.count ? 'a rig' : '',
    places.value && !places.value.count ? 'a place' : '',
    targets.value && !targets.value.count ? 'a target' : '',
  ].filter(Boolean),
)
const known = computed(() => rigs.value && places.value && targets.value)
const words = computed(() =>
  lacking.value.length
    ? [
        `Make ${lacking.value.join(', ').replace(/, ([^,]*)$/, ' and $1')} first: the + in the bar above.`,
        'A target can be taken from the catalogue under Nights, Targets.',
      ].join(' ')
    : 'Choose a rig, a place, a night and a target in the bar above.',
)
</script>

<template>
  <NothingHere v-if="known" class="nothing" :words="words" />
</template>

<style scoped>
.nothing {
  margin-top: 60px;
}
</style>
