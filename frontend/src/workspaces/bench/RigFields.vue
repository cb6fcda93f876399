<script setup lang="ts">
import { computed } from 'vue'

import type { Faults } from '@/api/client'
import { typed } from '@/composables/choices'
import type { Rig, RigIn } from '@/composables/useRecords'
import LineInput from '@/parts/LineInput.vue'

/** Name, star and zoom setting of the rig, changed in place. */
const props = defineProps<{ draft: RigIn; record: Rig; faults: Faults }>()
const emit = defineEmits<{ change: [next: RigIn, said: string] }>()
const zoom = computed(() => props.record.placed.some((one) => one.zoom))
</script>

<template>
  <div class="fields">
    <LineInput
      class="name"
      label="Name of the rig"
      :value="draft.name"
      :fault="faults.name"
      @take="(text) => emit('change', { ...draft, name: text }, `Renamed ${record.name}.`)" />
    <LineInput
      label="Untrailed star, px FWHM"
      :value="String(draft.star_fwhm_px ?? '')"
      :fault="faults.star_fwhm_px"
      @take="
        (text) => emit('change', { ...draft, star_fwhm_px: typed(text) as number }, 'Changed the untrailed star.')
      " />
    <LineInput
      v-if="zoom"
      label="Zoom set to, mm"
      :value="draft.focal_mm ? String(draft.focal_mm) : ''"
      :fault="faults.focal_mm"
      @take="(text) => emit('change', { ...draft, focal_mm: typed(text) as number | null }, 'Changed the zoom.')" />
  </div>
</template>

<style scoped>
.fields {
  display: flex;
  gap: 8px;
}
.name {
  flex: 1;
}
</style>
