<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'

import { countdown, useCues } from './useCues'
import { useField } from './useField'
import { useWake } from './useWake'

/** What calls next, and an alarm of one's own. */
const emit = defineEmits<{ left: [] }>()
const field = useField()
const { calls } = useCues()
const { wakesAt, wakeAt, remember } = useWake()
const HOUR_MS = 3_600_000
const [ROUND_MS, SHOWN] = [300_000, 6]
const at = ref(0)
onMounted(async () => {
  await remember()
  const set = wakesAt.value && wakesAt.value > field.now.value ? wakesAt.value : null
  at.value = set ?? Math.ceil((field.now.value + HOUR_MS) / ROUND_MS) * ROUND_MS
})
const ahead = computed(() => calls.value.filter((one) => one.loud && one.at > field.now.value && one.at < Infinity))
const isSet = computed(() => wakesAt.value !== null && wakesAt.value > field.now.value)
</script>

<template>
  <section class="wake" aria-label="What calls next">
    <ol class="scrolls list" tabindex="0">
      <li v-for="one in ahead.slice(0, SHOWN)" :key="one.subject">{{ field.planned(one.at) }} {{ one.name }}</li>
      <li v-if="!ahead.length">Nothing more calls this night.</li>
    </ol>
    <p role="status" class="at">Wake me at {{ field.planned(at) }}, in {{ countdown(at - field.now.value) }}</p>
    <div class="side">
      <button v-for="minutes in [-60, -5, 5, 60]" :key="minutes" type="button" @click="at += minutes * 60_000">
        {{ minutes > 0 ? '+' : '−' }}{{ Math.abs(minutes) }}<span class="unseen"> minutes</span>
      </button>
    </div>
    <p class="small">
      It rings until you tap it. A sleeping phone cannot ring: leave this page open, plugged in; the screen stays on.
    </p>
    <div class="side">
      <button type="button" @click="emit('left')">Back</button>
      <button v-if="isSet" type="button" @click="wakeAt(null)">No alarm</button>
      <button type="button" class="first" :disabled="at <= field.now.value" @click="wakeAt(at)">
        {{ isSet ? 'Move it' : 'Set alarm' }}
      </button>
    </div>
    <p v-if="isSet" class="small" role="status">The alarm is set for {{ field.planned(wakesAt ?? 0) }}.</p>
  </section>
</template>

<style scoped>
.wake {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.list {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.at {
  font-size: 24px;
  font-weight: 600;
}
.side button {
  padding: 6px 4px;
  min-width: 0;
}
</style>
