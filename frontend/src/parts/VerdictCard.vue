<script setup lang="ts">
import { figure, inUtc } from '@/composables/figures'
import { useCaution } from '@/composables/useCaution'
import type { Verdict } from '@/composables/useTonight'

import VerdictHead from './VerdictHead.vue'

const props = defineProps<{ verdict: Verdict; night: string; showLimits?: boolean }>()
defineEmits<{ working: [key: string] }>()

const SIGNS = { 'at most': '≤', 'at least': '≥', chosen: '' }
const { unseen, understood } = useCaution(() => `${props.night} ${props.verdict.topic}`)
</script>

<template>
  <section class="card panel" :aria-label="verdict.topic">
    <VerdictHead :verdict="verdict" @working="$emit('working', '')" />
    <p class="sentence">{{ verdict.sentence }}</p>
    <p class="decides"><span class="muted">Decides:</span> {{ verdict.binding }}</p>
    <slot />
    <dl class="figures">
      <div v-for="one in verdict.figures" :key="one.name">
        <dt>{{ one.name }}</dt>
        <dd>
          <button
            v-if="one.working"
            type="button"
            class="plain number open"
            :title="inUtc(one.moment) ?? 'Open the working'"
            :aria-label="`${one.name}: ${figure(one)}. Open the working`"
            @click="$emit('working', one.working)">
            {{ figure(one) }}
          </button>
          <span v-else class="number" :title="inUtc(one.moment)">{{ figure(one) }}</span>
        </dd>
      </div>
    </dl>
    <ul v-if="showLimits" class="limits" aria-label="Limits">
      <li
        v-for="limit in verdict.limits"
        :key="limit.name"
        :class="{ binds: limit.binds, chosen: limit.kind === 'chosen' }">
        <span>{{ limit.name }}<small v-if="limit.binds"> decides</small></span>
        <span class="number">{{ SIGNS[limit.kind] }} {{ figure(limit.quantity) }}</span>
      </li>
    </ul>
    <p v-if="verdict.advice" class="advice">{{ verdict.advice }}</p>
    <p v-if="verdict.caution && unseen" class="caution">
      {{ verdict.caution }} <button type="button" class="plain link" @click="understood">Understood</button>
    </p>
  </section>
</template>

<style scoped>
.card {
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding: 8px 12px;
  min-width: 0;
}
.sentence {
  font-size: 16px;
  line-height: 1.25;
  font-weight: 600;
}
.decides,
.advice,
.caution {
  font-size: 13px;
  line-height: 1.35;
}
.advice {
  color: var(--muted);
}
.figures {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 12px;
  margin: 1px 0;
}
.figures div {
  display: flex;
  flex-direction: column;
  border-top: 1px solid var(--line);
  padding-top: 1px;
  min-width: 0;
}
dt {
  font-size: 12px;
  color: var(--muted);
}
dd {
  margin: 0;
  font-size: 14px;
}
.open {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.open:hover {
  color: var(--accent);
}
.limits {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 13px;
}
.limits li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  padding: 2px 6px;
  color: var(--muted);
}
.limits li.binds {
  color: var(--text);
  background: var(--raised);
  border-radius: 5px;
}
.limits li.chosen {
  color: var(--text);
  font-weight: 600;
}
.limits small {
  color: var(--accent);
}
.caution {
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
.link {
  color: var(--accent);
  font-size: 13px;
  text-decoration: underline;
  text-underline-offset: 3px;
}
</style>
