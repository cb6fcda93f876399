<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, Refusal } from '@/api/client'
import { choicesOut } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { useKeepPlan } from '@/composables/useRecords'
import { useNightRuns } from '@/composables/useScheduled'
import { offerUndo } from '@/composables/useUndo'
import NothingHere from '@/parts/NothingHere.vue'

import {
  FIGURE_NAMES,
  runSummary,
  SOURCE_NAMES,
  sourcesOf,
  startedBy,
  stateName,
  valueWords,
  whyNotCounted,
  type Run,
} from './runs'

/** One night: of each run what was planned, started, shot and kept, and who says so. */
const router = useRouter()
const queries = useQueryClient()
const { spot, night } = useContext()
const { remove } = useKeepPlan()
const { data, error, refetch } = useNightRuns()
const runs = computed<Run[]>(() => data.value?.items ?? [])
const live = computed(() => runs.value.filter((run) => run.state !== 'dropped'))
const dropped = computed(() => runs.value.filter((run) => run.state === 'dropped'))
const sections = computed(() =>
  [
    { name: 'Runs', runs: live.value },
    { name: 'Dropped from the plan', runs: dropped.value },
  ].filter((section) => section.runs.length),
)
const summary = computed(() => runSummary(live.value))
const scheduled = computed(() => runs.value.some((run) => run.origin === 'schedule' && run.in_plan))
const place = computed(() => ({ query: { ...router.currentRoute.value.query } }))
const message = computed(() => (error.value instanceof Refusal ? error.value.message : ''))
const opened = ref<number | null>(null)
const failed = ref('')
const toggle = (run: Run) => (opened.value = opened.value === run.id ? null : run.id)

async function attempt(work: () => Promise<unknown>) {
  failed.value = ''
  try {
    await work()
  } catch (problem) {
    failed.value = problem instanceof Refusal ? problem.message : 'The server could not be reached. Try again.'
  }
}
const plan = (run: Run) => answer(api.GET('/api/plans/{record_id}', { params: { path: { record_id: run.id } } }))
const openPlan = (run: Run) =>
  attempt(async () => {
    const { id, rig, spot: where, night: when, target, framing, choices } = await plan(run)
    const query = { rig, spot: where, night: when, target, ...(framing ? { framing } : {}), plan: id }
    await router.push({ name: 'tonight', query: { ...query, ...choicesOut(choices) } })
  })
const deletePlan = (run: Run) => attempt(async () => remove(await plan(run)))
const isDroppedByUser = (run: Run) => run.statements.some((one) => one.figure === 'skipped' && one.source === 'user')

async function setDropped(run: Run, drop: boolean) {
  const path = { path: { record_id: run.id } }
  await answer(
    drop
      ? api.POST('/api/runs/{record_id}/drop', { params: path })
      : api.POST('/api/runs/{record_id}/undrop', { params: path }),
  )
  await queries.invalidateQueries()
}
/** Take the schedule back; what was begun stays, and the whole schedule comes back with Undo. */
const withdraw = () =>
  attempt(async () => {
    const where = { spot: Number(spot.value), night: night.value ?? '' }
    const kept = await answer(api.GET('/api/nights/whole', { params: { query: where } }))
    await answer(api.DELETE('/api/nights/whole', { params: { query: where } }))
    await queries.invalidateQueries()
    offerUndo('Schedule withdrawn.', async () => {
      await answer(api.PUT('/api/nights/whole', { body: { ...where, ...kept.asked, runs: kept.runs } as never }))
      await queries.invalidateQueries()
    })
  })
const dropRun = (run: Run) =>
  attempt(async () => {
    await setDropped(run, true)
    offerUndo(`Dropped ${run.target_name}.`, () => setDropped(run, false))
  })
</script>

<template>
  <main class="page">
    <header>
      <div>
        <RouterLink :to="{ name: 'mynights' }">My nights</RouterLink>
        <h1>{{ dateWords(night ?? '', 'whole') }}</h1>
        <span class="muted">{{ runs[0]?.spot_name }}</span>
      </div>
      <div class="buttons">
        <Button v-if="scheduled" @click="router.push({ name: 'nights-whole', ...place })">Open the schedule</Button>
        <Button v-if="scheduled" @click="withdraw">Withdraw the schedule</Button>
        <Button @click="router.push({ name: 'field', ...place })">Field</Button>
        <Button @click="router.push({ name: 'frames', ...place })">Frames</Button>
      </div>
      <p v-if="runs.length" role="status">{{ summary }}</p>
    </header>
    <Alert v-if="message" type="error" show-icon :message="message"
      ><template #action><Button size="small" @click="refetch()">Try again</Button></template></Alert
    >
    <Alert v-if="failed" type="error" show-icon :message="failed" />
    <Spin v-if="!data && !message" tip="Loading the night…"><div class="hold" /></Spin>
    <NothingHere v-else-if="data && !runs.length" words="Nothing planned or shot in this night yet." />
    <section v-for="section in sections" :key="section.name" :aria-label="section.name">
      <h2 v-if="section.runs === dropped">{{ section.name }}</h2>
      <table class="panel">
        <thead>
          <tr>
            <th scope="col">Target</th>
            <th scope="col">State</th>
            <th scope="col" class="figure">Planned</th>
            <th scope="col" class="figure">Started</th>
            <th scope="col" class="figure">Shot</th>
            <th scope="col" class="figure">Kept</th>
            <th scope="col"><span class="unseen">Actions</span></th>
          </tr>
        </thead>
        <tbody>
          <template v-for="run in section.runs" :key="run.id">
            <tr>
              <th scope="row">
                <b
                  >{{ run.target_name }}<template v-if="run.panel">, panel {{ run.panel }}</template></b
                >
                <small class="muted">{{
                  [run.rig_name, run.origin === 'plan' ? run.name : ''].filter(Boolean).join(' · ')
                }}</small>
              </th>
              <td data-label="State">{{ stateName(run, scheduled) }}</td>
              <td class="figure" data-label="Planned">
                <template v-if="run.planned_frames"
                  >{{ run.planned_frames }} × {{ run.planned_exposure_s }} s<small v-if="run.planned_from"
                    >{{ valueWords(run, run.planned_from) }}–{{ valueWords(run, run.planned_to ?? '') }}</small
                  ></template
                ><template v-else>–</template>
              </td>
              <td class="figure" data-label="Started">
                <template v-if="run.begins_at"
                  >{{ valueWords(run, run.begins_at) }}<small>{{ startedBy(run, 'begins_at') }}</small></template
                ><template v-else>–</template>
              </td>
              <td class="figure" data-label="Shot">
                <template v-if="run.frames !== null"
                  >{{ run.frames }}<small>{{ startedBy(run, 'frames') }}</small></template
                ><template v-else>–</template>
              </td>
              <td class="figure" data-label="Kept">
                <template v-if="run.kept !== null"
                  >{{ run.kept }}<small>{{ startedBy(run, 'kept') }}</small></template
                ><template v-else>–</template>
              </td>
              <td class="acts">
                <Button size="small" :aria-expanded="opened === run.id" @click="toggle(run)">Sources</Button>
                <template v-if="run.origin === 'plan' && run.state === 'planned'">
                  <Button size="small" :aria-label="`Open the plan ${run.name}`" @click="openPlan(run)">Open</Button>
                  <Button size="small" :aria-label="`Delete the plan ${run.name}`" @click="deletePlan(run)"
                    >Delete</Button
                  >
                </template>
                <Button
                  v-else-if="run.state !== 'dropped'"
                  size="small"
                  :aria-label="`Drop ${run.target_name}`"
                  @click="dropRun(run)"
                  >Drop</Button
                >
                <Button
                  v-else-if="isDroppedByUser(run)"
                  size="small"
                  :aria-label="`Undo dropping ${run.target_name}`"
                  @click="attempt(() => setDropped(run, false))"
                  >Undo</Button
                >
              </td>
            </tr>
            <tr v-if="whyNotCounted(run)" class="wide">
              <td colspan="7">
                {{ whyNotCounted(run) }} <RouterLink :to="{ name: 'frames', ...place }">Open Frames</RouterLink>
              </td>
            </tr>
            <tr v-if="opened === run.id" class="wide">
              <td colspan="7">
                <ul class="statements" :aria-label="`Sources of ${run.target_name}`">
                  <li
                    v-for="one in sourcesOf(run)"
                    :key="`${one.figure} ${one.source}`"
                    :class="{ muted: !one.stands }">
                    <span>{{ FIGURE_NAMES[one.figure] }}</span>
                    <b class="number">{{ valueWords(run, one) }}</b>
                    <span>{{ SOURCE_NAMES[one.source] }}{{ one.stands ? '' : ', not used' }}</span>
                  </li>
                </ul>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </section>
  </main>
</template>

<style scoped src="./nights.css"></style>
<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  justify-content: flex-end;
}
.wide {
  border-top: 0;
}
.statements {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 2px;
}
.statements li {
  display: grid;
  grid-template-columns: 12em 12em 1fr;
  gap: 12px;
}
@media (max-width: 820px) {
  .acts {
    grid-column: 1 / -1;
    justify-content: flex-start;
  }
  .wide {
    display: block;
  }
  .statements li {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
  }
}
</style>
