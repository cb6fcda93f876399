<script setup lang="ts">
import { ref, useId, watch } from 'vue'

/**
 * A value changed in place (bare: in a table, where the fault is told above it): taken on Enter or on leaving it, kept as
 * typed while it is refused.
 */
const props = defineProps<{ label: string; value: string; fault?: string; bare?: boolean }>()
const emit = defineEmits<{ take: [text: string] }>()
const id = useId()
const text = ref('')
watch(
  () => props.value,
  (now) => (text.value = now),
  { immediate: true },
)
function take() {
  if (text.value.trim() !== props.value) emit('take', text.value.trim())
}
</script>

<template>
  <span class="line" :class="{ bare }">
    <label :for="id" :class="{ unseen: bare }">{{ label }}</label>
    <input
      :id="id"
      v-model="text"
      class="number"
      :class="{ wrong: fault }"
      :aria-invalid="Boolean(fault)"
      :aria-describedby="fault ? `${id}-fault` : undefined"
      autocomplete="off"
      @keydown.enter="take"
      @blur="take" />
    <small v-if="fault" :id="`${id}-fault`" :class="{ unseen: bare }" :role="bare ? undefined : 'alert'">{{
      fault
    }}</small>
  </span>
</template>

<style scoped>
.line {
  display: flex;
  flex-direction: column;
  min-width: 0;
}
label {
  font-size: 12px;
  color: var(--muted);
}
input {
  width: 100%;
  box-sizing: border-box;
  background: var(--panel);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 2px 6px;
  font: inherit;
  font-size: 13.5px;
}
.bare input {
  text-align: right;
}
input.wrong {
  border-color: var(--stop);
}
small {
  color: var(--stop);
  font-size: 12px;
}
</style>
