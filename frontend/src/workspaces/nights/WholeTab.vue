<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { Refusal, type Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { showFaults } from '@/composables/useFaults'
import { usePlaces } from '@/composables/useRecords'
import { useWholeNight } from '@/composables/useWholeNight'
import RunLanes from '@/instruments/RunLanes.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import WhatIfs from './WhatIfs.vue'
import WholeSheet from './WholeSheet.vue'
import WholeTotals from './WholeTotals.vue'
import WholeWishes from './WholeWishes.vue'

/** The whole night: which rig shoots what from when to when, the best order there is, and how far from the best it may be. */
defineProps<{ tonight?: unknown }>()
const { choices } = useContext()
const night = useWholeNight()
const { where, shown, looking, refusal, asKept, saved, canUndo, sheet } = night
/** What is worked out for the kept plan stays as it was left while the best order is looked for again. */
const hadBeenKept = ref(false)
watch([saved, looking], () => (hadBeenKept.value = looking.value ? hadBeenKept.value : saved.value), {
  immediate: true,
})
const { data: places } = usePlaces()
const spotName = computed(() => {
  const place = places.value?.items.find((one) => one.spots.some((spot) => spot.id === where.value?.spot))
  const spot = place?.spots.find((one) => one.id === where.value?.spot)
  return place && spot ? `${place.name}, ${spot.name}` : ''
})
const print = () => window.print()
showFaults(computed(() => refusal.value?.list ?? []))
const whole = computed(() => shown.value?.whole ?? null)
const selected = ref<number | null>(null)
const picked = computed(() => (selected.value === null ? null : (whole.value?.runs[selected.value] ?? null)))
const at = (place: number) => whole.value?.runs[place]
/** Which working is open: of the night, of one run, or of what one picture gets. */
const open = ref<{ of: Schemas['Verdict'] | undefined; key: string } | null>(null)
const trouble = ref('')
async function attempt(work: () => Promise<void>) {
  trouble.value = ''
  try {
    await work()
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const withRun = (place: number, work: (one: NonNullable<ReturnType<typeof at>>) => void) => {
  const one = at(place)
  if (one) work(one)
}
const toggle = (place: number) => withRun(place, (one) => (one.run.held ? night.letGo(one) : night.hold(one)))
</script>

<template>
  <WholeSheet v-if="sheet && where" :sheet="sheet" :night="where.night" :spot="spotName" />
  <section class="whole">
    <div class="main">
      <Alert v-if="trouble || refusal" type="error" show-icon :message="trouble || refusal?.message">
        <template v-if="asKept" #action>
          <Button size="small" @click="night.afresh()">Find the best order</Button>
        </template>
      </Alert>
      <Spin v-if="!whole && !refusal" tip="Looking for the best order…"><div class="wait" /></Spin>
      <template v-if="whole && shown">
        <VerdictBrief
          role="status"
          aria-label="Whole night"
          :verdict="whole.verdict"
          @working="(key) => (open = { of: whole?.verdict, key })">
          <p class="tools">
            <Button size="small" type="primary" :disabled="looking || saved" @click="attempt(night.keep)">
              {{ saved ? 'Kept' : 'Keep this plan' }}
            </Button>
            <Button v-if="asKept" size="small" @click="night.afresh()">Find the best order</Button>
            <Button size="small" :disabled="!canUndo" @click="night.undo()">Undo</Button>
            <Button size="small" :disabled="!saved" @click="attempt(night.cues)">Cues for my calendar</Button>
            <Button size="small" :disabled="!sheet" @click="print">Print the sheet</Button>
            <span v-if="looking" class="muted">looking for the best order…</span>
          </p>
        </VerdictBrief>
        <RunLanes
          :whole="whole"
          :rigs="shown.rigs"
          :selected="selected"
          @select="(place) => (selected = place)"
          @move="(place, from, to) => withRun(place, (one) => night.hold(one, from, to))"
          @hold="toggle"
          @drop="(place) => withRun(place, night.drop)"
          @split="(place) => withRun(place, night.split)" />
        <VerdictBrief
          v-if="picked && selected !== null"
          class="picked"
          :verdict="picked.verdict"
          @working="(key) => (open = { of: picked?.verdict, key })">
          <p class="muted why">Begins when {{ picked.run.begins_with }}; ends when {{ picked.run.ends_with }}.</p>
          <p class="tools">
            <Button size="small" @click="toggle(selected)">{{
              picked.run.held ? 'Let it move' : 'Fix it here'
            }}</Button>
            <Button size="small" @click="night.split(picked)">Split in half</Button>
            <Button size="small" @click="night.drop(picked)">Drop it</Button>
          </p>
        </VerdictBrief>
        <section v-if="whole.left.length" class="panel left" aria-label="Left out">
          <h2>Left out</h2>
          <ul>
            <li v-for="one in whole.left" :key="one.name">
              <b>{{ one.name }}</b> {{ one.reason }}
              <span v-if="one.returns" class="number">Again on {{ dateWords(one.returns) }}.</span>
            </li>
          </ul>
        </section>
        <WholeTotals
          :whole="whole"
          :rigs="shown.rigs"
          :trip="night.plan.value?.trip != null"
          :start-to-start="choices.convention === 'start to start'"
          @working="(place) => (open = { of: at(place)?.verdict, key: 'frames' })"
          @total="(place) => (open = { of: whole?.totals[place]?.verdict, key: 'gets' })" />
        <WhatIfs
          :where="where"
          :kept="saved || (looking && hadBeenKept)"
          @working="(of) => (open = { of, key: 'left' })" />
        <p v-if="whole.runs.length" class="muted heads">
          Shared by head it would bring less:
          <span v-for="(one, place) in whole.schools" :key="one.name"
            >{{ place ? ', ' : '' }}{{ one.name }} {{ one.loses_percent > 0.05 ? '−' : ''
            }}<span class="number">{{ Math.abs(one.loses_percent).toFixed(0) }} %</span></span
          >.
        </p>
      </template>
    </div>
    <WholeWishes :night="night" />
    <WorkingDrawer :verdict="open?.of ?? null" :focus="open?.key ?? ''" @close="open = null" />
  </section>
</template>

<style scoped>
.whole {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  gap: 8px;
  align-items: start;
}
.main {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.why {
  font-size: 12.5px;
}
.left {
  padding: 8px 12px;
  font-size: 13px;
}
h2 {
  font-size: 13px;
}
ul {
  margin: 0;
  padding-left: 18px;
}
.heads {
  font-size: 12.5px;
}
.wait {
  min-height: 160px;
}
/* On a laptop the page stands still; what does not fit scrolls in its column. */
@media (min-width: 1001px) {
  .whole {
    height: calc(100vh - 124px);
    min-height: 480px;
  }
  .main,
  .whole > :deep(.wishes) {
    max-height: 100%;
    overflow-y: auto;
    overscroll-behavior: contain;
  }
}
@media (max-width: 1000px) {
  .whole {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media print {
  .whole {
    display: block;
    height: auto;
  }
  .main {
    max-height: none;
    overflow: visible;
  }
  .whole > :deep(.wishes),
  .tools {
    display: none;
  }
}
</style>
