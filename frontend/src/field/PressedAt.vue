<script setup lang="ts">
import { ref } from 'vue'

import { useField } from './useField'

/** A moment after the fact, minute by minute, by the clock of the place. */
defineProps<{ word: string }>()
const emit = defineEmits<{ said: [deviceMoment: number]; left: [] }>()
const field = useField()
// A whole minute of the place's clock, told by this phone's own, which may be off.
const at = ref(Math.floor(field.now.value / 60_000) * 60_000 + field.offset.value * 1000)
const shown = () => field.clock(at.value - field.offset.value * 1000)
</script>

<template>
  <div class="stack">
    <p class="moment" role="status">{{ word }} {{ shown() }}</p>
    <div class="side">
      <button v-for="minutes in [-10, -1, 1, 10]" :key="minutes" type="button" @click="at += minutes * 60_000">
        {{ minutes > 0 ? '+' : '−' }}{{ Math.abs(minutes) }}
        <span class="unseen">minutes</span>
      </button>
    </div>
    <div class="side">
      <button type="button" @click="emit('left')">Back</button>
      <button type="button" class="first" @click="emit('said', at)">Save</button>
    </div>
  </div>
</template>

<style scoped>
.moment {
  font-size: 30px;
  font-weight: 600;
}
.side button {
  padding: 6px;
}
</style>
