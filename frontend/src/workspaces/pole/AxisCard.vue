<script setup lang="ts">
import type { AxisOut } from '@/composables/usePole'
import VerdictCard from '@/parts/VerdictCard.vue'

/** The verdict on the axis, with the screws in the order in which they are turned. */
defineProps<{ axis: AxisOut; night: string }>()
defineEmits<{ working: [key: string] }>()
</script>

<template>
  <VerdictCard :verdict="axis.verdict" :night="night" @working="(key) => $emit('working', key)">
    <p v-if="axis.verdict.level === 'go'" class="muted">Truer still:</p>
    <ol class="moves" aria-label="What to turn">
      <li v-for="move in axis.moves" :key="move.screw">
        <button
          type="button"
          class="plain open"
          :class="{ done: axis.verdict.level === 'go' }"
          @click="$emit('working', 'moves')">
          {{ move.words }}
        </button>
      </li>
    </ol>
    <slot />
  </VerdictCard>
</template>

<style scoped>
.muted {
  font-size: 13px;
}
.moves {
  margin: 0;
  padding-left: 20px;
}
.open {
  vertical-align: top;
  font-weight: 600;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.done {
  font-weight: 400;
  color: var(--muted);
}
</style>
