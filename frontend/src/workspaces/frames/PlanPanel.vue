<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Beside } from '@/composables/useFrames'
import type { Verdict } from '@/composables/useTonight'

/** What was planned of this run, and what its frames say; where they differ a plan can say the same, and nothing changes by itself. */
defineProps<{ figures: readonly Beside[]; verdict: Verdict }>()
const emit = defineEmits<{ planWith: [figure: Beside]; working: [key: string] }>()
const told = (one: Beside) => (one.agrees === null ? '' : one.agrees ? 'agrees' : 'differs')
const offers = (one: Beside) => one.wind !== null || one.spoils_per_h !== null
const words = (one: Beside) => (one.wind === null ? `${one.spoils_per_h} spoiled an hour` : `wind “${one.wind}”`)
</script>

<template>
  <section class="panel plan" aria-label="As planned, and as measured">
    <h2>{{ verdict.topic }}</h2>
    <p>
      {{ verdict.sentence }}
      <button type="button" class="plain open" @click="emit('working', '')">Working</button>
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col">Figure</th>
          <th scope="col">Planned for this night</th>
          <th scope="col">Measured in these frames</th>
          <th scope="col"><span class="unseen">Whether they agree</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in figures" :key="one.key">
          <th scope="row">{{ one.name }}</th>
          <td>{{ one.expected }}</td>
          <td>
            <button
              type="button"
              class="plain open"
              :aria-label="`${one.name}, measured: ${one.measured}. Open the working`"
              @click="emit('working', one.key)">
              {{ one.measured }}
            </button>
          </td>
          <td>
            <span :class="told(one)">{{ told(one) }}</span>
            <Button v-if="offers(one)" size="small" @click="emit('planWith', one)">Plan with {{ words(one) }}</Button>
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.plan {
  padding: 8px 12px;
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
th,
td {
  text-align: left;
  vertical-align: top;
  padding: 4px 8px 4px 0;
}
tbody tr {
  border-top: 1px solid var(--line);
}
tbody th {
  font-weight: 500;
}
td:last-child {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
.open {
  text-align: left;
  font-size: 13px;
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.differs {
  color: var(--care);
}
@media (max-width: 600px) {
  thead {
    display: none;
  }
  tr,
  tbody th,
  td {
    display: block;
  }
  td:nth-child(2)::before {
    content: 'planned ';
    color: var(--muted);
  }
  td:nth-child(3)::before {
    content: 'measured ';
    color: var(--muted);
  }
}
</style>
