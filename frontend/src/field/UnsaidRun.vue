<script setup lang="ts">
import { computed, ref } from 'vue'

import PressedAt from './PressedAt.vue'
import { useField } from './useField'
import { useSteps, type Run } from './useSteps'
import { useTap } from './useTap'

/** A run whose time has come, and of which nobody said whether it was started: asked, with one tap to answer. */
const props = defineProps<{ run: Run }>()
const emit = defineEmits<{ run: [key: string] }>()
const field = useField()
const { steps } = useSteps()
const { resting, tap } = useTap()
const over = computed(() => Date.parse(props.run.ends_at) < field.now.value)
const asking = ref(false)
const several = computed(() => (field.pack.value?.rigs.length ?? 0) > 1)
const name = computed(
  () => `${props.run.name}${several.value ? `, ${field.pack.value?.rigs[props.run.rig]?.name ?? ''},` : ''}`,
)
/** By this phone's clock, as events are told. */
const byPhone = (moment: number) => new Date(moment + field.offset.value * 1000).toISOString()
async function started(at: number) {
  const key = props.run.key
  if (!(await tap('begun', `run:${key}:begun`, { at: new Date(at).toISOString() }))) return
  emit('run', key)
}
async function asPlanned() {
  const { key, begins_at, ends_at, frames } = props.run
  if (!(await tap('begun', `run:${key}:begun`, { at: byPhone(Date.parse(begins_at)) }))) return
  if (over.value) await field.record('ended', `run:${key}:ended`, { at: byPhone(Date.parse(ends_at)), frames })
}
const didNot = () =>
  tap('put off', `step:${steps.value.find((one) => one.kind === 'run' && one.run === props.run.key)?.key}`)
</script>

<template>
  <div class="unsaid">
    <p class="small">It is {{ field.clock(field.now.value) }}.</p>
    <h2 v-if="over">
      {{ name }} was planned from {{ field.planned(run.begins_at) }} to {{ field.planned(run.ends_at) }}. Did it run?
    </h2>
    <h2 v-else>{{ name }} has been scheduled since {{ field.planned(run.begins_at) }}. Started?</h2>
    <div class="middle" />
    <PressedAt v-if="asking" word="It began at" @said="started" @left="asking = false" />
    <div v-else class="stack">
      <button type="button" class="first" :disabled="resting" @click="asPlanned">
        {{ over ? 'Yes, as planned' : `Yes, at ${field.planned(run.begins_at)}` }}
      </button>
      <button v-if="!over" type="button" :disabled="resting" @click="started(Date.now())">Started just now</button>
      <div class="side">
        <button type="button" @click="asking = true">Another time</button>
        <button type="button" :disabled="resting" @click="didNot">{{ over ? 'It did not run' : 'Not started' }}</button>
      </div>
    </div>
  </div>
</template>

<style scoped>
.unsaid {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.middle {
  flex: 1;
}
</style>
