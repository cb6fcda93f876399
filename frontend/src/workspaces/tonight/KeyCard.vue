<script setup lang="ts">
import { Segmented } from 'ant-design-vue'
import { computed } from 'vue'

import { number } from '@/composables/figures'
import type { Schemas } from '@/api/client'
import type { Run } from '@/composables/useScheduled'
import { valueWords } from '@/workspaces/mynights/runs'

/** What to set on the remote timer, large enough to read by a dim torch: as scheduled, else for this target all night. */
const props = defineProps<{ card: Schemas['Card']; convention: 'gap' | 'start to start'; scheduled?: readonly Run[] }>()
const emit = defineEmits<{ convention: [value: 'gap' | 'start to start'] }>()
const KINDS = [
  { value: 'gap', label: 'Pause' },
  { value: 'start to start', label: 'Start to start' },
]
const seconds = (value: number) => number(value, value % 1 ? 1 : 0)
const first = computed(() => props.scheduled?.[0])
const exposure = computed(() => first.value?.planned_exposure_s ?? props.card.exposure_s)
const interval = computed(() =>
  props.convention === 'gap'
    ? (first.value?.planned_interval_gap_s ?? props.card.interval_gap_s)
    : (first.value?.planned_interval_start_s ?? props.card.interval_start_s),
)
const count = computed(() => props.scheduled?.map((run) => run.planned_frames).join(' + ') || String(props.card.frames))
const times = (run: Run) => `${valueWords(run, run.planned_from ?? '')}–${valueWords(run, run.planned_to ?? '')}`
</script>

<template>
  <div class="keycard">
    <Segmented
      :value="convention"
      :options="KINDS"
      size="small"
      block
      aria-label="What the timer means by interval"
      @change="(value) => emit('convention', value as 'gap' | 'start to start')" />
    <dl>
      <div>
        <dt>Delay</dt>
        <dd class="fixed">{{ seconds(card.delay_s) }}<small> s</small></dd>
      </div>
      <div>
        <dt>Exposure</dt>
        <dd class="fixed">{{ seconds(exposure) }}<small> s</small></dd>
      </div>
      <div>
        <dt>Interval</dt>
        <dd class="fixed">{{ seconds(interval) }}<small> s</small></dd>
      </div>
      <div>
        <dt>Number</dt>
        <dd class="fixed">{{ count }}</dd>
      </div>
    </dl>
    <p v-if="scheduled?.length" class="note">
      Scheduled {{ scheduled.map(times).join(', ') }}. This target all night, as below: {{ card.frames }} ×
      {{ seconds(card.exposure_s) }} s.
    </p>
  </div>
</template>

<style scoped>
.note {
  margin: 6px 0 0;
  font-size: 13px;
  color: var(--muted);
}
.keycard :deep(.ant-segmented-item-selected) {
  background: var(--accent);
  color: var(--accent-text);
}
.keycard {
  border: 1px solid var(--accent);
  border-radius: 8px;
  padding: 8px 10px;
  background: var(--raised);
}
dl {
  margin: 6px 0 0;
}
dl div {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  border-bottom: 1px dotted var(--line);
}
dl div:last-child {
  border: 0;
}
dt {
  color: var(--muted);
}
dd {
  margin: 0;
  font-size: 25px;
  line-height: 1.3;
  font-weight: 600;
}
small {
  font-size: 14px;
  font-weight: 400;
}
</style>
