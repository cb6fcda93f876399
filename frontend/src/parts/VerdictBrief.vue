<script setup lang="ts">
import { figure } from '@/composables/figures'
import type { Verdict } from '@/composables/useTonight'

import VerdictHead from './VerdictHead.vue'

/** A verdict where many stand side by side: the sentence, what to do, and the figures that open their working. */
defineProps<{ verdict: Verdict }>()
defineEmits<{ working: [key: string] }>()
</script>

<template>
  <section class="brief panel" :aria-label="verdict.topic">
    <VerdictHead :verdict="verdict" @working="$emit('working', '')" />
    <p class="sentence">{{ verdict.sentence }}</p>
    <p v-if="verdict.advice" class="advice" :title="verdict.advice">{{ verdict.advice }}</p>
    <slot />
    <p class="figures">
      <template v-for="one in verdict.figures" :key="one.name">
        <button
          v-if="one.working"
          type="button"
          class="plain number open"
          :aria-label="`${one.name}: ${figure(one)}. Open the working`"
          @click="$emit('working', one.working)">
          <small>{{ one.name }}</small> {{ figure(one) }}
        </button>
      </template>
    </p>
  </section>
</template>

<style scoped>
.brief {
  display: flex;
  flex-direction: column;
  gap: 3px;
  padding: 6px 10px;
  min-width: 0;
}
.sentence {
  font-size: 14px;
  line-height: 1.25;
  font-weight: 600;
}
.advice {
  font-size: 12.5px;
  line-height: 1.3;
  color: var(--muted);
}
.figures {
  margin-top: auto;
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  font-size: 12.5px;
}
.figures small {
  color: var(--muted);
  font-size: 11.5px;
}
.open {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.open:hover {
  color: var(--accent);
}
</style>
