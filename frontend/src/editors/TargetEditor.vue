<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useTargetKinds } from '@/composables/useCatalogue'
import { useEditor } from '@/composables/useEditor'
import { useKeepTarget, type Target, type TargetIn } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

const props = defineProps<{ open: boolean; record: Target | null }>()
const emit = defineEmits<{ close: []; kept: [target: Target] }>()
const { faults, busy, save, drop } = useEditor<TargetIn, Target>(
  useKeepTarget(),
  () => props.record,
  () => props.open,
  {
    kept: (target) => emit('kept', target),
    close: () => emit('close'),
  },
)

const { data: kinds } = useTargetKinds()
const kindOptions = computed(() => (kinds.value?.kinds ?? []).map((value) => ({ value, label: value })))
const draft = ref({} as TargetIn)
watch(
  () => props.open,
  (open) => {
    if (!open) return
    faults.value = {}
    draft.value = props.record
      ? { ...props.record }
      : ({
          name: '',
          ra_deg: null,
          dec_deg: null,
          extent_deg: 1,
          surface_mag: 22,
          width_deg: null,
          angle_deg: 0,
          kind: 'other',
          light: 'both',
          numbers: '',
          constellation: '',
        } as unknown as TargetIn)
  },
  { immediate: true },
)
</script>

<template>
  <FormDrawer
    :open="open"
    :title="record ? `Change “${record.name}”` : 'A new target'"
    :busy="busy"
    :removable="!!record"
    @close="emit('close')"
    @save="save(draft)"
    @remove="drop">
    <div class="grid">
      <Field v-model="draft.name" path="name" label="Name of the target" kind="text" />
      <Field
        v-model="draft.ra_deg"
        path="ra_deg"
        label="Right ascension"
        unit="J2000"
        hint="00h42m44s, 00:42:44, or degrees" />
      <Field
        v-model="draft.dec_deg"
        path="dec_deg"
        label="Declination"
        unit="J2000"
        hint="−69°45′, or degrees; south negative" />
      <Field v-model="draft.extent_deg" path="extent_deg" label="Long side" unit="°" />
      <Field v-model="draft.width_deg" path="width_deg" label="Short side" unit="°" hint="empty: as wide as long" />
      <Field
        v-model="draft.angle_deg"
        path="angle_deg"
        label="Angle of the long side"
        unit="°"
        hint="north through east" />
      <Field v-model="draft.kind" path="kind" label="Kind" kind="choice" :options="kindOptions" />
      <Field
        v-model="draft.light"
        path="light"
        label="Shines in"
        kind="choice"
        :options="[
          { value: 'lines', label: 'spectral lines' },
          { value: 'continuum', label: 'continuum' },
          { value: 'both', label: 'both' },
        ]" />
      <Field
        v-model="draft.numbers"
        path="numbers"
        label="Other names and numbers"
        kind="text"
        hint="parted by semicolons" />
      <Field
        v-model="draft.constellation"
        path="constellation"
        label="Constellation"
        kind="text"
        hint="three letters" />
      <Field
        v-model="draft.surface_mag"
        path="surface_mag"
        label="Surface brightness"
        unit="mag/arcsec²"
        hint="of what you want to see; faint nebulae 22 to 24" />
    </div>
  </FormDrawer>
</template>
