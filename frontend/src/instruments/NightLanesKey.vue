<script setup lang="ts">
import { Button } from 'ant-design-vue'

/** What the lanes' fills mean. */
const emit = defineEmits<{ table: [] }>()
</script>

<template>
  <p class="key muted">
    <svg width="14" height="10" aria-hidden="true"><rect class="usable" width="14" height="10" /></svg> usable
    <svg width="14" height="10" aria-hidden="true">
      <defs>
        <pattern id="key-grain" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <line y2="6" />
        </pattern>
      </defs>
      <rect class="blocked" width="14" height="10" fill="url(#key-grain)" />
    </svg>
    behind the horizon profile
    <svg width="14" height="10" aria-hidden="true">
      <defs>
        <pattern id="key-dots" width="6" height="6" patternUnits="userSpaceOnUse">
          <circle cx="3" cy="3" r="1.1" />
        </pattern>
      </defs>
      <rect class="moonlit" width="14" height="10" fill="url(#key-dots)" />
    </svg>
    too much moonlight
    <svg width="14" height="10" aria-hidden="true"><rect class="low" width="14" height="10" /></svg> too low
    <svg width="14" height="10" aria-hidden="true">
      <g class="best"><rect y="4" width="14" height="3" /></g>
    </svg>
    the best two hours
    <Button size="small" type="text" class="table" @click="emit('table')">Lanes as a table</Button>
  </p>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  margin-top: 4px;
}
.key svg {
  display: inline-block;
  margin-left: 8px;
  border: 1px solid var(--line);
}
.table {
  margin-left: auto;
}
.usable {
  fill: var(--accent);
}
.low {
  fill: var(--raised);
}
pattern line {
  stroke: var(--text);
  stroke-width: 1.6;
  opacity: 0.6;
}
pattern circle {
  fill: var(--text);
  opacity: 0.85;
}
.best rect {
  fill: var(--text);
}
</style>
