<script setup lang="ts">
import { ref, watch } from 'vue'

import type { ChoiceName } from '@/composables/choices'
import { useBench } from '@/composables/useBench'
import ContextDesk from '@/parts/ContextDesk.vue'
import WorkspacePage from '@/parts/WorkspacePage.vue'

/** Will this rig do? One rig in hand, seen from five sides. */
const bench = useBench()
const how = ref(false)

/** The weather stands among the choices; who asks for it is led there. */
const focus = ref<ChoiceName | null>(null)
function weather() {
  focus.value = 'air_evening_c'
  how.value = true
}
watch(how, (open) => {
  if (!open) focus.value = null
})

const TABS = [
  { name: 'bench', label: 'Rig' },
  { name: 'bench-parts', label: 'Inventory' },
  { name: 'bench-power', label: 'Power' },
  { name: 'bench-compare', label: 'Compare' },
  { name: 'bench-packing', label: 'Packing' },
] as const
</script>

<template>
  <WorkspacePage label="Bench" :tabs="TABS">
    <template #desk
      ><ContextDesk
        v-model:how="how"
        :focus="focus"
        :refusal="bench.refusal.value"
        :settled="bench.settled"
        @retry="bench.refetch()"
    /></template>
    <RouterView v-slot="{ Component }"><component :is="Component" :hand="bench" @weather="weather" /></RouterView>
  </WorkspacePage>
</template>
