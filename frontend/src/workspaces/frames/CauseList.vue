<script setup lang="ts">
import { figure } from '@/composables/figures'
import type { JudgedRun } from '@/composables/useFrames'
import { LEVELS } from '@/parts/levels'

/** What spoiled frames, the heaviest first: how sure, what spoke for and against, what to do. A press shows its frames alone. */
defineProps<{ run: JudgedRun; chosen: string }>()
const emit = defineEmits<{ choose: [key: string] }>()
</script>

<template>
  <section class="causes" aria-label="Causes">
    <p v-if="!run.causes.length" class="muted">Nothing spoils this run.</p>
    <details v-for="(one, place) in run.causes" :key="one.key" class="panel" :open="place === 0">
      <summary>
        <svg class="mark" :class="one.verdict.level" viewBox="0 0 24 24" width="16" height="16" aria-hidden="true">
          <path :d="LEVELS[one.verdict.level].shape" />
        </svg>
        {{ one.verdict.sentence }}
      </summary>
      <ul>
        <li v-for="said in one.verdict.figures" :key="said.name + said.text">
          <span class="muted">{{ said.name }}:</span> {{ figure(said) }}
        </li>
      </ul>
      <p>{{ one.verdict.advice }}</p>
      <button type="button" class="plain link" :aria-pressed="chosen === one.key" @click="emit('choose', one.key)">
        {{ chosen === one.key ? 'Show all frames' : 'Show only its frames' }}
      </button>
    </details>
  </section>
</template>

<style scoped>
.causes {
  display: grid;
  gap: 6px;
  align-content: start;
}
details {
  padding: 6px 10px;
  font-size: 13px;
}
summary {
  font-size: 14px;
  font-weight: 600;
  cursor: pointer;
}
.mark path {
  fill: none;
  stroke: currentColor;
  stroke-width: 2.4;
}
.mark.go {
  color: var(--go);
}
.mark.care {
  color: var(--care);
}
.mark.stop {
  color: var(--stop);
}
ul {
  margin: 6px 0;
  padding-left: 16px;
}
p {
  margin: 4px 0;
}
</style>
