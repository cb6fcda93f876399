<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { useFaults } from '@/composables/useFaults'
import { useKeepRig, type Rig, type RigIn } from '@/composables/useRecords'
import Field from '@/parts/Field.vue'
import FormDrawer from '@/parts/FormDrawer.vue'

const props = defineProps<{ open: boolean; record: Rig | null }>()
const emit = defineEmits<{ close: []; kept: [id: number] }>()
const { faults, busy, attempt } = useFaults()
const { keep, remove } = useKeepRig()

/** Honest defaults where there are any; what only the owner can know stays empty. */
const blank = () =>
  ({
    name: '', support: 'ball head', star_fwhm_px: 2.5,
    camera: { name: '', mass_g: null, width_mm: null, height_mm: null, pitch_um: null, raw_file_mb: 30, response_nm: 40, dark_e_s: 0.02, iso_steps: [{ iso: 800, read_noise_e: 3.5, full_well_e: 20000 }, { iso: 1600, read_noise_e: 2.8, full_well_e: 10000 }] },
    lens: { name: '', mass_g: null, focal_mm: null, f_widest: null, f_best: null },
    tracker: { name: '', rating_g: null, rating_includes_counterweights: false, pe_half_amplitude_arcsec: 20, pe_period_s: 480, scope_view: 'inverted' },
    carried: [],
  }) as unknown as RigIn
const draft = ref<RigIn>(blank())
watch(() => props.open, (open) => {
  if (!open) return
  faults.value = {}
  draft.value = props.record ? structuredClone(JSON.parse(JSON.stringify(props.record)) as RigIn) : blank()
}, { immediate: true })

async function save() {
  let id = 0
  if (await attempt(async () => (id = (await keep(props.record?.id ?? null, draft.value)).id))) {
    emit('kept', id)
    emit('close')
  }
}
async function drop() {
  const { record } = props
  if (record && (await attempt(() => remove(record)))) emit('close')
}
const YES = [{ value: true, label: 'yes' }, { value: false, label: 'no' }]
</script>

<template>
  <FormDrawer :open="open" :title="record ? `Change “${record.name}”` : 'A new rig'" :busy="busy" :removable="!!record"
              :shown="['name', 'support', 'star_fwhm_px', 'camera', 'lens', 'tracker', 'carried']" @close="emit('close')" @save="save" @remove="drop">
    <div class="grid">
      <Field v-model="draft.name" path="name" label="Name of the rig" kind="text" />
      <Field v-model="draft.support" path="support" label="Camera sits on" kind="choice" :options="[{ value: 'ball head', label: 'a ball head' }, { value: 'bracket', label: 'a bracket with counterweight' }]" />
      <Field v-model="draft.star_fwhm_px" path="star_fwhm_px" label="Untrailed star" unit="px FWHM" hint="2.5 until you have measured it" />
    </div>
    <fieldset><legend>Lens</legend><div class="grid">
      <Field v-model="draft.lens.name" path="lens.name" label="Lens" kind="text" />
      <Field v-model="draft.lens.focal_mm" path="lens.focal_mm" label="Focal length" unit="mm" />
      <Field v-model="draft.lens.f_widest" path="lens.f_widest" label="Opens to f/" />
      <Field v-model="draft.lens.f_best" path="lens.f_best" label="Good corners from f/" hint="your own finding" />
      <Field v-model="draft.lens.mass_g" path="lens.mass_g" label="Mass" unit="g" />
    </div></fieldset>
    <fieldset><legend>Camera</legend><div class="grid">
      <Field v-model="draft.camera.name" path="camera.name" label="Body" kind="text" />
      <Field v-model="draft.camera.width_mm" path="camera.width_mm" label="Sensor, long side" unit="mm" />
      <Field v-model="draft.camera.height_mm" path="camera.height_mm" label="Sensor, short side" unit="mm" />
      <Field v-model="draft.camera.pitch_um" path="camera.pitch_um" label="Pixel pitch" unit="µm" />
      <Field v-model="draft.camera.mass_g" path="camera.mass_g" label="Mass" unit="g" />
      <Field v-model="draft.camera.raw_file_mb" path="camera.raw_file_mb" label="Raw file" unit="MB" />
      <Field v-model="draft.camera.response_nm" path="camera.response_nm" label="Response" unit="nm" hint="about 40 for green pixels, no filter" />
      <Field v-model="draft.camera.dark_e_s" path="camera.dark_e_s" label="Dark current" unit="e⁻/s" />
    </div>
    <div v-for="(step, place) in draft.camera.iso_steps" :key="place" class="row">
      <Field v-model="step.iso" :path="`camera.iso_steps.${place}.iso`" label="ISO" />
      <Field v-model="step.read_noise_e" :path="`camera.iso_steps.${place}.read_noise_e`" label="Read noise" unit="e⁻" />
      <Field v-model="step.full_well_e" :path="`camera.iso_steps.${place}.full_well_e`" label="Full well" unit="e⁻" />
      <Button size="small" :aria-label="`Remove ISO ${step.iso}`" @click="draft.camera.iso_steps.splice(place, 1)">Remove</Button>
    </div>
    <p v-if="faults['camera.iso_steps']" class="fault" role="alert">{{ faults['camera.iso_steps'] }}</p>
    <Button size="small" @click="draft.camera.iso_steps.push({} as never)">Add an ISO</Button></fieldset>
    <fieldset><legend>Tracker</legend><div class="grid">
      <Field v-model="draft.tracker.name" path="tracker.name" label="Tracker" kind="text" />
      <Field v-model="draft.tracker.rating_g" path="tracker.rating_g" label="Rated payload" unit="g" />
      <Field v-model="draft.tracker.rating_includes_counterweights" path="tracker.rating_includes_counterweights" label="Rating includes weights" kind="choice" :options="YES" />
      <Field v-model="draft.tracker.pe_half_amplitude_arcsec" path="tracker.pe_half_amplitude_arcsec" label="Periodic error, half" unit="″" hint="half of peak to peak; 10 to 35 is usual" />
      <Field v-model="draft.tracker.pe_period_s" path="tracker.pe_period_s" label="Worm period" unit="s" hint="430 to 640 is usual" />
      <Field v-model="draft.tracker.scope_view" path="tracker.scope_view" label="Polar scope shows" kind="choice" :options="[{ value: 'inverted', label: 'the sky upside down' }, { value: 'upright', label: 'the sky upright' }, { value: 'none', label: 'there is no scope' }]" />
    </div></fieldset>
    <fieldset><legend>Also carried</legend>
      <div v-for="(item, place) in draft.carried ?? []" :key="place" class="row">
        <Field v-model="item.name" :path="`carried.${place}.name`" label="What" kind="text" />
        <Field v-model="item.mass_g" :path="`carried.${place}.mass_g`" label="Mass" unit="g" />
        <Field v-model="item.counterweight" :path="`carried.${place}.counterweight`" label="Counterweight" kind="choice" :options="YES" />
        <Button size="small" :aria-label="`Remove ${item.name || 'this line'}`" @click="draft.carried?.splice(place, 1)">Remove</Button>
      </div>
      <Button size="small" @click="(draft.carried ??= []).push({ name: '', counterweight: false } as never)">Add a part</Button>
    </fieldset>
  </FormDrawer>
</template>

<style scoped>
.row { display: grid; grid-template-columns: 1fr 1fr 1fr auto; gap: 10px; align-items: center; }
.fault { color: var(--stop); font-size: 12px; }
</style>
