<script setup lang="ts">
import { useRoute } from 'vue-router'

/** The sides of one workspace; going from one to the other, what is chosen comes along. */
defineProps<{ label: string; tabs: readonly { name: string; label: string }[] }>()
const route = useRoute()
</script>

<template>
  <nav class="tabs" :aria-label="label">
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
