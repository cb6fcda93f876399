<script setup lang="ts">
import { figure } from '@/composables/figures'
import type { Verdict } from '@/composables/useTonight'

import { LEVELS } from './levels'

/** A verdict where many stand side by side: the sentence, what to do, and the figures that open their working. */
defineProps<{ verdict: Verdict }>()
defineEmits<{ working: [key: string] }>()
</script>

<template>
  <section class="brief panel" :class="verdict.level" :aria-label="verdict.topic">
    <header>
      <h2>{{ verdict.topic }}</h2>
      <span class="level"><svg viewBox="0 0 24 24" width="14" height="14" aria-hidden="true"><path :d="LEVELS[verdict.level].shape" /></svg>{{ LEVELS[verdict.level].word }}</span>
      <button type="button" class="plain link" :title="`Decides: ${verdict.binding}`" @click="$emit('working', '')">Working<span class="unseen"> of {{ verdict.topic }}</span></button>
    </header>
    <p class="sentence">{{ verdict.sentence }}</p>
    <p v-if="verdict.advice" class="advice" :title="verdict.advice">{{ verdict.advice }}</p>
    <slot />
    <p class="figures">
      <template v-for="one in verdict.figures" :key="one.name">
        <button v-if="one.working" type="button" class="plain number open" :aria-label="`${one.name}: ${figure(one)}. Open the working`" @click="$emit('working', one.working)"><small>{{ one.name }}</small> {{ figure(one) }}</button>
      </template>
    </p>
  </section>
</template>

<style scoped>
.brief { display: flex; flex-direction: column; gap: 3px; padding: 6px 10px; min-width: 0; }
header { display: flex; align-items: center; gap: 8px; }
h2 { color: var(--muted); text-transform: uppercase; letter-spacing: 0.08em; font-size: 11.5px; }
.level { display: inline-flex; margin-left: auto; align-items: center; gap: 4px; font-size: 12.5px; font-weight: 600; }
.go .level { color: var(--go); }
.care .level { color: var(--care); }
.stop .level { color: var(--stop); }
.level path { fill: none; stroke: currentColor; stroke-width: 2.4; stroke-linecap: round; }
.sentence { font-size: 14px; line-height: 1.25; font-weight: 600; }
.advice { font-size: 12.5px; line-height: 1.3; color: var(--muted); }
.figures { margin-top: auto; display: flex; flex-wrap: wrap; gap: 0 10px; font-size: 12.5px; }
.figures small { color: var(--muted); font-size: 11.5px; }
.open { text-decoration: underline dotted; text-decoration-color: var(--muted); text-underline-offset: 3px; }
.open:hover { color: var(--accent); }
.link { color: var(--accent); font-size: 12.5px; text-decoration: underline; text-underline-offset: 3px; }
</style>
