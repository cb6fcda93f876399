<script setup lang="ts">
/** Choose files, in the look of our own buttons; the browser's own field stays beneath for keys and readers. */
defineProps<{
  label: string
  words: string
  accept?: string
  multiple?: boolean
  disabled?: boolean
  small?: boolean
}>()
const emit = defineEmits<{ files: [files: File[]] }>()

function taken(event: Event) {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  input.value = ''
  if (files.length) emit('files', files)
}
</script>

<template>
  <label class="file-button" :class="{ disabled, small }">
    <input type="file" :accept="accept" :multiple="multiple" :disabled="disabled" :aria-label="label" @change="taken" />
    {{ words }}
  </label>
</template>

<style scoped>
.file-button {
  position: relative;
  display: inline-flex;
  align-items: center;
  min-height: 32px;
  padding: 2px 14px;
  background: var(--raised);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 8px;
  cursor: pointer;
}
.small {
  min-height: 24px;
  padding: 0 8px;
  font-size: 14px;
  border-radius: 6px;
}
.file-button:hover {
  border-color: var(--accent);
}
.file-button:focus-within {
  outline: 2px solid var(--accent);
  outline-offset: 2px;
}
.disabled {
  opacity: 0.55;
  cursor: default;
}
input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: inherit;
}
@media (max-width: 820px) {
  .file-button {
    min-height: 44px;
  }
}
</style>
