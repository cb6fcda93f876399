<script setup lang="ts">
import { computed } from 'vue'

import { momentOf, type FieldEvent } from './fold'
import { useField } from './useField'

/** Everything that was taken down, the latest first; each can be taken back, none is ever lost. */
const emit = defineEmits<{ left: [] }>()
const field = useField()
const steps = computed(() => new Map(field.pack.value?.steps.map((one) => [`step:${one.key}`, one.sentence]) ?? []))
const runs = computed(() => new Map(field.pack.value?.runs.map((one) => [one.key, one.name]) ?? []))
const shown = computed(() => [...field.state.value.standing].reverse().slice(0, 200))
function words(event: FieldEvent): string {
  const about = steps.value.get(event.subject) ?? runs.value.get(event.subject.split(':')[1] ?? '') ?? ''
  const data = event.data
  if (event.kind === 'seen') return `${data.what}: ${data.value}`
  if (event.kind === 'ended' || event.kind === 'paused' || event.kind === 'resumed')
    return `${about}: ${data.frames} frames`
  if (data.words) return String(data.words)
  if (data.name) return String(data.name)
  if (event.kind === 'otherwise') return data.exposure_s ? `${about}: ${data.exposure_s} s` : String(data.what)
  if (event.kind === 'wrong')
    return field.pack.value?.knowledge.causes.find((one) => one.key === data.cause)?.name ?? ''
  return about || event.subject
}
/** What lies here as a file, for a phone that never meets the server again. */
function save() {
  const told = { format: 1, night: field.pack.value?.night, events: field.events.value.map((one) => one.event) }
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(told)], { type: 'application/json' }))
  link.download = `night-${field.pack.value?.evening}-events.json`
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}
</script>

<template>
  <section class="taken" aria-label="Recorded">
    <p v-if="field.single.value" class="small">
      This page is one file by itself. Save what lies here, and read it in on the desk: Field.
    </p>
    <p v-else-if="field.link.value === 'signed out'" class="small">
      Nobody is signed in. What waits stays here until you are.
      <a class="press" :href="`/sign-in?then=${encodeURIComponent(`/field/#/${field.night.value}`)}`">Sign in</a>
    </p>
    <p v-if="Math.abs(field.offset.value) > 120" class="small">
      The clock of this phone is {{ Math.abs(Math.round(field.offset.value / 60)) }} min
      {{ field.offset.value > 0 ? 'ahead' : 'behind' }}; times here are put right by that.
    </p>
    <p v-for="one in field.refused.value" :key="one.event.id" class="caution small">
      Not taken by the server: {{ words(one.event) }}. {{ one.refused }} It stays here.
    </p>
    <ol class="scrolls stack" tabindex="0">
      <li v-for="event in shown" :key="event.id" class="side line">
        <span
          >{{ field.clock(momentOf(event)) }} {{ event.kind }}<br /><span class="small">{{ words(event) }}</span></span
        >
        <button type="button" class="small" @click="field.takeBack(event)">Undo</button>
      </li>
      <li v-if="!shown.length">Nothing yet.</li>
    </ol>
    <div class="side">
      <button type="button" @click="emit('left')">Back</button>
      <button type="button" @click="save">Save as a file</button>
      <button v-if="!field.single.value" type="button" @click="field.sync()">Send</button>
    </div>
  </section>
</template>

<style scoped>
.taken {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.scrolls {
  flex: 1;
}
.line button {
  flex: none;
}
.press {
  margin-top: 8px;
}
</style>
