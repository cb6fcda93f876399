<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { Refusal } from '@/api/client'
import { undoable } from '@/composables/useUndo'

const trouble = ref('')
watch(undoable, () => (trouble.value = ''))

async function undo() {
  try {
    await undoable.value?.undo()
    undoable.value = null
  } catch (error) {
    trouble.value = error instanceof Refusal ? error.message : 'That did not work; try once more.'
  }
}
</script>

<template>
  <div v-if="undoable" class="bar panel" role="status">
    {{ undoable.text }} <span v-if="trouble" class="trouble">{{ trouble }}</span>
    <Button size="small" type="primary" @click="undo">Undo</Button>
    <Button size="small" type="text" @click="undoable = null">Close</Button>
  </div>
</template>

<style scoped>
.bar { position: fixed; left: 50%; bottom: 16px; transform: translateX(-50%); z-index: 2000; display: flex; gap: 10px; align-items: center; padding: 10px 16px; background: var(--raised); }
.trouble { color: var(--stop); }
</style>
