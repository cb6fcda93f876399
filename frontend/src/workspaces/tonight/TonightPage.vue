<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { Refusal } from '@/api/client'
import { fieldWord } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'
import { useTonight, type Verdict } from '@/composables/useTonight'
import PlaceEditor from '@/editors/PlaceEditor.vue'
import RigEditor from '@/editors/RigEditor.vue'
import TargetEditor from '@/editors/TargetEditor.vue'
import DuskStrip from '@/instruments/DuskStrip.vue'
import PoleDial from '@/instruments/PoleDial.vue'
import ContextBar from '@/parts/ContextBar.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import ChoicesDrawer from './ChoicesDrawer.vue'
import FirstSteps from './FirstSteps.vue'
import KeyCard from './KeyCard.vue'
import PrintSheet from './PrintSheet.vue'
import SavePlan from './SavePlan.vue'

const { context, choices, night, rig, spot, target, change, choose, begin } = useContext()
const { tonight, refusal, isFetching, refetch, settled } = useTonight()
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()

const trouble = ref('')
watch(context, (now) => {
  if (now === null) begin().catch((error) => (trouble.value = error instanceof Refusal ? error.message : 'The page could not be opened.'))
}, { immediate: true })

const editing = ref<{ kind: 'rig' | 'place' | 'target'; id: number | null } | null>(null)
const how = ref(false)
const saving = ref(false)
const shown = ref<{ topic: string; key: string } | null>(null)

const verdict = (topic: string): Verdict | undefined => tonight.value?.verdicts.find((one) => one.topic === topic)
const payload = computed(() => verdict('Payload'))
const window_ = computed(() => verdict('Window'))
const pole = computed(() => verdict('Pole'))
const exposure = computed(() => verdict('Exposure'))
const card = computed(() => verdict('Card'))

const empty = computed(() => rigs.value && places.value && targets.value && (!rigs.value.count || !places.value.count || !targets.value.count))
const programme = computed(() => (tonight.value ? `${tonight.value.card.frames} × ${tonight.value.card.exposure_s} s` : ''))
const nightFault = computed(() => refusal.value?.faults.night ?? '')
const choiceFaults = computed(() => Object.fromEntries(Object.entries(refusal.value?.faults ?? {}).filter(([field]) => !['rig', 'spot', 'target', 'night', ''].includes(field))))
watch(choiceFaults, (faults) => { if (Object.keys(faults).length) how.value = true })
</script>

<template>
  <main class="page">
    <div class="screen stack">
      <ContextBar :night-fault="nightFault" :changed-choices="Object.keys(choices).length" @edit="(kind, id) => (editing = { kind, id })" @how="how = true">
        <Button type="primary" class="act" :disabled="!tonight || !!refusal" @click="saving = true">Save</Button>
      </ContextBar>

      <Alert v-if="trouble" type="error" show-icon :message="trouble" />
      <FirstSteps v-if="empty" :rig="!!rigs?.count" :place="!!places?.count" :target="!!targets?.count" @edit="(kind) => (editing = { kind, id: null })" />
      <Alert v-else-if="refusal" type="error" show-icon class="refusal">
        <template #message>
          <p v-for="fault in refusal.list" :key="fault.field"><b v-if="fault.field">{{ fieldWord(fault.field) }}: </b>{{ fault.message }}</p>
        </template>
        <template #action><Button v-if="refusal.status === 0 || refusal.status >= 500" size="small" @click="refetch()">Try again</Button>
          <Button v-else-if="Object.keys(choiceFaults).length" size="small" @click="how = true">Open “How”</Button></template>
      </Alert>

      <Spin v-if="!tonight && !refusal && !empty && !trouble" tip="Working out the night…" class="waiting"><div class="hold" /></Spin>
      <template v-if="tonight && !empty">
        <DuskStrip :strip="tonight.strip" :cues="tonight.cues" :now="tonight.now" :programme="programme" :stale="isFetching || !!refusal" />
        <div class="verdicts" :class="{ stale: refusal }" aria-live="polite">
          <div class="column">
            <VerdictCard v-if="payload" :verdict="payload" :night="tonight.night" @working="(key) => (shown = { topic: 'Payload', key })" />
            <VerdictCard v-if="window_" class="grow" :verdict="window_" :night="tonight.night" @working="(key) => (shown = { topic: 'Window', key })" />
          </div>
          <VerdictCard v-if="pole" :verdict="pole" :night="tonight.night" @working="(key) => (shown = { topic: 'Pole', key })">
            <PoleDial :dial="tonight.dial" :clock="tonight.setup_clock" />
          </VerdictCard>
          <VerdictCard v-if="exposure" :verdict="exposure" :night="tonight.night" show-limits @working="(key) => (shown = { topic: 'Exposure', key })" />
          <VerdictCard v-if="card" :verdict="card" :night="tonight.night" @working="(key) => (shown = { topic: 'Card', key })">
            <KeyCard v-if="tonight.card.frames" :card="tonight.card" :convention="choices.convention ?? 'gap'" @convention="(convention) => choose({ ...choices, convention })" />
          </VerdictCard>
        </div>
      </template>
    </div>

    <WorkingDrawer :verdict="shown ? (verdict(shown.topic) ?? null) : null" :focus="shown?.key ?? ''" @close="shown = null" />
    <ChoicesDrawer :open="how" :rig="rigs?.items.find((one) => one.id === rig) ?? null" :refused="choiceFaults" :settled="settled" @close="how = false" />
    <RigEditor :open="editing?.kind === 'rig'" :record="rigs?.items.find((one) => one.id === editing?.id) ?? null" @close="editing = null" @kept="(id) => change({ rig: id })" />
    <PlaceEditor :open="editing?.kind === 'place'" :record="places?.items.find((one) => one.id === editing?.id) ?? null" @close="editing = null"
                 @kept="(place) => { if (!place.spots.some((one) => one.id === spot) && place.spots[0]) change({ spot: place.spots[0].id }) }" />
    <TargetEditor :open="editing?.kind === 'target'" :record="targets?.items.find((one) => one.id === editing?.id) ?? null" @close="editing = null" @kept="(id) => change({ target: id })" />
    <SavePlan v-if="context && night" :open="saving" :context="context" :suggestion="`${targets?.items.find((one) => one.id === target)?.name ?? ''}, ${night}`" @close="saving = false" />
    <PrintSheet v-if="tonight && !refusal" :tonight="tonight" :rig="rigs?.items.find((one) => one.id === rig)?.name ?? ''"
                :spot="places?.items.flatMap((place) => place.spots.map((one) => ({ id: one.id, name: `${place.name}, ${one.name}` }))).find((one) => one.id === spot)?.name ?? ''"
                :target="targets?.items.find((one) => one.id === target)?.name ?? ''" />
  </main>
</template>

<style scoped>
.page { min-width: 0; }
.stack { display: flex; flex-direction: column; gap: 8px; padding: 8px 12px 12px; box-sizing: border-box; min-height: 100vh; }
.verdicts { flex: 1; display: grid; grid-template-columns: 1fr 1fr 1fr 1fr; gap: 8px; min-height: 0; }
.verdicts.stale { opacity: 0.6; }
.column { display: flex; flex-direction: column; gap: 8px; min-width: 0; }
.grow { flex: 1; }
.act { align-self: center; }
.refusal p { margin: 0; }
.waiting .hold { min-height: 300px; }
@media (max-width: 1080px) { .verdicts { grid-template-columns: 1fr 1fr; } }
@media (max-width: 640px) { .verdicts { grid-template-columns: 1fr; } }
</style>
