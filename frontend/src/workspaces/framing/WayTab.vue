<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { optionsOf } from '@/composables/choices'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useWays } from '@/composables/useFramingNight'
import Choice from '@/parts/Choice.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import ChartPane from './ChartPane.vue'
import FocusSteps from './FocusSteps.vue'
import TestPicture from './TestPicture.vue'

/** From an untouched tracker to the frame: four ways side by side, the chosen one in steps, and the nudge a picture tells. */
type Key = Schemas['WayOut']['key']
const { night, choices, choose } = useContext()
const { data, refusal, at } = useWays()
const chosen = computed<Key>(() => choices.value.way ?? data.value?.chosen ?? 'picture')
const way = computed(() => data.value?.ways.find((one) => one.key === chosen.value) ?? null)
const pick = (key: Key) => choose({ ...choices.value, way: key })
const finder = computed(() => choices.value.finder ?? 'binoculars')
const look = (value: unknown) => choose({ ...choices.value, finder: value as Schemas['ChoicesShape']['finder'] })
const shown = ref<string | null>(null)
/** How far off a way leaves one: the way is chosen, and its working opened. */
async function open(key: Key) {
  if (key !== chosen.value) await pick(key)
  shown.value = 'error'
}
const tries = ref<Schemas['FrameOut'][]>([])
const print = () => window.print()
</script>

<template>
  <section class="beside still">
    <ChartPane :way="way?.path ?? []" :tries="tries" />
    <div class="column">
      <section class="panel ways" aria-label="Ways there">
        <h2>Ways there</h2>
        <p class="when">
          <label for="way-at">At</label>
          <input id="way-at" v-model="at" class="clock number" maxlength="5" :placeholder="data?.clock ?? '23:30'" />
          <label for="way-finder">hop with</label>
          <Choice id="way-finder" :model-value="finder" :options="optionsOf('finder')" @update:model-value="look" />
        </p>
        <Alert v-if="refusal" type="error" show-icon :message="refusal.message" />
        <table v-if="data" class="rows">
          <thead>
            <tr>
              <th scope="col">Way</th>
              <th scope="col">Steps</th>
              <th scope="col">Leaves you off by</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in data.ways" :key="one.key" :class="{ chosen: one.key === chosen }">
              <th scope="row">
                <button type="button" class="plain" :aria-pressed="one.key === chosen" @click="pick(one.key)">
                  {{ one.name }}
                </button>
              </th>
              <td class="number">{{ one.steps.length || 'none' }}</td>
              <td class="number">
                <button
                  v-if="one.error_deg != null"
                  type="button"
                  class="plain open"
                  :aria-label="`${number(one.error_deg, 1)}° off. Open the working`"
                  @click="open(one.key)">
                  {{ number(one.error_deg, 1) }}°, {{ number(one.error_frames ?? 0, 2) }} frames
                </button>
                <template v-else>not from here</template>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <VerdictCard v-if="way" :verdict="way.verdict" :night="night ?? ''" @working="(key) => (shown = key)">
        <ol v-if="way.steps.length" class="steps" aria-label="Steps">
          <li v-for="step in way.steps" :key="step">{{ step }}</li>
        </ol>
        <p>
          <Button size="small" class="noprint" @click="print">Print</Button>
        </p>
      </VerdictCard>
      <TestPicture @tries="(found) => (tries = found)" />
      <FocusSteps />
    </div>
    <WorkingDrawer :verdict="shown !== null && way ? way.verdict : null" :focus="shown ?? ''" @close="shown = null" />
  </section>
</template>

<style scoped src="./beside.css"></style>
<style scoped>
.ways {
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
.when {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}
.clock {
  width: 64px;
  min-height: 30px;
  padding: 2px 8px;
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 6px;
}
.chosen th button {
  font-weight: 700;
  text-decoration: underline;
  text-decoration-color: var(--accent);
  text-decoration-thickness: 2px;
  text-underline-offset: 4px;
}
.open {
  min-height: 24px;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.steps {
  margin: 0;
  padding-left: 20px;
  font-size: 14px;
  display: grid;
  gap: 4px;
}
@media (max-width: 820px) {
  .clock,
  .ways button {
    min-height: 44px;
  }
}
</style>
