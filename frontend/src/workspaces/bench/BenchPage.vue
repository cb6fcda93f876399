<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import type { ChoiceName } from '@/composables/choices'
import { useBench } from '@/composables/useBench'
import { useTonight } from '@/composables/useTonight'
import DuskStrip from '@/instruments/DuskStrip.vue'
import ContextDesk from '@/parts/ContextDesk.vue'

/** Will this rig do? One rig in hand, seen from five sides. */
const route = useRoute()
const bench = useBench()
const { tonight, refusal: nightRefused, isFetching } = useTonight()
const how = ref(false)

/** The weather stands among the choices; who asks for it is led there. */
const focus = ref<ChoiceName | null>(null)
function weather() {
  focus.value = 'air_evening_c'
  how.value = true
}
watch(how, (open) => { if (!open) focus.value = null })

const TABS = [
  { name: 'bench', label: 'Rig' },
  { name: 'bench-parts', label: 'Cupboard' },
  { name: 'bench-power', label: 'Power' },
  { name: 'bench-compare', label: 'Compare' },
  { name: 'bench-packing', label: 'Packing' },
] as const
</script>

<template>
  <main class="page">
    <ContextDesk v-model:how="how" :focus="focus" :refusal="bench.refusal.value" :settled="bench.settled" @retry="bench.refetch()" />
    <div class="head">
      <nav class="tabs" aria-label="Bench">
        <RouterLink v-for="tab in TABS" :key="tab.name" :to="{ name: tab.name, query: route.query }" :aria-current="route.name === tab.name ? 'page' : undefined">{{ tab.label }}</RouterLink>
      </nav>
      <DuskStrip v-if="tonight && !nightRefused" class="strip" slim :strip="tonight.strip" :cues="tonight.cues" :now="tonight.now" programme="" :stale="isFetching" />
    </div>
    <RouterView v-slot="{ Component }"><component :is="Component" :hand="bench" @weather="weather" /></RouterView>
  </main>
</template>

<style scoped>
.page { display: flex; flex-direction: column; gap: 6px; padding: 8px 12px 12px; min-width: 0; box-sizing: border-box; min-height: 100vh; }
.head { display: grid; grid-template-columns: auto minmax(0, 1fr); gap: 14px; align-items: end; }
.tabs { display: flex; gap: 2px; }
.tabs a { padding: 6px 12px; border-radius: 8px 8px 0 0; color: var(--muted); text-decoration: none; border-bottom: 2px solid var(--line); }
.tabs a[aria-current='page'] { color: var(--text); border-bottom-color: var(--accent); background: var(--panel); font-weight: 600; }
</style>
