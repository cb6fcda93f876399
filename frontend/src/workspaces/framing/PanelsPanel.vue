<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { showFaults } from '@/composables/useFaults'
import { theFraming } from '@/composables/useFraming'
import Choice from '@/parts/Choice.vue'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** A field larger than one frame: columns and rows of panels. */
const emit = defineEmits<{ fewest: [] }>()
const framing = theFraming()
const { columns, rows, overlapPercent, grid, laid, refusal } = framing
showFaults(computed(() => refusal.value?.list ?? []))
const many = computed(() => (laid.value?.panels.length ?? 0) > 1)
const shown = ref<string | null>(null)
</script>

<template>
  <section class="panel panels" aria-label="Panels">
    <h2>Panels</h2>
    <div class="fields">
      <Field v-model="columns" path="columns" label="Columns" />
      <Field v-model="rows" path="rows" label="Rows" />
      <Field v-model="overlapPercent" path="overlap" label="Overlap" unit="%" />
    </div>
    <div class="how">
      <label for="framing-grid">Laid out</label>
      <Choice
        id="framing-grid"
        v-model="grid"
        :options="[
          { value: 'turned', label: 'along the frame, at its angle' },
          { value: 'equatorial', label: 'along declination: only RA moves in a row' },
        ]" />
      <Button size="small" @click="emit('fewest')">The fewest that cover it</Button>
    </div>
    <p v-if="laid && grid === 'equatorial' && laid.grid === 'turned' && many" class="muted">
      Along declination needs an upper edge at 0° or 180° and rows below 84°; they are laid along the frame.
    </p>
    <p v-if="laid && !many" class="muted">
      One frame. Give it more columns or rows, or let the fewest be found that cover what you want.
    </p>
    <FormFaults />
    <VerdictBrief v-if="laid" class="laid" role="status" :verdict="laid.verdict" @working="(key) => (shown = key)" />
    <WorkingDrawer :verdict="shown !== null && laid ? laid.verdict : null" :focus="shown ?? ''" @close="shown = null" />
  </section>
</template>

<style scoped>
.laid {
  padding: 4px 0 0;
  border: 0;
}
.panels {
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 8px;
}
.how {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 6px 8px;
  align-items: center;
}
.how .ant-btn {
  grid-column: 1 / -1;
  justify-self: start;
}
</style>
