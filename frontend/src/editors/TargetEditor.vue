<script setup lang="ts">
import { ref, watch } from 'vue'

import { useEditor } from '@/composables/useEditor'
import { useKeepTarget, type Target, type TargetIn } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

const props = defineProps<{ open: boolean; record: Target | null }>()
const emit = defineEmits<{ close: []; kept: [target: Target] }>()
const { faults, busy, save, drop } = useEditor<TargetIn, Target>(useKeepTarget(), () => props.record, { kept: (target) => emit('kept', target), close: () => emit('close') })

const draft = ref({} as TargetIn)
watch(() => props.open, (open) => {
  if (!open) return
  faults.value = {}
  draft.value = props.record ? { ...props.record } : ({ name: '', ra_deg: null, dec_deg: null, extent_deg: 1, surface_mag: 22 } as unknown as TargetIn)
}, { immediate: true })
</script>

<template>
  <FormDrawer :open="open" :title="record ? `Change “${record.name}”` : 'A new target'" :busy="busy" :removable="!!record"
              :shown="['name', 'ra_deg', 'dec_deg', 'extent_deg', 'surface_mag']" @close="emit('close')" @save="save(draft)" @remove="drop">
    <div class="grid">
      <Field v-model="draft.name" path="name" label="Name of the target" kind="text" />
      <Field v-model="draft.ra_deg" path="ra_deg" label="Right ascension" unit="°, J2000" hint="hours × 15" />
      <Field v-model="draft.dec_deg" path="dec_deg" label="Declination" unit="°, J2000" hint="south negative" />
      <Field v-model="draft.extent_deg" path="extent_deg" label="Long side" unit="°" />
      <Field v-model="draft.surface_mag" path="surface_mag" label="Surface brightness" unit="mag/arcsec²" hint="of what you want to see; faint nebulae 22 to 24" />
    </div>
  </FormDrawer>
</template>
