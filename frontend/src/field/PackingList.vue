<script setup lang="ts">
import { computed } from 'vue'

import { useField } from './useField'

/** The packing list: what was ticked at the desk, and what is ticked here. */
const emit = defineEmits<{ left: [] }>()
const field = useField()
const items = computed(() => field.pack.value?.packing ?? [])
const there = (key: string, packed: boolean) => packed || field.state.value.checked.has(`item:${key}`)
async function tick(key: string) {
  await field.record('checked', `item:${key}`)
}
async function forgot(name: string) {
  await field.record('forgotten', `forgotten:${name}`.slice(0, 120), { words: name })
}
const missing = computed(() => new Set(field.state.value.forgotten))
</script>

<template>
  <section class="list" aria-label="The packing list">
    <ul class="scrolls stack" tabindex="0">
      <li v-for="item in items" :key="item.key" class="side">
        <button type="button" class="line" :aria-pressed="there(item.key, item.packed)" @click="tick(item.key)">
          <span class="mark">{{ there(item.key, item.packed) ? '✓' : '' }}</span><span>{{ item.name }}</span>
        </button>
        <button
          type="button"
          class="small off"
          :aria-pressed="missing.has(item.name)"
          :aria-label="`${item.name} stayed at home`"
          @click="forgot(item.name)">
          {{ missing.has(item.name) ? 'forgot it' : 'forgot?' }}
        </button>
      </li>
    </ul>
    <button type="button" @click="emit('left')">Back</button>
  </section>
</template>

<style scoped>
.list {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.scrolls {
  flex: 1;
}
.line {
  justify-content: flex-start;
  text-align: left;
  gap: 12px;
}
.mark {
  width: 20px;
  flex: none;
}
.off {
  flex: none;
  min-width: 92px;
}
</style>
