<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import { useContext } from '@/composables/useContext'
import { showFaults } from '@/composables/useFaults'
import { theFraming } from '@/composables/useFraming'
import { useRigs } from '@/composables/useRecords'
import Choice from '@/parts/Choice.vue'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** A second camera on the same mount: where it looks beside this one, and what both see. */
const { rig } = useContext()
const { data: rigs } = useRigs()
const { held } = theFraming()
const other = ref<number | null>(null)
const shown = ref<string | null>(null)
const right = ref<number | string | null>(0)
const up = ref<number | string | null>(0)
const turn = ref<number | string | null>(0)
const options = computed(() => [
  { value: null, label: 'none' },
  ...(rigs.value?.items ?? []).filter((one) => one.id !== rig.value).map((one) => ({ value: one.id, label: one.name })),
])
const asked = refDebounced(
  computed(() =>
    other.value === null || rig.value === null
      ? null
      : {
          rig: rig.value,
          other: other.value,
          ra_deg: held.value.ra,
          dec_deg: held.value.dec,
          angle_deg: held.value.angle,
          right_deg: (right.value ?? 0) as number,
          up_deg: (up.value ?? 0) as number,
          turn_deg: (turn.value ?? 0) as number,
        },
  ),
  250,
)
const { data, error } = useQuery({
  queryKey: ['framing', 'pair', asked],
  queryFn: () => answer(api.POST('/api/framings/pair', { body: asked.value as NonNullable<typeof asked.value> })),
  enabled: computed(() => asked.value !== null),
  retry: false,
})
showFaults(computed(() => (error.value instanceof Refusal ? error.value.list : [])))
</script>

<template>
  <details class="panel second">
    <summary>A second camera on the same mount</summary>
    <label for="framing-second">Its rig</label>
    <Choice id="framing-second" v-model="other" :options="options" />
    <template v-if="other !== null">
      <div class="fields">
        <Field v-model="right" path="right_deg" label="Looks right by" unit="°" />
        <Field v-model="up" path="up_deg" label="up by" unit="°" />
        <Field v-model="turn" path="turn_deg" label="turned by" unit="°" />
      </div>
      <FormFaults />
      <VerdictBrief v-if="data" class="both" role="status" :verdict="data.verdict" @working="(key) => (shown = key)" />
    </template>
    <WorkingDrawer :verdict="shown !== null && data ? data.verdict : null" :focus="shown ?? ''" @close="shown = null" />
  </details>
</template>

<style scoped src="./folded.css"></style>
<style scoped>
.both {
  padding: 4px 0 0;
  border: 0;
}
.second {
  padding: 8px 12px;
  font-size: 13px;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 8px;
}
</style>
