<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useExposure, useExposureRefresh, useSessions } from '@/composables/useExposure'
import { useFaults } from '@/composables/useFaults'
import { useRigs } from '@/composables/useRecords'
import { offerUndo } from '@/composables/useUndo'
import Field from '@/parts/Field.vue'
import LinePlot from '@/parts/LinePlot.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import { filterOptions } from './filterOptions'
import { useWorkings } from './useWorkings'

/** How many frames: what hours bring, what ends the run tonight, and what earlier nights count for. */
const { choices, choose, target, night, rig, spot } = useContext()
const { data: rigs } = useRigs()
const { data, refusal } = useExposure()
const sessions = useSessions()
const refresh = useExposureRefresh()
const { shown, opened, row, close } = useWorkings(
  () => data.value?.verdicts.find((one) => one.topic === 'Exposure') ?? null,
)
const many = computed(() => data.value?.many ?? null)
const goal = computed(() => Number(choices.value.goal_snr ?? 10))
const lines = computed(() => [
  {
    name: 'Signal to noise of one pixel',
    points: [
      ...(many.value?.gathered.snr ? [[0, many.value.gathered.snr] as const] : []),
      ...(many.value?.rows ?? []).map((one) => [one.hours, one.snr] as const),
    ],
  },
])
const mark = computed(() =>
  many.value?.goal_hours != null && many.value.goal_hours <= 24
    ? { at: many.value.goal_hours, name: `${number(many.value.goal_hours, 1)} h` }
    : null,
)
const levels = computed(() => [{ at: goal.value, name: `wanted, ${goal.value}` }])
const set = (part: object) => void choose({ ...choices.value, ...part })
const binding = computed(() => [...(many.value?.limits ?? [])].sort((a, b) => a.frames - b.frames)[0]?.name)

type Draft = {
  night: string
  frames: number | string | null
  exposure_s: number | string | null
  f_number: number | string | null
  iso: number | string | null
  sky_mag: number | string | null
  filter_name: string
  rig: number | ''
}
const { faults, busy, attempt } = useFaults()
const draft = ref<Draft>(fresh())
function fresh(): Draft {
  return {
    night: night.value ?? '',
    frames: null,
    exposure_s: null,
    f_number: null,
    iso: null,
    sky_mag: null,
    filter_name: '',
    rig: rig.value ?? '',
  }
}
const filters = computed(() => [{ value: '', label: 'as in use' }, ...filterOptions(data.value)])
const withWhich = computed(() => [
  { value: '', label: 'as in use' },
  ...(rigs.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })),
])
const told = computed(() =>
  Object.entries(faults.value)
    .filter(([field]) => !(field in draft.value))
    .map(([, message]) => message),
)
async function add() {
  const done = await attempt(() =>
    answer(
      api.POST('/api/sessions', {
        body: {
          ...draft.value,
          rig: draft.value.rig || null,
          spot: spot.value,
          target: target.value,
        } as unknown as Schemas['GatheredIn'],
      }),
    ),
  )
  if (!done) return
  draft.value = fresh()
  await refresh()
}
async function remove(one: Schemas['GatheredOut']) {
  await answer(api.DELETE('/api/sessions/{record_id}', { params: { path: { record_id: one.id } } }))
  await refresh()
  offerUndo(`Deleted the night of ${one.name}.`, async () => {
    await answer(api.POST('/api/sessions/{record_id}/restore', { params: { path: { record_id: one.id } } }))
    await refresh()
  })
}
</script>

<template>
  <Spin v-if="!data && !refusal" tip="Counting…"><div class="hold" /></Spin>
  <section v-if="data && many" class="many">
    <div class="panel left">
      <p class="sentence">
        <template v-if="many.goal_frames === 0">The signal to noise you want is gathered already.</template>
        <template v-else-if="many.goal_frames != null"
          >{{ many.goal_frames }} frames to shoot,
          <button type="button" class="plain dotted" @click="shown = 'hours'">
            {{ number(many.goal_hours ?? 0, 1) }} h</button
          >, until one pixel of the target stands at {{ goal }}.</template
        >
        <template v-else>At this setting the target does not reach {{ goal }}.</template>
      </p>
      <p>
        Tonight’s {{ data.card.frames }} frames bring it to
        <button type="button" class="plain dotted number" @click="shown = 'snr'">
          {{ number(many.tonight_snr, 1) }}</button><template v-if="many.enough_hours != null"
          >; past {{ number(many.enough_hours, 1) }} h the next hour adds less than 5 %</template
        >.
      </p>
      <LinePlot
        class="plot"
        :lines="lines"
        x-name="hours at the tripod, on top of what is gathered"
        y-name="signal to noise"
        :mark="mark"
        :levels="levels"
        label="Signal to noise over hours; the table holds the figures" />
      <div class="two">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Hours</th>
              <th scope="col">Frames</th>
              <th scope="col"><button type="button" class="plain dotted" @click="shown = 'snr'">S/N</button></th>
              <th scope="col">The next hour adds</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in many.rows.filter((row) => row.hours >= 0.5)" :key="one.hours" class="number">
              <td>{{ one.hours }}</td>
              <td>{{ one.frames }}</td>
              <td>{{ number(one.snr, 1) }}</td>
              <td>{{ one.adds == null ? '–' : `${number(one.adds * 100, 0)} %` }}</td>
            </tr>
          </tbody>
        </table>
        <div>
          <h2>What ends it tonight</h2>
          <table class="rows">
            <tbody>
              <tr v-for="one in many.limits" :key="one.name" :class="{ chosen: one.name === binding }">
                <th scope="row">{{ one.name }}<small v-if="one.name === binding"> decides</small></th>
                <td class="number">{{ one.frames }} frames</td>
              </tr>
            </tbody>
          </table>
          <div class="fields">
            <Field
              :model-value="choices.goal_snr ?? null"
              path="goal_snr"
              label="Signal to noise wanted"
              placeholder="10"
              @update:model-value="(value: unknown) => set({ goal_snr: value })" />
            <Field
              :model-value="choices.most_hours ?? null"
              path="most_hours"
              label="Patience"
              unit="h"
              placeholder="the window"
              @update:model-value="(value: unknown) => set({ most_hours: value })" />
          </div>
          <h2>So many frames stacked</h2>
          <table class="rows">
            <thead>
              <tr>
                <th scope="col">Frames</th>
                <th scope="col">S/N per pixel</th>
                <th scope="col">Noise, of the target’s light</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="one in many.stacks" :key="one.frames" class="number">
                <th scope="row">{{ one.frames }}</th>
                <td>{{ number(one.snr, 1) }}</td>
                <td>{{ number(one.noise_share * 100, one.noise_share < 0.1 ? 1 : 0) }} %</td>
              </tr>
            </tbody>
          </table>
          <p class="muted">Four times the frames halve the noise.</p>
        </div>
      </div>
    </div>
    <div class="panel right">
      <h2>Gathered on earlier nights</h2>
      <table v-if="sessions.length" class="rows">
        <thead>
          <tr>
            <th scope="col">Night</th>
            <th scope="col">Kept</th>
            <th scope="col">Hours</th>
            <th scope="col">at f/{{ number(data.f_number, 1) }}</th>
            <th scope="col">by S/N²</th>
            <th scope="col"><span class="unseen">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(one, place) in sessions" :key="one.id" class="number">
            <th scope="row">
              {{ one.name
              }}<small class="muted">
                f/{{ one.f_number }}{{ one.iso ? `, ISO ${one.iso}` : ''
                }}{{ one.filter_name && one.filter_name !== 'none' ? `, ${one.filter_name}` : ''
                }}{{ one.rig_name ? `, ${one.rig_name}` : '' }}</small
              >
            </th>
            <td>{{ one.frames }} × {{ one.exposure_s }} s</td>
            <td>{{ number(many.added[place]?.hours ?? 0, 2) }}</td>
            <td>{{ number(many.added[place]?.equivalent_hours ?? 0, 2) }}</td>
            <td>
              <button
                v-if="many.added[place]"
                type="button"
                class="plain dotted"
                @click="row('Earlier night', one.name, many.added[place]!.working)">
                {{ number(many.added[place]!.weighted_hours, 2) }}
              </button>
            </td>
            <td>
              <Button size="small" :aria-label="`Delete the night of ${one.name}`" @click="remove(one)">×</Button>
            </td>
          </tr>
        </tbody>
        <tfoot>
          <tr class="number">
            <th scope="row">Together</th>
            <td>{{ many.gathered.frames }}</td>
            <td>{{ number(many.gathered.kept_hours, 2) }}</td>
            <td>
              <b>{{ number(many.gathered.equivalent_hours, 2) }}</b>
            </td>
            <td>
              <b>{{ number(many.gathered.weighted_hours, 2) }}</b>
            </td>
            <td />
          </tr>
        </tfoot>
      </table>
      <p v-else class="muted">Nothing yet. Note what you kept, and the hours still missing follow.</p>
      <p class="muted">
        Hours at another f-number count (N in use / N)². By S/N² the sky, read noise and sub of that night are weighed
        too, and the camera and lens it was taken with: as they were then, for the same patch of sky.
      </p>
      <Alert v-if="told.length" type="error" show-icon :message="told.join(' ')" />
      <div class="fields three">
        <Field v-model="draft.night" path="night" label="Night" kind="date" />
        <Field v-model="draft.frames" path="frames" label="Frames kept" />
        <Field v-model="draft.exposure_s" path="exposure_s" label="Each" unit="s" />
        <Field v-model="draft.f_number" path="f_number" label="f-number" />
        <Field v-model="draft.iso" path="iso" label="ISO" placeholder="as in use" />
        <Field v-model="draft.sky_mag" path="sky_mag" label="Sky there" unit="mag/arcsec²" placeholder="as in use" />
        <Field v-model="draft.filter_name" path="filter_name" label="Filter" kind="choice" :options="filters" />
        <Field v-model="draft.rig" path="rig" label="Taken with" kind="choice" :options="withWhich" />
      </div>
      <p><Button :loading="busy" @click="add">Add this night</Button></p>
    </div>
  </section>
  <WorkingDrawer :verdict="opened" :focus="shown ?? ''" @close="close" />
</template>

<style scoped>
.many {
  display: grid;
  grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr);
  gap: 8px;
  align-items: start;
}
.left,
.right {
  padding: 8px 14px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
.sentence {
  font-size: 16px;
  font-weight: 600;
}
.plot {
  height: 190px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1.1fr;
  gap: 18px;
  align-items: start;
}
.rows {
  font-size: 12.5px;
}
.rows th,
.rows td {
  padding: 1px 6px;
}
.rows thead th {
  font-size: 11.5px;
}
.chosen {
  background: var(--raised);
}
.chosen small {
  color: var(--accent);
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
  margin-top: 6px;
}
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
.hold {
  min-height: 300px;
}
@media (max-width: 1000px) {
  .many,
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
