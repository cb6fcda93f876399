<script setup lang="ts">
import type { Schemas } from '@/api/client'

import Field from './Field.vue'

/** What is in one's hand, in the words that stand on it; what nobody knows by heart is typical of its class. */
const hand = defineModel<Hand>({ required: true })
withDefaults(defineProps<{ lensOnly?: boolean }>(), { lensOnly: false })

const listed = (words: readonly string[]) => words.map((value) => ({ value, label: value }))
const CAMERAS = listed(['full frame', 'crop sensor', 'four thirds', 'one inch', 'cooled astronomy camera'])
const TRACKERS = [
  { value: 'none', label: 'none, a tripod only' },
  { value: 'light tracker', label: 'light tracker, carries about 3 kg' },
  { value: 'sturdy tracker', label: 'sturdy tracker, about 5 kg' },
  { value: 'small mount', label: 'small mount, about 10 kg' },
]
</script>

<script lang="ts">
export interface Hand {
  camera: Schemas['HandIn']['camera']
  megapixels: number | string | null
  focal_mm: number | string | null
  f_number: number | string | null
  tracker: Schemas['HandIn']['tracker']
  like: number | null
}
export const emptyHand = (): Hand => ({
  camera: 'full frame',
  megapixels: null,
  focal_mm: null,
  f_number: null,
  tracker: 'light tracker',
  like: null,
})
</script>

<template>
  <div class="grid">
    <template v-if="!lensOnly">
      <Field v-model="hand.camera" path="hand.camera" label="Camera" kind="choice" :options="CAMERAS" />
      <Field
        v-model="hand.megapixels"
        path="hand.megapixels"
        label="Megapixels"
        unit="MP"
        placeholder="usual"
        hint="if you know them: they tell how large a pixel is" />
      <Field v-model="hand.tracker" path="hand.tracker" label="Tracker" kind="choice" :options="TRACKERS" />
    </template>
    <Field
      v-model="hand.focal_mm"
      path="hand.focal_mm"
      label="Focal length"
      unit="mm"
      hint="a zoom: both ends, like 18-55" />
    <Field
      v-model="hand.f_number"
      path="hand.f_number"
      label="Opens to f/"
      hint="as written on the lens, like 2.8 or 3.5-5.6" />
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 4px 16px;
}
@media (max-width: 640px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
