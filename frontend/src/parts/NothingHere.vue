<script setup lang="ts">
/** Where a list will stand: what is missing and, in the slot, the way to it. */
defineProps<{ words: string }>()
</script>

<template>
  <div class="nothing-here">
    <svg viewBox="0 0 96 40" aria-hidden="true">
      <path d="M2 34 Q24 26 40 33 T94 30" />
      <path d="M62 32 L70 14 L78 31 M70 14 L70 30 M66 10 L76 6" />
      <circle cx="26" cy="9" r="1.4" />
    </svg>
    <p>{{ words }}</p>
    <slot />
  </div>
</template>

<style scoped>
.nothing-here {
  display: grid;
  justify-items: center;
  gap: 10px;
  padding: 28px 16px;
  text-align: center;
  color: var(--muted);
}
/* The way to it may take a sentence, which a phone breaks. */
.nothing-here :deep(.ant-btn) {
  max-width: 100%;
  height: auto;
  white-space: normal;
}
svg {
  width: 120px;
  fill: none;
  stroke: currentColor;
  stroke-width: 1.4;
  stroke-linecap: round;
}
circle {
  fill: var(--accent);
  stroke: none;
}
p {
  margin: 0;
  max-width: 52ch;
  font-size: 14px;
  line-height: 1.4;
}
</style>
