<script setup lang="ts">
import { Alert, Button, Tooltip } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { draftOf, type useBench } from '@/composables/useBench'
import { useCaution } from '@/composables/useCaution'
import { useContext } from '@/composables/useContext'
import { useNewRig } from '@/composables/useNewRig'
import { useKeepRig, useRigs } from '@/composables/useRecords'
import SideView from '@/instruments/SideView.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import VerdictLines from '@/parts/VerdictLines.vue'
import VerdictsSaid from '@/parts/VerdictsSaid.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import AddPart from './AddPart.vue'
import PlacementTable from './PlacementTable.vue'
import RigFields from './RigFields.vue'
import NothingHere from '@/parts/NothingHere.vue'

const props = defineProps<{ hand: ReturnType<typeof useBench> }>()
const emit = defineEmits<{ weather: [] }>()
const { record, draft, bench, faults, weight, change, changePlaced, drag, letGo } = props.hand
const { change: go, night } = useContext()
const { make, asking } = useNewRig()
const { remove } = useKeepRig()
const { data: rigs } = useRigs()

const shown = ref<{ topic: string; key: string } | null>(null)
const adding = ref(false)
const selected = ref<string | null>(null)
const verdict = (topic: string) => bench.value?.verdicts.find((one) => one.topic === topic) ?? null

const numberOf = (name: string) => record.value?.placed.find((one) => one.name === name)?.part
function move(name: string, arm: number) {
  const part = numberOf(name)
  if (part === undefined) return
  selected.value = name
  drag(part, arm)
}
watch(selected, (name) => {
  if (bench.value?.drawing.pieces.some((one) => one.name === name && one.kind === 'counterweight')) weight.value = name
})
const solved = computed(() => (bench.value?.drawing.fits ? bench.value.drawing.solved_mm : null))
function putRight() {
  const name = bench.value?.drawing.weight
  const part = name ? numberOf(name) : undefined
  if (part !== undefined && solved.value !== null)
    void changePlaced(part, { arm_mm: Math.round(solved.value * 10) / 10 }, `Moved ${name} to where it balances.`)
}
async function drop() {
  const now = record.value
  if (!now) return
  const next = rigs.value?.items.find((one) => one.id !== now.id)
  await remove(now)
  if (next) await go({ rig: next.id })
}
/** Each caution once a night, however many verdicts bring it. */
const cautions = computed(() => [...new Set((bench.value?.verdicts ?? []).map((one) => one.caution).filter(Boolean))])
const { unseen, understood } = useCaution(() => `${night.value ?? ''} Bench`)
/** A row is too narrow for a sentence, so what is wrong with a place is told above the table, with the name of the part. */
const elsewhere = computed(() =>
  Object.entries(faults.value)
    .filter(([field]) => !['name', 'star_fwhm_px', 'focal_mm'].includes(field))
    .map(([field, message]) => {
      const part = record.value?.placed[Number(/^placed\.(\d+)\./.exec(field)?.[1] ?? -1)]
      return part ? `${part.name}: ${message}` : message
    }),
)
</script>

<template>
  <div v-if="!record || !draft" class="none">
    <NothingHere words="No rig chosen. Choose one above, or begin a new one."
      ><Button type="primary" @click="asking = true">New rig</Button></NothingHere
    >
  </div>
  <div v-else class="desk">
    <VerdictLines :verdicts="bench?.verdicts ?? []" @working="(topic) => (shown = { topic, key: '' })" />
    <section class="left">
      <div class="panel drawing">
        <SideView
          v-if="bench"
          :drawing="bench.drawing"
          :selected="selected"
          :stale="hand.busy.value"
          @move="move"
          @done="letGo"
          @select="(name) => (selected = name)" />
      </div>
      <div class="acts">
        <Button size="small" type="primary" @click="adding = true">Add a part</Button>
        <Tooltip
          :title="
            solved === null
              ? 'No place on the shaft balances it yet'
              : 'Sets the counterweight where the moments cancel'
          "
          ><Button size="small" :disabled="solved === null" @click="putRight">Put the weight right</Button></Tooltip
        >
        <span class="gap" />
        <Button size="small" @click="make(`${record.name}, copy`, draftOf(record))">Copy rig</Button>
        <Button size="small" danger @click="drop">Delete rig</Button>
      </div>
      <p v-if="cautions.length && unseen" class="caution">
        <b>Take care.</b> {{ cautions.join(' ') }}
        <button type="button" class="plain link" @click="understood">Understood</button>
      </p>
      <Alert v-for="message in elsewhere" :key="message" type="error" show-icon :message="message" />
      <RigFields :draft="draft" :record="record" :faults="faults" @change="change" />
      <PlacementTable
        :record="record"
        :draft="draft"
        :pieces="bench?.drawing.pieces ?? []"
        :faults="faults"
        :selected="selected"
        @place="changePlaced"
        @change="change"
        @select="(name) => (selected = name)" />
    </section>
    <section class="verdicts" :class="{ stale: hand.refusal.value }">
      <VerdictsSaid :verdicts="bench?.verdicts ?? []" />
      <VerdictBrief
        v-for="one in bench?.verdicts ?? []"
        :key="one.topic"
        :verdict="one"
        @working="(key) => (shown = { topic: one.topic, key })">
        <Button v-if="one.topic === 'Dew' && one.binding === 'no weather known'" size="small" @click="emit('weather')"
          >Type the weather</Button
        >
      </VerdictBrief>
    </section>
    <WorkingDrawer :verdict="shown ? verdict(shown.topic) : null" :focus="shown?.key ?? ''" @close="shown = null" />
    <AddPart :open="adding" :record="record" :draft="draft" @close="adding = false" @change="change" />
  </div>
</template>

<style scoped>
.none {
  padding: 60px 0;
}
.desk {
  flex: 1;
  display: grid;
  grid-template-columns: minmax(0, 0.98fr) minmax(0, 1.02fr);
  gap: 8px;
  align-items: start;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-width: 0;
}
.drawing {
  height: 372px;
  padding: 6px 8px;
  display: flex;
  flex-direction: column;
  box-sizing: border-box;
}
.drawing > * {
  flex: 1;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.gap {
  flex: 1;
}
.caution {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
.link {
  color: var(--accent);
  text-decoration: underline;
}
.verdicts {
  display: grid;
  grid-template-columns: 1fr 1fr;
  grid-auto-rows: minmax(132px, auto);
  gap: 6px;
  min-width: 0;
}
.verdicts.stale {
  opacity: 0.6;
}
@media (max-width: 1080px) {
  .desk {
    grid-template-columns: minmax(0, 1fr);
  }
}
@media (max-width: 640px) {
  .verdicts {
    grid-template-columns: minmax(0, 1fr);
    grid-auto-rows: auto;
  }
}
</style>
