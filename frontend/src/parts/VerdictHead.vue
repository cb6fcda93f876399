<script setup lang="ts">
import type { Verdict } from '@/composables/useTonight'

import { LEVELS } from './levels'

/** Topic, level and the way to the working: the head of every verdict. A word and a shape tell the level; the colour repeats them. */
defineProps<{ verdict: Verdict }>()
defineEmits<{ working: [] }>()
</script>

<template>
  <header :class="verdict.level">
    <h2>{{ verdict.topic }}</h2>
    <span class="level"
      ><svg viewBox="0 0 24 24" width="15" height="15" aria-hidden="true"><path :d="LEVELS[verdict.level].shape" /></svg
      >{{ LEVELS[verdict.level].word }}</span
    >
    <button type="button" class="plain link" :title="`Decides: ${verdict.binding}`" @click="$emit('working')">
      Working<span class="unseen"> of {{ verdict.topic }}</span>
    </button>
  </header>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 10px;
}
h2 {
  color: var(--muted);
  text-transform: uppercase;
  letter-spacing: 0.08em;
  font-size: 12px;
}
.level {
  display: inline-flex;
  margin-left: auto;
  align-items: center;
  gap: 4px;
  font-size: 13px;
  font-weight: 600;
}
.go .level {
  color: var(--go);
}
.care .level {
  color: var(--care);
}
.stop .level {
  color: var(--stop);
}
.level path {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
  stroke-linecap: round;
}
.link {
  color: var(--accent);
  font-size: 13px;
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
