<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { shiftedNight } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { useEditor } from '@/composables/useEditor'
import { useKeepTrip, usePlaces, useRigs, useTargets, type Trip, type TripIn } from '@/composables/useRecords'
import Choice from '@/parts/Choice.vue'
import Field from '@/parts/Field.vue'
import FieldFault from '@/parts/FieldFault.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

/** A run of nights: where each is spent, with which rigs, for which targets, and the drive home. */
const props = defineProps<{ open: boolean; record: Trip | null; night: string | null; spot: number | null }>()
const emit = defineEmits<{ close: []; kept: [trip: Trip] }>()
const { faults, busy, save, drop } = useEditor<TripIn, Trip>(
  useKeepTrip(),
  () => props.record,
  () => props.open,
  {
    kept: (trip) => emit('kept', trip),
    close: () => emit('close'),
  },
)
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()
const spotOptions = computed(() =>
  (places.value?.items ?? []).flatMap((place) =>
    place.spots.map((one) => ({ value: one.id, label: `${place.name}, ${one.name}` })),
  ),
)
const rigOptions = computed(() => (rigs.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const targetOptions = computed(() => (targets.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))

const draft = ref({} as TripIn)
watch(
  () => props.open,
  (open) => {
    if (!open) return
    faults.value = {}
    draft.value = props.record
      ? {
          name: props.record.name,
          first_night: props.record.first_night,
          spots: [...props.record.spots],
          rigs: [...props.record.rigs],
          targets: [...props.record.targets],
          wake_time: props.record.wake_time,
          drive_h: props.record.drive_h,
        }
      : {
          name: '',
          first_night: props.night ?? '',
          spots: props.spot ? [props.spot] : [],
          rigs: [],
          targets: [],
          wake_time: '07:00',
          drive_h: 0,
        }
  },
  { immediate: true },
)
const toggled = (list: number[], id: number) => (list.includes(id) ? list.filter((one) => one !== id) : [...list, id])
const nightOf = (place: number) => {
  const night = shiftedNight(draft.value.first_night, place)
  return night === draft.value.first_night && place ? `Night ${place + 1}` : dateWords(night, 'named') || 'Night 1'
}
</script>

<template>
  <FormDrawer
    :open="open"
    :title="record ? `Change “${record.name}”` : 'A new trip'"
    :busy="busy"
    :removable="!!record"
    @close="emit('close')"
    @save="save(draft)"
    @remove="drop">
    <div class="grid">
      <Field v-model="draft.name" path="name" label="Name of the trip" kind="text" />
      <Field
        v-model="draft.first_night"
        path="first_night"
        label="First night"
        kind="text"
        placeholder="2026-12-07"
        hint="date of the evening" />
      <Field
        v-model="draft.wake_time"
        path="wake_time"
        label="You wake at"
        kind="text"
        hint="on the day of the last night, local time" />
      <Field v-model="draft.drive_h" path="drive_h" label="Drive home after it" unit="h" />
    </div>
    <fieldset>
      <legend>Nights</legend>
      <div v-for="(_, place) in draft.spots" :key="place" class="row">
        <label :for="`trip-spot-${place}`">{{ nightOf(place) }}</label>
        <Choice :id="`trip-spot-${place}`" v-model="draft.spots[place]" :options="spotOptions" />
        <Button size="small" :aria-label="`Remove ${nightOf(place)}`" @click="draft.spots.splice(place, 1)"
          >Remove</Button
        >
      </div>
      <FieldFault path="spots" />
      <Button
        size="small"
        :disabled="!spotOptions.length"
        @click="draft.spots.push(draft.spots[draft.spots.length - 1] ?? spotOptions[0]?.value ?? 0)"
        >Add a night</Button
      >
    </fieldset>
    <fieldset>
      <legend>Rigs</legend>
      <Checkbox
        v-for="one in rigOptions"
        :key="one.value"
        class="tick"
        :checked="(draft.rigs ?? []).includes(one.value)"
        @change="draft.rigs = toggled(draft.rigs ?? [], one.value)"
        >{{ one.label }}</Checkbox
      >
    </fieldset>
    <fieldset>
      <legend>Targets</legend>
      <div class="many">
        <Checkbox
          v-for="one in targetOptions"
          :key="one.value"
          class="tick"
          :checked="(draft.targets ?? []).includes(one.value)"
          @change="draft.targets = toggled(draft.targets ?? [], one.value)"
          >{{ one.label }}</Checkbox
        >
      </div>
      <FieldFault path="targets" />
    </fieldset>
  </FormDrawer>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 110px 1fr auto;
  gap: 10px;
  align-items: center;
  margin-bottom: 4px;
}
.tick {
  display: flex;
  margin-inline-start: 0;
}
.many {
  max-height: 220px;
  overflow: auto;
}
.fault {
  color: var(--stop);
  font-size: 12px;
}
</style>
