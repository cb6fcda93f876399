<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { Button, Textarea } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { useEditor } from '@/composables/useEditor'
import { useKeepPlace, useTimeZones, type Place, type PlaceIn } from '@/composables/useRecords'
import { useWhereabouts } from '@/composables/useWhereabouts'
import Field from '@/parts/Field.vue'
import FieldFault from '@/parts/FieldFault.vue'
import WorldOutline from '@/instruments/WorldOutline.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

import { horizonPoints, horizonText } from './horizon'
import HorizonText from './HorizonText.vue'

const props = defineProps<{ open: boolean; record: Place | null }>()
const emit = defineEmits<{ close: []; kept: [place: Place] }>()
const { faults, busy, attempt, save, drop } = useEditor<PlaceIn, Place>(
  useKeepPlace(),
  () => props.record,
  () => props.open,
  {
    kept: (place) => emit('kept', place),
    close: () => emit('close'),
  },
)
const { data: zones } = useTimeZones()

type Draft = Omit<PlaceIn, 'spots'>
interface SpotDraft {
  id: number | null
  name: string
  text: string
}
const draft = ref({} as Draft)
const spots = ref<SpotDraft[]>([])

/** A pasted coordinate fills in latitude, longitude and time zone; a class or a star the brightness. */
const pasted = ref('')
const reading = ref<Schemas['ReadingOut'] | null>(null)
const zoneOptions = computed(() => [
  { value: null, label: reading.value ? `${reading.value.time_zone}, by the coordinates` : 'by the coordinates' },
  ...(zones.value ?? []).map((zone) => ({ value: zone, label: zone })),
])
const skyBy = ref<'class' | 'star'>('class')
const skyTold = ref<number | null>(null)
const skySaid = ref('')
const unread = ref(false)
watch(
  () => props.open,
  (open) => {
    if (!open) return
    faults.value = {}
    pasted.value = ''
    reading.value = null
    skyTold.value = null
    skySaid.value = ''
    const { record } = props
    draft.value = record
      ? {
          name: record.name,
          latitude_deg: record.latitude_deg,
          longitude_deg: record.longitude_deg,
          height_m: record.height_m,
          time_zone: record.time_zone,
          sky_mag: record.sky_mag,
          access: record.access,
          caution: record.caution,
        }
      : ({
          name: '',
          latitude_deg: null,
          longitude_deg: null,
          height_m: null,
          time_zone: null,
          sky_mag: 21,
          access: '',
          caution: '',
        } as unknown as Draft)
    spots.value = record
      ? record.spots.map((spot) => ({ id: spot.id, name: spot.name, text: horizonText(spot.horizon) }))
      : [{ id: null, name: 'where I stand', text: '' }]
  },
  { immediate: true },
)
watch(pasted, (text) => {
  unread.value = !!text
})
const readPlace = () =>
  attempt(async () => {
    const found = await answer(
      api.GET('/api/places/reading', {
        params: { query: { coordinates: pasted.value, height_m: draft.value.height_m ?? undefined } },
      }),
    )
    reading.value = found
    Object.assign(draft.value, {
      latitude_deg: found.latitude_deg,
      longitude_deg: found.longitude_deg,
      time_zone: null,
    })
    unread.value = false
  })

/** Typed coordinates are read as they stand, so that the time zone there is seen before it is saved. */
watchDebounced(
  () => [draft.value.latitude_deg, draft.value.longitude_deg] as const,
  async ([latitude, longitude]) => {
    const { record } = props
    if (typeof latitude !== 'number' || typeof longitude !== 'number') return
    const query = { coordinates: `${latitude}, ${longitude}`, height_m: draft.value.height_m ?? undefined }
    const found = await answer(api.GET('/api/places/reading', { params: { query } })).catch(() => null)
    if (!found || draft.value.latitude_deg !== latitude || draft.value.longitude_deg !== longitude) return
    reading.value = found
    const there = record?.latitude_deg === latitude && record.longitude_deg === longitude
    if (there && draft.value.time_zone === found.time_zone) draft.value.time_zone = null
    if (!there && draft.value.time_zone === record?.time_zone) draft.value.time_zone = null
  },
  { debounce: 300, immediate: true },
)
const { looking, trouble, find } = useWhereabouts()
async function here() {
  const found = await find()
  if (!found) return
  pasted.value = ''
  unread.value = false
  Object.assign(draft.value, {
    latitude_deg: found.latitude_deg,
    longitude_deg: found.longitude_deg,
    height_m: found.height_m ?? draft.value.height_m,
    time_zone: null,
  })
}
const readSky = () =>
  attempt(async () => {
    const query = skyBy.value === 'class' ? { sky_class: skyTold.value } : { faintest_star: skyTold.value }
    const found = await answer(api.GET('/api/places/sky', { params: { query } }))
    draft.value.sky_mag = found.sky_mag
    skySaid.value = `faintest star about ${found.faintest_star}`
    skyTold.value = null
  })

const body = (): PlaceIn => ({
  ...draft.value,
  spots: spots.value.map((spot) => ({ id: spot.id, name: spot.name, horizon: horizonPoints(spot.text) })),
})
/** What was pasted or told of the sky is read before it is kept: nobody has to remember the buttons. */
async function readAndSave() {
  if (unread.value && !(await readPlace())) return
  if (skyTold.value !== null && String(skyTold.value) !== '' && !(await readSky())) return
  await save(body())
}
</script>

<template>
  <FormDrawer
    :open="open"
    :title="record ? `Change “${record.name}”` : 'A new place'"
    :busy="busy"
    :removable="!!record"
    @close="emit('close')"
    @save="readAndSave"
    @remove="drop">
    <Field v-model="draft.name" path="name" label="Name of the place" kind="text" />
    <div class="row">
      <Field
        v-model="pasted"
        path="coordinates"
        label="Coordinates as you have them"
        kind="text"
        placeholder="24°37'12&quot;S 16°56'24&quot;E"
        hint="decimal, degrees and minutes, or a link to a map"
        @keydown.enter.prevent="readPlace" />
      <Button size="small" :disabled="!pasted" @click="readPlace">Read</Button>
    </div>
    <div class="here">
      <Button size="small" :loading="looking" @click="here">Use my location</Button>
      <small v-if="trouble" class="fault" role="alert">{{ trouble }}</small>
    </div>
    <p v-if="reading" class="reading" role="status">
      {{ reading.words }}, {{ reading.time_zone }}. {{ reading.compass.sentence }} {{ reading.compass.advice }}
    </p>
    <div class="grid">
      <Field v-model="draft.latitude_deg" path="latitude_deg" label="Latitude" unit="°, south negative" />
      <Field v-model="draft.longitude_deg" path="longitude_deg" label="Longitude" unit="°, west negative" />
      <Field
        v-model="draft.height_m"
        path="height_m"
        label="Elevation"
        unit="m"
        hint="left empty, sea level stands in, and Tonight says so" />
      <Field
        v-model="draft.sky_mag"
        path="sky_mag"
        label="Sky at the zenith"
        unit="mag/arcsec²"
        hint="town 18, village 20.5, remote 21.7" />
      <Field
        v-model="skyBy"
        path="sky_by"
        label="or told by"
        kind="choice"
        :options="[
          { value: 'class', label: 'its class, 1 to 9' },
          { value: 'star', label: 'the faintest star seen' },
        ]" />
      <div class="row">
        <Field
          v-model="skyTold"
          :path="skyBy === 'class' ? 'sky_class' : 'faintest_star'"
          :label="skyBy === 'class' ? 'Class' : 'Faintest star'"
          :unit="skyBy === 'class' ? '' : 'mag'"
          :hint="skySaid"
          @keydown.enter.prevent="readSky" /><Button size="small" :disabled="skyTold === null" @click="readSky"
          >Set</Button
        >
      </div>
      <Field
        v-model="draft.time_zone"
        class="zone"
        path="time_zone"
        label="Time zone"
        kind="choice"
        :options="zoneOptions" />
    </div>
    <WorldOutline
      v-if="draft.latitude_deg !== null && draft.longitude_deg !== null"
      class="world"
      :places="[
        { name: draft.name, latitude_deg: Number(draft.latitude_deg), longitude_deg: Number(draft.longitude_deg) },
      ]"
      :width="360" />
    <label for="place-access">Access and local rules</label>
    <Textarea
      id="place-access"
      v-model:value="draft.access"
      :rows="2"
      :status="faults.access ? 'error' : ''"
      placeholder="Whom to ask, the gate, opening hours, lights and noise" />
    <FieldFault path="access" />
    <label for="place-caution">What to mind there</label>
    <Textarea
      id="place-caution"
      v-model:value="draft.caution"
      :rows="2"
      :status="faults.caution ? 'error' : ''"
      placeholder="Animals, cliffs, tides, soft sand, no signal" />
    <FieldFault path="caution" />
    <fieldset v-for="(spot, place) in spots" :key="place">
      <legend>Spot {{ place + 1 }}</legend>
      <div class="row">
        <Field v-model="spot.name" :path="`spots.${place}.name`" label="Where one stands" kind="text" />
        <Button
          v-if="spots.length > 1"
          size="small"
          :aria-label="`Remove the spot ${spot.name}`"
          @click="spots.splice(place, 1)"
          >Remove</Button
        >
      </div>
      <HorizonText v-model="spot.text" :path="`spots.${place}.horizon`" />
    </fieldset>
    <FieldFault path="spots" />
    <Button size="small" @click="spots.push({ id: null, name: '', text: '' })">Add a spot</Button>
  </FormDrawer>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 10px;
  align-items: center;
}
label {
  font-size: 13px;
}
small {
  font-size: 12px;
}

.zone {
  grid-column: span 2;
}
.here {
  display: flex;
  gap: 10px;
  align-items: center;
}
.reading {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--accent);
}
.fault {
  color: var(--stop);
}
</style>
