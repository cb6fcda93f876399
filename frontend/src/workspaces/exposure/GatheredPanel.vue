<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useRefresh } from '@/composables/useRefresh'
import { useContext } from '@/composables/useContext'
import { useSessions } from '@/composables/useExposure'
import { useFaults } from '@/composables/useFaults'
import { useRigs } from '@/composables/useRecords'
import { offerUndo } from '@/composables/useUndo'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'

import { filterOptions } from './filterOptions'

/** What earlier nights brought, in hours of tonight's setting, and where one is noted. */
const props = defineProps<{ data: Schemas['ExposureOut']; many: NonNullable<Schemas['ExposureOut']['many']> }>()
const emit = defineEmits<{ working: [topic: string, sentence: string, working: Schemas['Working']] }>()
const { target, night, rig, spot } = useContext()
const { data: rigs } = useRigs()
const sessions = useSessions()
const refresh = useRefresh()

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
const { busy, attempt } = useFaults()
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
const filters = computed(() => [{ value: '', label: 'as in use' }, ...filterOptions(props.data)])
const withWhich = computed(() => [
  { value: '', label: 'as in use' },
  ...(rigs.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })),
])
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
              @click="emit('working', 'Earlier night', one.name, many.added[place]!.working)">
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
    <FormFaults />
    <div class="fields">
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
</template>

<style scoped>
.right {
  padding: 8px 14px;
  font-size: 13px;
  display: grid;
  gap: 6px;
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
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
  margin-top: 6px;
}
</style>
