<script setup lang="ts">
import { useField } from './useField'
import { useSteps } from './useSteps'

const emit = defineEmits<{ chosen: [] }>()
const field = useField()
const { steps, chosen, current, done, putOff } = useSteps()
const rig = (place: number | null | undefined) =>
  place == null || (field.pack.value?.rigs.length ?? 0) < 2 ? '' : ` · ${field.pack.value?.rigs[place]?.name ?? ''}`
function choose(key: string) {
  chosen.value = key
  emit('chosen')
}
</script>

<template>
  <section class="scrolls" aria-label="All steps" tabindex="0">
    <ol class="stack">
      <li v-for="step in steps" :key="step.key">
        <button
          type="button"
          class="line"
          :aria-current="step.key === current?.key ? 'step' : undefined"
          @click="choose(step.key)">
          <span class="mark">{{ done(step) ? '✓' : putOff(step) ? '…' : '' }}</span>
          <span class="unseen">{{ done(step) ? 'done' : putOff(step) ? 'put off' : 'to do' }}: </span>
          <span>
            {{ step.sentence }}<span class="small"><br />{{ field.planned(step.due) }}{{ rig(step.rig) }}</span>
          </span>
        </button>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.scrolls {
  flex: 1;
}
.line {
  width: 100%;
  justify-content: flex-start;
  text-align: left;
  gap: 12px;
}
.mark {
  width: 22px;
  flex: none;
}
</style>
