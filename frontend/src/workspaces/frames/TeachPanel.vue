<script setup lang="ts">
import { Button } from 'ant-design-vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import type { JudgedRun, Lesson } from '@/composables/useFrames'

/** What this run measured, beside what plans use now; the person accepts, nothing changes by itself. */
defineProps<{ run: JudgedRun; axis: Schemas['RunAxis'] | null }>()
const emit = defineEmits<{ learn: [lesson: Lesson]; keepAxis: [] }>()
const arcmin = (value: number) => `${number(value, 1)}′`
const signed = (value: number) => `${value > 0 ? '+' : ''}${arcmin(value)}`
</script>

<template>
  <section class="panel out" aria-label="What it teaches">
    <h2>What it teaches</h2>
    <dl v-for="one in run.lessons" :key="one.key" class="lesson">
      <dt>{{ one.name }}</dt>
      <dd>measured {{ one.measured }}</dd>
      <dd class="muted">planned with {{ one.in_use }}</dd>
      <dd>
        <template v-if="one.why_not">{{ one.why_not }}</template>
        <Button v-else-if="one.differs" size="small" @click="emit('learn', one)">Use it from now on</Button>
        <template v-else>They agree.</template>
      </dd>
    </dl>
    <dl v-if="axis?.error" class="lesson">
      <dt>Axis in this run</dt>
      <dd>measured {{ arcmin(axis.total_arcmin ?? 0) }} off the pole</dd>
      <dd class="muted">
        altitude {{ signed(axis.error.altitude_arcmin) }}, azimuth {{ signed(axis.error.azimuth_arcmin) }} to the east
      </dd>
      <dd>
        <template v-if="axis.why_not">{{ axis.why_not }}</template>
        <Button v-else size="small" @click="emit('keepAxis')">Keep as this night’s alignment</Button>
      </dd>
    </dl>
  </section>
</template>

<style scoped>
.out {
  padding: 8px 12px;
  display: grid;
  gap: 8px;
}
.lesson,
.lesson dd {
  margin: 0;
}
.lesson dt {
  font-weight: 600;
}
</style>
