<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import { ref } from 'vue'

import { useContext } from '@/composables/useContext'
import { useTheme } from '@/theme/useTheme'
import SideSheet from './SideSheet.vue'

const open = ref(false)
const { next } = useTheme()
const { shiftNight } = useContext()

const KEYS = [
  ['?', 'this sheet'],
  ['[ and ]', 'night before, night after'],
  ['t', 'next theme: day, dusk, field'],
  ['← →', 'on the dusk strip: minute by minute, with Shift by quarter hours'],
  ['↑ ↓', 'on the Bench: the chosen part along the arm, with Shift or Page by centimetres'],
  ['Esc', 'close what is open'],
] as const

/** Keys belong to the field one is typing in. */
function typing(event: KeyboardEvent) {
  const at = event.target
  return (
    event.ctrlKey ||
    event.metaKey ||
    event.altKey ||
    (at instanceof HTMLElement && at.closest('input, textarea, select, [role=combobox]') !== null)
  )
}

onKeyStroke(['?', '[', ']', 't'], (event) => {
  if (typing(event)) return
  if (event.key === '?') open.value = !open.value
  if (event.key === '[') shiftNight(-1)
  if (event.key === ']') shiftNight(1)
  if (event.key === 't') next()
})
</script>

<template>
  <SideSheet :open="open" title="Keys" :width="420" middle @close="open = false">
    <dl class="keys">
      <template v-for="[key, does] in KEYS" :key="key"
        ><dt class="number">{{ key }}</dt>
        <dd>{{ does }}</dd></template
      >
    </dl>
  </SideSheet>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 8px;
  margin: 12px 0 0;
}
dd {
  margin: 0;
}
</style>
