<script setup lang="ts">
import { computed } from 'vue'

import { useFramings } from '@/composables/useFramings'
import Choice from '@/parts/Choice.vue'
import Field from '@/parts/Field.vue'

/** How one target is wanted: by which framing, how much it matters, and the least that is worth having. */
const props = defineProps<{ target: number; place: number; framing: number | null }>()
const emit = defineEmits<{ 'update:framing': [framing: number | null] }>()
const weight = defineModel<number>('weight', { required: true })
const least = defineModel<number>('least', { required: true })
const { ofTarget } = useFramings()
const framings = computed(() => [
  { value: null, label: 'its own middle' },
  ...ofTarget(props.target).map((one) => ({
    value: one.id,
    label: one.columns * one.rows > 1 ? `${one.name}, ${one.columns} × ${one.rows} panels` : one.name,
  })),
])
</script>

<template>
  <div class="how">
    <label v-if="framings.length > 1" class="framing" :for="`wish-framing-${place}`"
      >Framed by
      <Choice
        :id="`wish-framing-${place}`"
        :model-value="framing"
        :options="framings"
        @update:model-value="(id) => emit('update:framing', typeof id === 'number' ? id : null)"
    /></label>
    <Field v-model="weight" :path="`wishes.${place}.weight`" label="Matters" unit="×" />
    <Field v-model="least" :path="`wishes.${place}.least_h`" label="At least" unit="h" />
  </div>
</template>

<style scoped>
.how {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  width: 100%;
}
.framing {
  grid-column: 1 / -1;
}
</style>
