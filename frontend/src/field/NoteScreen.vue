<script setup lang="ts">
import { ref } from 'vue'

import { useField } from './useField'

/** What was seen, touched or forgotten, by a press; and words, typed or spoken into the phone's own keyboard. */
const emit = defineEmits<{ left: [] }>()
const field = useField()
const SEEN: [string, string, string[]][] = [
  ['cloud', 'Cloud', ['none', 'thin', 'thick']],
  ['wind', 'Wind', ['none', 'light', 'gusts']],
  ['seeing', 'Stars', ['steady', 'twinkle']],
]
const words = ref('')
const kept = ref('')
const degrees = ref(5)

async function seen(what: string, value: string | number) {
  await field.record('seen', `seen:${what}`, { what, value })
  kept.value = `${what}: ${value}`
}
async function say(kind: 'noted' | 'touched' | 'forgotten') {
  const text = words.value.trim()
  if (!text) return
  await field.record(kind, `${kind}:${field.events.value.length}`, { words: text.slice(0, 2_000) })
  kept.value = { noted: 'Noted', touched: 'Bumped the rig', forgotten: 'For the next packing list' }[kind]
  words.value = ''
}
</script>

<template>
  <section class="note" aria-label="Take it down">
    <div v-for="[what, name, values] in SEEN" :key="what" class="line" role="group" :aria-label="name">
      <p>{{ name }}</p>
      <button v-for="value in values" :key="value" type="button" @click="seen(what, value)">{{ value }}</button>
    </div>
    <div class="line" role="group" aria-label="Air">
      <p>Air</p>
      <button type="button" aria-label="A degree colder" @click="degrees -= 1">−</button>
      <button type="button" @click="seen('temperature', degrees)">{{ degrees }} °C</button>
      <button type="button" aria-label="A degree warmer" @click="degrees += 1">+</button>
    </div>
    <label class="words">
      <span>In words</span>
      <textarea v-model="words" rows="3" maxlength="2000" />
    </label>
    <p role="status" class="small">{{ kept ? `Kept. ${kept}.` : ' ' }}</p>
    <div class="side">
      <button type="button" :disabled="!words.trim()" @click="say('forgotten')">Forgot something</button>
      <button type="button" :disabled="!words.trim()" @click="say('touched')">Bumped the rig</button>
    </div>
    <div class="side">
      <button type="button" @click="emit('left')">Back</button>
      <button type="button" class="first" :disabled="!words.trim()" @click="say('noted')">Note</button>
    </div>
  </section>
</template>

<style scoped>
.note {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.line {
  display: flex;
  align-items: center;
  gap: 16px;
}
.line p {
  width: 52px;
  flex: none;
}
.line button {
  flex: 1;
  min-width: 0;
  padding: 6px 4px;
}
.words {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
textarea {
  flex: 1;
  resize: none;
}
</style>
