<script setup lang="ts">
import { Button, Spin } from 'ant-design-vue'
import { computed, defineAsyncComponent, ref, watch } from 'vue'

import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'
import { useScheduled } from '@/composables/useScheduled'
import { useTonight, type Verdict } from '@/composables/useTonight'
import DuskStrip from '@/instruments/DuskStrip.vue'
import PoleView from '@/instruments/PoleView.vue'
import ContextDesk from '@/parts/ContextDesk.vue'
import WeatherNote from '@/parts/WeatherNote.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import VerdictLines from '@/parts/VerdictLines.vue'
import VerdictsSaid from '@/parts/VerdictsSaid.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import { asScheduled } from '@/workspaces/mynights/runs'

import KeyCard from './KeyCard.vue'
import PlannedRuns from './PlannedRuns.vue'
import PrintSheet from './PrintSheet.vue'

const { context, choices, night, rig, spot, target, choose } = useContext()
const { tonight, now, refusal, isFetching, refetch, settled } = useTonight()
const { scheduled } = useScheduled()
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()

const saving = ref(false)
/** Once the form has come, it stays. */
const opened = ref(false)
watch(saving, () => (opened.value = true))
const shown = ref<{ topic: string; key: string } | null>(null)

const print = () => window.print()
/** As the server says them; the card of a scheduled target begins with its schedule. */
const verdicts = computed(() =>
  (tonight.value?.verdicts ?? []).map((one) => (one.topic === 'Card' ? asScheduled(one, scheduled.value) : one)),
)
const verdict = (topic: string): Verdict | undefined => verdicts.value.find((one) => one.topic === topic)
const payload = computed(() => verdict('Payload'))
const window_ = computed(() => verdict('Window'))
const pole = computed(() => verdict('Pole'))
const exposure = computed(() => verdict('Exposure'))
const card = computed(() => verdict('Card'))

/** What not every night needs comes when it is needed. */
const BetterNumbers = defineAsyncComponent(() => import('./BetterNumbers.vue'))
const FirstSteps = defineAsyncComponent(() => import('./FirstSteps.vue'))
const SavePlan = defineAsyncComponent(() => import('./SavePlan.vue'))

/** Where each of the things that can end a night is looked after. */
const WHERE: Record<string, string> = { Power: 'bench-power', Dew: 'bench-power' }
const empty = computed(
  () =>
    rigs.value && places.value && targets.value && (!rigs.value.count || !places.value.count || !targets.value.count),
)
const programme = computed(() =>
  tonight.value ? `${tonight.value.card.frames} × ${tonight.value.card.exposure_s} s` : '',
)
</script>

<template>
  <main class="page">
    <h1 class="unseen">Tonight</h1>
    <div class="screen stack">
      <ContextDesk :refusal="empty ? null : refusal" :settled="settled" @retry="refetch()">
        <Button type="primary" class="act" :disabled="!tonight || !!refusal" @click="saving = true">Save</Button>
        <Button class="act" :disabled="!tonight || !!refusal" @click="print">Print</Button>
      </ContextDesk>
      <FirstSteps v-if="empty" :has-rig="!!rigs?.count" :has-place="!!places?.count" />

      <Spin v-if="!tonight && !refusal && !empty" tip="Working out the night…" class="waiting"
        ><div class="hold"
      /></Spin>
      <template v-if="tonight && !empty">
        <VerdictLines :verdicts="verdicts" @working="(topic) => (shown = { topic, key: '' })" />
        <DuskStrip
          :strip="tonight.strip"
          :cues="tonight.cues"
          :now="now"
          :programme="programme"
          :stale="isFetching || !!refusal" />
        <WeatherNote :weather="tonight.weather" />
        <PlannedRuns :time-zone="tonight.strip.time_zone" />
        <section v-if="tonight.also.length" class="also" aria-label="What else can end the night">
          <RouterLink
            v-for="one in tonight.also"
            :key="one.topic"
            :to="{ name: WHERE[one.topic] ?? 'bench', query: $route.query }"
            :class="one.level"
            ><b>{{ one.topic }}: {{ one.level === 'stop' ? 'does not hold' : 'with care' }}.</b>
            {{ one.sentence }}</RouterLink
          >
        </section>
        <div class="verdicts" :class="{ stale: refusal }">
          <VerdictsSaid :verdicts="verdicts" />
          <div class="column">
            <VerdictCard
              v-if="payload"
              :verdict="payload"
              :night="tonight.night"
              @working="(key) => (shown = { topic: 'Payload', key })" />
            <VerdictCard
              v-if="window_"
              class="grow"
              :verdict="window_"
              :night="tonight.night"
              @working="(key) => (shown = { topic: 'Window', key })" />
          </div>
          <VerdictCard
            v-if="pole"
            :verdict="pole"
            :night="tonight.night"
            @working="(key) => (shown = { topic: 'Pole', key })">
            <PoleView
              v-if="tonight.dial && tonight.turning"
              small
              :dial="tonight.dial"
              :turning="tonight.turning"
              :at="tonight.setup"
              :clock="tonight.setup_clock" />
          </VerdictCard>
          <VerdictCard
            v-if="exposure"
            :verdict="exposure"
            :night="tonight.night"
            show-limits
            @working="(key) => (shown = { topic: 'Exposure', key })" />
          <VerdictCard
            v-if="card"
            :verdict="card"
            :night="tonight.night"
            @working="(key) => (shown = { topic: 'Card', key })">
            <KeyCard
              v-if="tonight.card.frames"
              :card="tonight.card"
              :scheduled="scheduled"
              :convention="choices.convention ?? 'gap'"
              @convention="(convention) => choose({ ...choices, convention })" />
          </VerdictCard>
        </div>
        <BetterNumbers />
      </template>
    </div>

    <WorkingDrawer
      :verdict="shown ? (verdict(shown.topic) ?? null) : null"
      :focus="shown?.key ?? ''"
      @close="shown = null" />
    <SavePlan
      v-if="context && night && opened"
      :open="saving"
      :context="context"
      :suggestion="`${targets?.items.find((one) => one.id === target)?.name ?? ''}, ${dateWords(night)}`"
      @close="saving = false" />
    <PrintSheet
      v-if="tonight && !refusal"
      :tonight="{ ...tonight, verdicts }"
      :scheduled="scheduled"
      :rig="rigs?.items.find((one) => one.id === rig)?.name ?? ''"
      :spot="
        places?.items
          .flatMap((place) => place.spots.map((one) => ({ id: one.id, name: `${place.name}, ${one.name}` })))
          .find((one) => one.id === spot)?.name ?? ''
      "
      :target="targets?.items.find((one) => one.id === target)?.name ?? ''" />
  </main>
</template>

<style scoped>
.page {
  min-width: 0;
}
.stack {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 8px 12px;
  box-sizing: border-box;
  min-height: 100vh;
}
.also {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  font-size: 13px;
}
.also a {
  color: var(--text);
  text-decoration: none;
  padding: 4px 10px;
  border-left: 3px solid var(--care);
  background: var(--panel);
  border-radius: 0 6px 6px 0;
}
.also a:hover {
  background: var(--raised);
}
.also a.stop {
  border-color: var(--stop);
}
@media (max-width: 820px) {
  .also a {
    min-height: 44px;
    box-sizing: border-box;
    width: 100%;
  }
}
.verdicts {
  flex: 1;
  display: grid;
  grid-template-columns: 1fr 1fr 1fr 1fr;
  gap: 8px;
  min-height: 0;
}
.verdicts.stale {
  opacity: 0.6;
}
.column {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
.grow {
  flex: 1;
}
.act {
  align-self: center;
}
.waiting .hold {
  min-height: 300px;
}
@media (max-width: 1080px) {
  .verdicts {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
@media (max-width: 820px) {
  .stack {
    padding: 6px;
  }
}
@media (max-width: 640px) {
  .verdicts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
