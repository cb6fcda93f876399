<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { Refusal } from '@/api/client'
import { undoable } from '@/composables/useUndo'

const trouble = ref('')
/** Long enough to think twice; then it gives the room back. The way back from a deletion is worth the wait of a slow reader. */
const SHOWN_MS = 20_000
let timer = 0
const inside = ref(false)
watch([undoable, inside], () => {
  trouble.value = ''
  window.clearTimeout(timer)
  if (undoable.value && !inside.value) timer = window.setTimeout(() => (undoable.value = null), SHOWN_MS)
})

async function undo() {
  try {
    await undoable.value?.undo?.()
    undoable.value = null
  } catch (error) {
    trouble.value = error instanceof Refusal ? error.message : 'That did not work; try once more.'
  }
}
</script>

<template>
  <div
    v-if="undoable"
    class="bar panel"
    role="status"
    @pointerenter="inside = true"
    @pointerleave="inside = false"
    @focusin="inside = true"
    @focusout="inside = false">
    {{ undoable.text }} <span v-if="trouble" class="trouble">{{ trouble }}</span>
    <Button v-if="undoable.undo" size="small" type="primary" @click="undo">Undo</Button>
    <Button size="small" type="text" @click="undoable = null">Close</Button>
  </div>
</template>

<style scoped>
.bar {
  position: fixed;
  left: 88px;
  bottom: 8px; /* never over the context, nor over a verdict that has just changed */
  max-width: 560px;
  z-index: 2000;
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 10px 16px;
  background: var(--raised);
}
@media (max-width: 820px) {
  .bar {
    left: 0;
    right: 0;
    bottom: 0; /* in the place of the bar of the workspaces, which comes back: nothing of the page lies there */
    min-height: calc(60px + env(safe-area-inset-bottom));
    padding: 4px 12px calc(4px + env(safe-area-inset-bottom));
    border-radius: 0;
  }
}
.trouble {
  color: var(--stop);
}
</style>
