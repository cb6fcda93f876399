<script setup lang="ts">
import { computed, nextTick, onUnmounted, ref, watch } from 'vue'

import { useCues } from './useCues'
import { useField } from './useField'

/** What calls, over everything: words, a tone and a shake, until it is seen; and what called while the phone slept. */
const field = useField()
const { ringing, missed } = useCues()
const calls = computed(() => (ringing.value.length ? ringing.value.slice(0, 3) : missed.value))
const late = computed(() => !ringing.value.length && missed.value.length > 0)
const button = ref<HTMLButtonElement | null>(null)
let sound: AudioContext | null = null
let again: ReturnType<typeof setInterval> | null = null

/** Two low notes; a browser that has not been touched yet stays silent, and the screen says it all the same. */
function ring() {
  navigator.vibrate?.([300, 150, 300])
  try {
    sound ??= new AudioContext()
    for (const [start, pitch] of [
      [0, 392],
      [0.28, 330],
    ] as const) {
      const [tone, loud] = [sound.createOscillator(), sound.createGain()]
      tone.frequency.value = pitch
      loud.gain.setValueAtTime(0.0001, sound.currentTime + start)
      loud.gain.exponentialRampToValueAtTime(0.3, sound.currentTime + start + 0.03)
      loud.gain.exponentialRampToValueAtTime(0.0001, sound.currentTime + start + 0.25)
      tone.connect(loud).connect(sound.destination)
      tone.start(sound.currentTime + start)
      tone.stop(sound.currentTime + start + 0.27)
    }
  } catch {
    sound = null
  }
}
function quiet() {
  if (again) clearInterval(again)
  again = null
}
watch(
  () => ringing.value.length,
  (count) => {
    quiet()
    if (!count) return
    ring()
    void nextTick(() => button.value?.focus())
    again = setInterval(ring, 5_000)
  },
  { immediate: true },
)
onUnmounted(quiet)
async function seen() {
  for (const one of calls.value) await field.record('acknowledged', one.subject, { name: one.name })
}
</script>

<template>
  <div v-if="calls.length" class="alarm" role="alertdialog" :aria-label="late ? 'While you were away' : 'It is time'">
    <div class="words" :class="{ late }">
      <h2 v-if="late">While you were away</h2>
      <p v-for="one in calls" :key="one.subject">
        <span>{{ field.planned(one.at) }}</span>
        {{ one.name }}
      </p>
    </div>
    <button ref="button" type="button" class="first" @click="seen">OK, got it</button>
  </div>
</template>

<style scoped>
.alarm {
  position: fixed;
  inset: 0;
  z-index: 5;
  display: flex;
  flex-direction: column;
  justify-content: space-between;
  gap: 16px;
  padding: 40px 20px;
  background: #000;
  border: 10px solid var(--ink);
  box-sizing: border-box;
}
.words {
  display: flex;
  flex-direction: column;
  gap: 28px;
  overflow-y: auto;
}
p {
  font-size: 34px;
  font-weight: 700;
  line-height: 1.15;
}
p span {
  display: block;
  font-size: 21px;
  font-weight: 400;
}
.late {
  gap: 16px;
}
.late p {
  font-size: 24px;
}
.first {
  min-height: 120px;
}
</style>
