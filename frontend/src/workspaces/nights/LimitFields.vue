<script setup lang="ts">
import type { Limits } from '@/composables/useWholeNight'
import Field from '@/parts/Field.vue'

/** Within which hours somebody is up and there. */
const limits = defineModel<Limits>({ required: true })
</script>

<template>
  <details :open="Boolean(limits.sleep_from || limits.not_before || limits.not_after)">
    <summary>Let me sleep, start later, end earlier</summary>
    <div class="limits">
      <Field v-model="limits.sleep_from" path="sleep_from" kind="text" label="Asleep from" hint="like 01:00" />
      <Field v-model="limits.sleep_to" path="sleep_to" kind="text" label="to" hint="like 04:00" />
      <Field v-model="limits.awakenings" path="awakenings" label="Wake me at most" unit="times" />
      <Field v-model="limits.not_before" path="not_before" kind="text" label="Nothing before" hint="local time" />
      <Field v-model="limits.not_after" path="not_after" kind="text" label="Nothing after" hint="local time" />
    </div>
  </details>
</template>

<style scoped src="../framing/folded.css"></style>
<style scoped>
.limits {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
</style>
