<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { choicesOut, type Choices } from '@/composables/choices'
import { whyNotRecognised, type JudgedRun } from '@/composables/useFrames'
import Field from '@/parts/Field.vue'

import UnknownFrames from './UnknownFrames.vue'

/** What is kept counts for the target; lists and sidecars go to other programs. */
const props = defineProps<{ run: JudgedRun; trouble: string; choices: Partial<Choices> }>()
/** Files are asked for with the limits that the page judges by. */
const file = (name: string) =>
  `/api/frames/runs/${props.run.run.id}/${name}?${new URLSearchParams(choicesOut(props.choices)).toString()}`
const emit = defineEmits<{
  count: [missing: { f_number?: number; exposure_s?: number }]
  assign: [target: number]
  list: [form: 'csv' | 'ecsv' | 'kept' | 'culled']
}>()
const why = computed(() => whyNotRecognised(props.run.run))
const stop = ref<number | null>(null)
const opened = ref<number | null>(null)
const missing = computed(() => ({ f_number: stop.value ?? undefined, exposure_s: opened.value ?? undefined }))
</script>

<template>
  <section class="panel out" aria-label="Out">
    <h2>Take it on</h2>
    <UnknownFrames v-if="why" :why="why" @assign="emit('assign', $event)" />
    <Field
      v-if="run.run.f_number === null"
      v-model="stop"
      path="f_number"
      label="f-number"
      hint="The files do not say it." />
    <Field
      v-if="run.run.exposure_s === null"
      v-model="opened"
      path="exposure_s"
      label="Exposure"
      unit="s"
      hint="The files do not say it." />
    <Alert v-if="trouble" type="error" show-icon :message="trouble" />
    <Button type="primary" :disabled="Boolean(why)" @click="emit('count', missing)">
      {{ run.run.counted === null ? 'Count what is kept for the target' : 'Count again' }}
    </Button>
    <p v-if="run.run.counted !== null" role="status">
      {{ run.run.counted }} frames count for {{ run.run.target_name }}.
    </p>
    <span class="forms">
      <Button size="small" @click="emit('list', 'csv')">CSV</Button>
      <Button size="small" @click="emit('list', 'ecsv')">ECSV</Button>
      <Button size="small" @click="emit('list', 'kept')">Kept, names</Button>
      <Button size="small" @click="emit('list', 'culled')">Culled, names</Button>
      <Button size="small" :href="file('sidecars.zip')" download>XMP sidecars</Button>
      <Button size="small" :href="file('tables.fits')" download>FITS, with stars</Button>
    </span>
  </section>
</template>

<style scoped>
.out {
  padding: 8px 12px;
  display: grid;
  gap: 8px;
}
.forms a {
  text-decoration: none;
  display: inline-flex;
  align-items: center;
}
.forms {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
</style>
