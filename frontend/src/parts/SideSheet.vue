<script setup lang="ts">
import { nextTick, onMounted, ref, useId, watch } from 'vue'

/**
 * A sheet beside the page, or in its middle: the browser's own modal dialog, which keeps Tab inside, closes on Escape and gives
 * the focus back to where it came from. A sheet that holds a form is not closed by a press beside it.
 */
const props = withDefaults(
  defineProps<{ open: boolean; title: string; width?: number; middle?: boolean; modal?: boolean }>(),
  { width: 480, middle: false, modal: false },
)
const emit = defineEmits<{ close: [] }>()
const sheet = ref<HTMLDialogElement | null>(null)
const heading = useId()

async function show() {
  await nextTick()
  const dialog = sheet.value
  if (!dialog || dialog.open === props.open) return
  if (!props.open) dialog.close?.()
  else if (typeof dialog.showModal === 'function') dialog.showModal()
  else dialog.setAttribute('open', '')
}
onMounted(show)
watch(() => props.open, show, { flush: 'post' })
</script>

<template>
  <dialog
    ref="sheet"
    class="sheet"
    :class="{ middle }"
    :style="{ '--wide': `${width}px` }"
    :aria-labelledby="heading"
    @cancel.prevent="emit('close')"
    @click.self="modal || emit('close')">
    <div v-if="open" class="inside">
      <header>
        <h2 :id="heading">{{ title }}</h2>
        <button type="button" class="plain shut" aria-label="Close" @click="emit('close')">×</button>
      </header>
      <div class="body" tabindex="0"><slot /></div>
      <footer v-if="$slots.footer"><slot name="footer" /></footer>
    </div>
    <div class="pops" />
  </dialog>
</template>

<style scoped>
.sheet {
  box-sizing: border-box;
  width: min(var(--wide), 100vw);
  max-width: none;
  height: 100dvh;
  max-height: none;
  margin: 0 0 0 auto;
  padding: 0;
  border: 0;
  border-left: 1px solid var(--line);
  background: var(--panel);
  color: var(--text);
}
.sheet:not([open]) {
  display: none;
}
.sheet::backdrop {
  background: color-mix(in srgb, var(--ground) 60%, transparent);
}
.sheet.middle {
  height: auto;
  max-height: 92dvh;
  margin: auto;
  border: 1px solid var(--line);
  border-radius: 10px;
}
.inside {
  display: flex;
  flex-direction: column;
  height: 100%;
  max-height: inherit;
}
.middle .inside {
  max-height: 92dvh;
}
header {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 6px 8px 6px 18px;
  border-bottom: 1px solid var(--line);
}
header h2 {
  flex: 1;
}
.shut {
  width: 44px;
  height: 44px;
  font-size: 22px;
  line-height: 1;
  text-align: center;
  color: var(--muted);
  border-radius: 8px;
}
.shut:hover {
  color: var(--text);
  background: var(--raised);
}
.body {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 14px 18px;
}
.body:focus-visible {
  outline-offset: -2px;
}
footer {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 10px 18px;
  border-top: 1px solid var(--line);
}
@media (max-width: 760px) {
  .sheet:not(.middle) {
    border-left: 0;
  }
}
</style>
