<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'

import type { Verdict } from '@/composables/useTonight'

import { LEVELS } from './levels'

/** On a small screen the verdicts come first, a sentence each; the cards with their figures follow below the instrument. */
defineProps<{ verdicts: Verdict[] }>()
defineEmits<{ working: [topic: string] }>()
const small = useMediaQuery('(max-width: 820px)')
</script>

<template>
  <ul v-if="small && verdicts.length" class="verdict-lines" aria-label="Verdicts in short">
    <li v-for="one in verdicts" :key="one.topic" :class="one.level">
      <button type="button" class="plain" @click="$emit('working', one.topic)">
        <svg viewBox="0 0 24 24" width="18" height="18" aria-hidden="true"><path :d="LEVELS[one.level].shape" /></svg>
        <span
          ><span class="unseen">{{ LEVELS[one.level].word }}: </span><b>{{ one.topic }}</b> {{ one.sentence }}</span
        >
      </button>
    </li>
  </ul>
</template>

<style scoped>
.verdict-lines {
  list-style: none;
  margin: 0;
  padding: 2px 6px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 8px;
}
li + li {
  border-top: 1px solid var(--line);
}
button {
  display: flex;
  gap: 10px;
  align-items: center;
  width: 100%;
  text-align: left;
  font-size: 14px;
  line-height: 1.25;
  padding: 4px 2px;
}
svg {
  flex: none;
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
  stroke-linecap: round;
}
.go svg {
  color: var(--go);
}
.care svg {
  color: var(--care);
}
.stop svg {
  color: var(--stop);
}
</style>
