<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import type { Refusal, Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useFaults } from '@/composables/useFaults'
import Field from '@/parts/Field.vue'

/** A field larger than one frame: columns and rows of panels, in the order that moves one axis at a time. */
const props = defineProps<{ laid: Schemas['PanelsOut'] | null; refusal: Refusal | null }>()
const columns = defineModel<number | string | null>('columns')
const rows = defineModel<number | string | null>('rows')
const overlap = defineModel<number | string | null>('overlap')
const emit = defineEmits<{ fewest: []; drop: [row: number, column: number] }>()
useFaults(computed(() => props.refusal?.faults ?? {}))
const many = computed(() => (props.laid?.panels.length ?? 0) > 1)
const kept = computed(() => props.laid?.panels.filter((one) => !one.dropped).length ?? 0)
</script>

<template>
  <section class="panel panels" aria-label="Panels">
    <h2>Panels</h2>
    <div class="fields">
      <Field v-model="columns" path="columns" label="Columns" />
      <Field v-model="rows" path="rows" label="Rows" />
      <Field v-model="overlap" path="overlap" label="Overlap" unit="%" />
    </div>
    <p>
      <Button size="small" @click="emit('fewest')">The fewest that cover it</Button>
    </p>
    <p v-if="laid && many" role="status">
      <b class="number">{{ kept }} panels</b>, neighbours share {{ number(laid.overlap_percent, 0) }} % or more<template
        v-if="laid.covered_percent != null"
        >; {{ number(laid.covered_percent, 0) }} % of what is wanted is covered</template
      >.
      <template v-if="laid.turn_deg > 0.5">
        From first to last the camera turns by {{ number(laid.turn_deg, 1) }}°.</template
      >
    </p>
    <details v-if="laid && many">
      <summary>Centres, in the order to shoot them</summary>
      <table class="rows">
        <thead>
          <tr>
            <th scope="col">Row · column</th>
            <th scope="col">RA</th>
            <th scope="col">Dec</th>
            <th scope="col">Angle</th>
            <th scope="col">Shot</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in laid.panels" :key="`${one.row} ${one.column}`" class="number">
            <th scope="row">{{ one.row + 1 }}·{{ one.column + 1 }}</th>
            <td>{{ number(one.frame.ra_deg / 15, 3) }} h</td>
            <td>{{ number(one.frame.dec_deg, 2) }}°</td>
            <td>{{ number(one.frame.angle_deg, 1) }}°</td>
            <td>
              <input
                type="checkbox"
                :checked="!one.dropped"
                :aria-label="`Panel ${one.row + 1}·${one.column + 1}`"
                @change="emit('drop', one.row, one.column)" />
            </td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>

<style scoped>
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
summary {
  min-height: 24px;
  cursor: pointer;
}
@media (max-width: 820px) {
  summary {
    min-height: 44px;
    display: flex;
    align-items: center;
  }
}
</style>
