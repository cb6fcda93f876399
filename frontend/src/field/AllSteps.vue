<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'

import LivePole from './LivePole.vue'
import { useField } from './useField'
import { useSteps } from './useSteps'

/** Every step with its time; and where the pole's stars are, whatever is being done. */
const emit = defineEmits<{ chosen: [] }>()
const field = useField()
const { steps, chosen, current, done, putOff } = useSteps()
const rig = (place: number | null | undefined) =>
  place == null || (field.pack.value?.rigs.length ?? 0) < 2 ? '' : ` · ${field.pack.value?.rigs[place]?.name ?? ''}`
const poles = computed(() => field.pack.value?.poles ?? [])
const shown = ref<Schemas['PackPole'] | null>(null)
function choose(key: string) {
  chosen.value = key
  emit('chosen')
}
</script>

<template>
  <section class="scrolls" aria-label="All steps" tabindex="0">
    <button v-for="pole in poles" :key="pole.view" type="button" class="line" @click="shown = pole">
      Stars about the pole now
    </button>
    <div v-if="shown" class="over">
      <LivePole :pole="shown" />
      <button type="button" @click="shown = null">Back</button>
    </div>
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
.scrolls > .line {
  margin-bottom: 16px;
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
