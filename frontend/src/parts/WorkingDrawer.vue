<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import { figure, inUtc } from '@/composables/figures'
import type { Verdict } from '@/composables/useTonight'

import SideSheet from './SideSheet.vue'

const props = defineProps<{ verdict: Verdict | null; focus: string }>()
const emit = defineEmits<{ close: [] }>()
const body = ref<HTMLElement | null>(null)
const open = computed(() => props.verdict !== null)
const MARKS = {
  published: 'Published',
  'common practice': 'Common practice, no source',
  'from memory': 'From memory, to be verified',
  definition: 'By definition',
} as const

watch([open, () => props.focus], async () => {
  if (!props.focus) return
  await nextTick()
  setTimeout(() => body.value?.querySelector(`[data-key="${props.focus}"]`)?.scrollIntoView({ block: 'start' }), 250)
})
</script>

<template>
  <SideSheet
    :open="open"
    :width="520"
    :title="verdict ? `How “${verdict.topic}” was worked out` : ''"
    @close="emit('close')">
    <div v-if="verdict" ref="body" class="workings">
      <p>
        {{ verdict.sentence }} <span v-if="verdict.binding" class="muted">Decides: {{ verdict.binding }}.</span>
      </p>
      <article v-for="one in verdict.workings" :key="one.key" :data-key="one.key" :class="{ focus: one.key === focus }">
        <h3>{{ one.title }}</h3>
        <p class="formula fixed">{{ one.formula }}</p>
        <table>
          <tbody>
            <tr v-for="(input, place) in one.inputs" :key="place">
              <th scope="row">
                {{ input.name }}<i v-if="input.symbol"> {{ input.symbol }}</i>
              </th>
              <td class="number" :title="inUtc(input.moment)">{{ figure(input) }}</td>
            </tr>
            <tr class="result">
              <th scope="row">
                {{ one.result.name }}<i v-if="one.result.symbol"> {{ one.result.symbol }}</i>
              </th>
              <td class="number">{{ figure(one.result) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="source">
          <b>{{ MARKS[one.mark] }}.</b> {{ one.source }}. <span v-if="one.note">{{ one.note }}</span>
        </p>
      </article>
      <p v-if="verdict.caution" class="caution"><b>Take care.</b> {{ verdict.caution }}</p>
    </div>
  </SideSheet>
</template>

<style scoped>
.workings {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
article {
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
}
article.focus {
  border-color: var(--accent);
}
h3 {
  font-size: 15px;
}
.formula {
  margin: 6px 0;
  padding: 6px 8px;
  background: var(--raised);
  border-radius: 5px;
  font-size: 13px;
  overflow-wrap: anywhere;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--muted);
  padding: 2px 8px 2px 0;
}
th i {
  color: var(--text);
  margin-left: 0.5em;
}
td {
  text-align: right;
}
.result th,
.result td {
  border-top: 1px solid var(--line);
  font-weight: 600;
  color: var(--text);
  padding-top: 4px;
}
.source {
  margin-top: 6px;
  font-size: 12.5px;
  color: var(--muted);
}
.caution {
  font-size: 13px;
  padding: 8px 12px;
  border-left: 3px solid var(--care);
}
</style>
