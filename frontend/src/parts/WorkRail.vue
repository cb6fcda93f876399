<script setup lang="ts">
import { useRoute } from 'vue-router'

import { useSession } from '@/composables/useSession'
import { useTheme } from '@/theme/useTheme'

const { session, leave } = useSession()
const { theme, next } = useTheme()
const route = useRoute()

/** In the order of the work; only what there is. Drawn as paths of a 24-unit square. */
const SPACES = [
  { name: 'tonight', label: 'Tonight', drawing: 'M2 17h20M5 17c1-6 4-9 7-9s6 3 7 9M12 3v2M4 7l1.500 1.500M20 7l-1.500 1.500' },
  { name: 'bench', label: 'Bench', drawing: 'M3 18h18M12 18v-5M5 15L18 6M7.500 10.500a2.500 2.500 0 1 0 .01 0M16.500 6a1.500 1.500 0 1 0 .01 0' },
  { name: 'grounds', label: 'Grounds', drawing: 'M2 18h20M3 18l4-7 3 4 4-9 4 8 3-2v6M12 21v-1' },
  { name: 'nights', label: 'Nights', drawing: 'M3 6h10M3 11h15M3 16h8M17 4l1.500 1.500M21 8h-2M14 19h7' },
  { name: 'pole', label: 'Pole', drawing: 'M4 20L18 6M15 4l5 5M18 6v.01M9 20a7 7 0 0 0-5-5M20 13a8 8 0 0 1-7 7' },
  { name: 'exposure', label: 'Exposure', drawing: 'M3 19h18M3 15c4 0 4-9 8-9h3c3 0 3 9 7 9M12 3v16M9 19v2M15 19v2' },
  { name: 'plans', label: 'Plans', drawing: 'M5 4h14v16H5zM8 9h8M8 13h8M8 17h5' },
  { name: 'about', label: 'About', drawing: 'M12 3a9 9 0 1 0 .01 0M12 11v6M12 7.500v.5' },
] as const
/** Between these one goes with everything that is chosen. */
const WITH_CONTEXT: readonly string[] = ['tonight', 'bench', 'grounds', 'nights', 'pole', 'exposure']
</script>

<template>
  <nav class="rail" aria-label="Workspaces">
    <RouterLink v-for="space in SPACES" :key="space.name" class="space"
                :to="{ name: space.name, query: route.meta.context && WITH_CONTEXT.includes(space.name) ? route.query : {} }"
                :aria-current="String(route.name ?? '').split('-')[0] === space.name ? 'page' : undefined">
      <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path :d="space.drawing" /></svg>
      {{ space.label }}
    </RouterLink>
    <span class="gap" />
    <button type="button" class="space plain" :title="`Theme: ${theme}. Press to change (key t)`" @click="next">
      <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path d="M12 4a8 8 0 1 0 0 16zM12 4a8 8 0 0 1 0 16" /></svg>
      {{ theme }}
    </button>
    <RouterLink v-if="session?.username" class="space" :to="{ name: 'account' }" :aria-current="route.name === 'account' ? 'page' : undefined">
      <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path d="M12 4a4 4 0 1 0 .01 0M4 21c1-5 4-7 8-7s7 2 8 7" /></svg>
      Account
    </RouterLink>
    <button v-if="session?.username" type="button" class="space plain" :title="`Signed in as ${session.username}`" @click="leave">
      <svg viewBox="0 0 24 24" width="24" height="24" aria-hidden="true"><path d="M10 4H5v16h5M14 8l4 4-4 4M18 12H9" /></svg>
      Sign out
    </button>
  </nav>
</template>

<style scoped>
.rail { position: sticky; top: 0; height: 100vh; display: flex; flex-direction: column; gap: 4px; padding: 8px 4px; background: var(--panel); border-right: 1px solid var(--line); box-sizing: border-box; }
.space { display: flex; flex-direction: column; align-items: center; gap: 2px; padding: 8px 2px; border-radius: 8px; font-size: 12px; color: var(--muted); text-decoration: none; text-align: center; }
.space:hover { background: var(--raised); color: var(--text); }
.space[aria-current='page'] { color: var(--text); background: var(--raised); box-shadow: inset 3px 0 0 var(--accent); }
.gap { flex: 1; }
svg path { fill: none; stroke: currentColor; stroke-width: 1.6; stroke-linecap: round; stroke-linejoin: round; }
</style>
