<script setup lang="ts">
import { nextTick, onMounted, useTemplateRef, watch } from 'vue'
import { useRoute } from 'vue-router'

/** The sides of one workspace; going from one to the other, what is chosen comes along. */
defineProps<{ label: string; tabs: readonly { name: string; label: string }[] }>()
const route = useRoute()

const strip = useTemplateRef('strip')
/** On a narrow screen the strip rolls to the side that is open. */
async function roll() {
  await nextTick()
  const open = strip.value?.querySelector<HTMLElement>('[aria-current]')
  if (strip.value && open) strip.value.scrollLeft = open.offsetLeft - (strip.value.clientWidth - open.offsetWidth) / 2
}
onMounted(roll)
watch(() => route.name, roll)
</script>

<template>
  <nav ref="strip" class="tabs" :aria-label="label">
    <RouterLink
      v-for="tab in tabs"
      :key="tab.name"
      :to="{ name: tab.name, query: route.query }"
      :aria-current="route.name === tab.name ? 'page' : undefined"
      >{{ tab.label }}</RouterLink
    >
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 2px;
}
.tabs a {
  padding: 6px 12px;
  border-radius: 8px 8px 0 0;
  color: var(--muted);
  text-decoration: none;
  border-bottom: 2px solid var(--line);
  white-space: nowrap;
}
.tabs a[aria-current='page'] {
  color: var(--text);
  border-bottom-color: var(--accent);
  background: var(--panel);
  font-weight: 600;
}
@media (max-width: 820px) {
  .tabs {
    position: relative;
    overflow-x: auto;
    scrollbar-width: thin;
    min-width: 0;
  }
  .tabs a {
    min-height: 44px;
    display: flex;
    align-items: center;
    box-sizing: border-box;
  }
}
</style>
