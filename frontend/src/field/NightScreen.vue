<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import AllSteps from './AllSteps.vue'
import ChangedScreen from './ChangedScreen.vue'
import CueAlarm from './CueAlarm.vue'
import NoteScreen from './NoteScreen.vue'
import PackingList from './PackingList.vue'
import RunScreen from './RunScreen.vue'
import StepScreen from './StepScreen.vue'
import TakenDown from './TakenDown.vue'
import WakeScreen from './WakeScreen.vue'
import WrongScreen from './WrongScreen.vue'
import type { Pack } from './store'
import { useAwake } from './useAwake'
import { useField } from './useField'
import { useWake } from './useWake'

/** One night: what to do now in the middle, four ways out of it at the bottom. */
const props = defineProps<{ pack: Pack }>()
type Screen = 'step' | 'steps' | 'list' | 'run' | 'wrong' | 'changed' | 'note' | 'taken' | 'wake'
const field = useField()
const { dim, dimmer } = useAwake()
const { remember } = useWake()
watch(field.night, remember, { immediate: true })
const screen = ref<Screen>('step')
const run = ref('')
const age = computed(() => {
  const minutes = Math.max(Math.round((field.now.value - Date.parse(props.pack.made_at)) / 60_000), 0)
  return minutes < 120
    ? `${minutes} min`
    : minutes < 2_880
      ? `${Math.round(minutes / 60)} h`
      : `${Math.round(minutes / 1440)} days`
})
const link = computed(() => {
  if (field.single.value) return 'one file'
  if (field.waiting.value) return `${field.waiting.value} to send`
  return { unknown: '', reached: 'all sent', away: 'no connection', 'signed out': 'signed out', refused: 'refused' }[
    field.link.value
  ]
})
function show(wanted: Screen) {
  screen.value = wanted
}
function showRun(key: string) {
  run.value = key
  screen.value = 'run'
}
const WAYS: [Screen, string][] = [
  ['step', 'Now'],
  ['wrong', 'Wrong'],
  ['changed', 'Change plan'],
  ['note', 'Note'],
]
</script>

<template>
  <div class="night">
    <header>
      <button type="button" class="where small" :aria-expanded="screen === 'taken'" @click="show('taken')">
        <span class="unseen">Recorded. </span>saved {{ age }} ago<br />{{ link || ' ' }}
      </button>
      <p class="clock"><span class="unseen">Time there: </span>{{ field.clock(field.now.value) }}</p>
      <button type="button" class="small" :aria-label="`Dimmer, step ${dim + 1} of 3`" @click="dimmer">Dim</button>
    </header>
    <main>
      <p v-if="field.told.value" class="caution small" role="alert">
        {{ field.told.value }} <button type="button" @click="field.told.value = ''">OK, got it</button>
      </p>
      <StepScreen
        v-if="screen === 'step'"
        @all="show('steps')"
        @list="show('list')"
        @wrong="show('wrong')"
        @wake="show('wake')"
        @run="showRun" />
      <AllSteps v-else-if="screen === 'steps'" @chosen="show('step')" />
      <PackingList v-else-if="screen === 'list'" @left="show('step')" />
      <RunScreen v-else-if="screen === 'run'" :run-key="run" @left="show('step')" @wrong="show('wrong')" />
      <WrongScreen v-else-if="screen === 'wrong'" :pack="pack" @left="show('step')" />
      <ChangedScreen v-else-if="screen === 'changed'" :pack="pack" @left="show('step')" />
      <NoteScreen v-else-if="screen === 'note'" @left="show('step')" />
      <WakeScreen v-else-if="screen === 'wake'" @left="show('step')" />
      <TakenDown v-else @left="show('step')" />
    </main>
    <nav aria-label="Field">
      <button
        v-for="[key, name] in WAYS"
        :key="key"
        type="button"
        :aria-current="screen === key ? 'page' : undefined"
        :class="{ here: screen === key }"
        @click="show(key)">
        {{ name }}
      </button>
    </nav>
    <CueAlarm />
  </div>
</template>

<style scoped>
.night {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  box-sizing: border-box;
  padding: env(safe-area-inset-top) 0 env(safe-area-inset-bottom);
  max-width: 620px;
  margin: 0 auto;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  padding: 8px 16px;
}
.where {
  justify-content: flex-start;
  text-align: left;
  line-height: 1.15;
  min-width: 118px;
}
.clock {
  font-size: 34px;
  font-weight: 600;
}
main {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 8px 16px;
}
main > .caution {
  margin-bottom: 8px;
}
nav {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 16px;
  padding: 8px 16px 12px;
}
nav button {
  line-height: 1.1;
  padding: 6px 0;
  min-width: 0;
  font-size: 17px;
}
nav .here {
  border-color: var(--ink);
  font-weight: 700;
}
</style>
