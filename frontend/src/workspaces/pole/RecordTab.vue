<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { useRefresh } from '@/composables/useRefresh'
import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { useFaults } from '@/composables/useFaults'
import { useAlignments, useKeeping, type Alignment } from '@/composables/usePole'
import { offerUndo } from '@/composables/useUndo'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import LineInput from '@/parts/LineInput.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import NothingHere from '@/parts/NothingHere.vue'

/** Every alignment of this rig, spot and night; when to look again; and what a turn of a screw does. */
const { context, rig, night } = useContext()
const alignments = useAlignments()
const keeping = useKeeping()
const refresh = useRefresh()
const queries = useQueryClient()
const shown = ref<string | null>(null)

async function note(one: Alignment, touched: string) {
  await answer(api.PUT('/api/alignments/{record_id}', { params: { path: { record_id: one.id } }, body: { touched } }))
  await refresh()
}
async function remove(one: Alignment) {
  await answer(api.DELETE('/api/alignments/{record_id}', { params: { path: { record_id: one.id } } }))
  await refresh()
  offerUndo(`Deleted “${one.name}”.`, async () => {
    await answer(api.POST('/api/alignments/{record_id}/restore', { params: { path: { record_id: one.id } } }))
    await refresh()
  })
}
const BY_HAND = [
  { value: 'scope', label: 'polar scope' },
  { value: 'sight', label: 'sighting' },
  { value: 'rough', label: 'compass and scale' },
]
const method = ref('scope')
async function write() {
  if (!context.value) return
  await answer(api.POST('/api/alignments', { body: { context: context.value, method: method.value, touched: '' } }))
  await refresh()
}

const { attempt } = useFaults()
const turn = ref<{
  screw: 'altitude' | 'azimuth'
  turns: number | string | null
  before: number | null
  after: number | null
}>({ screw: 'altitude', turns: null, before: null, after: null })
const options = computed(() =>
  alignments.value.filter((one) => one.error).map((one) => ({ value: one.id, label: `${one.name}, ${one.words}` })),
)
const learnt = ref<Schemas['TurnOut'] | null>(null)
const learn = () =>
  attempt(async () => {
    learnt.value = null
    learnt.value = await answer(
      api.POST('/api/alignments/turn', { body: { ...turn.value, rig: rig.value } as Schemas['TurnIn'] }),
    )
    await queries.invalidateQueries()
  })
</script>

<template>
  <section class="record">
    <div class="left">
      <div class="panel list">
        <NothingHere
          v-if="!alignments.length"
          words="Nothing measured on this night with this rig. Photographs and drift write themselves down here." />
        <table v-else>
          <thead>
            <tr>
              <th scope="col">When and how</th>
              <th scope="col">Off the pole</th>
              <th scope="col">High</th>
              <th scope="col">East</th>
              <th scope="col">Touched before it</th>
              <th scope="col"><span class="unseen">Acts</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in alignments" :key="one.id">
              <th scope="row">{{ one.name }}</th>
              <td class="number">
                <b>{{ one.words }}</b>
              </td>
              <template v-if="one.error">
                <td class="number">
                  {{ number(one.error.altitude_arcmin, 1) }} ± {{ number(one.error.altitude_sigma, 2) }}′
                </td>
                <td class="number">
                  {{ number(one.error.azimuth_arcmin, 1) }} ± {{ number(one.error.azimuth_sigma, 2) }}′
                </td>
              </template>
              <td v-else colspan="2" class="muted">not measured</td>
              <td>
                <LineInput
                  bare
                  :label="`What was touched before ${one.name}`"
                  :value="one.touched"
                  @take="(text) => note(one, text)" />
              </td>
              <td><Button size="small" :aria-label="`Delete ${one.name}`" @click="remove(one)">×</Button></td>
            </tr>
          </tbody>
        </table>
        <p class="acts">
          <Field
            v-model="method"
            path="method"
            label="Aligned without measuring, by"
            kind="choice"
            :options="BY_HAND" /><Button size="small" @click="write">Write it down</Button>
        </p>
      </div>
      <div class="panel list">
        <h2>What a turn of a screw does</h2>
        <p class="muted">
          Measure, turn one screw by a known number of turns, measure again. From then on every instruction comes in
          turns.
        </p>
        <FormFaults />
        <div class="fields">
          <Field
            v-model="turn.screw"
            path="screw"
            label="Screw"
            kind="choice"
            :options="[
              { value: 'altitude', label: 'altitude' },
              { value: 'azimuth', label: 'azimuth' },
            ]" />
          <Field v-model="turn.turns" path="turns" label="Turns made" />
          <Field v-model="turn.before" path="before" label="Measured before" kind="choice" :options="options" />
          <Field v-model="turn.after" path="after" label="Measured after" kind="choice" :options="options" />
        </div>
        <p><Button :disabled="!turn.turns || !turn.before || !turn.after" @click="learn">Learn it</Button></p>
        <p v-if="learnt" role="status">
          One turn of the {{ turn.screw }} screw of “{{ learnt.tracker }}” is {{ number(learnt.degrees_a_turn, 2) }}°,
          give or take {{ number(learnt.sigma, 3) }}°.
        </p>
      </div>
    </div>
    <VerdictCard v-if="keeping" :verdict="keeping.verdict" :night="night ?? ''" @working="(key) => (shown = key)" />
    <WorkingDrawer
      :verdict="shown === null ? null : (keeping?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.record {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 360px;
  gap: 8px;
  align-items: start;
}
.left {
  display: grid;
  gap: 8px;
}
.list {
  padding: 10px 14px;
  display: grid;
  gap: 6px;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 4px 12px 4px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}
thead th {
  color: var(--muted);
  font-size: 13px;
}
h2 {
  color: var(--accent);
  font-size: 14px;
}
.acts {
  display: flex;
  gap: 12px;
  align-items: center;
}
.acts > :first-child {
  width: 260px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px;
}
@media (max-width: 1000px) {
  .record,
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
