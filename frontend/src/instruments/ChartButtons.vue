<script setup lang="ts">
import { Button } from 'ant-design-vue'

/** Closer, farther, and on a touch screen whether a finger moves the chart: else it scrolls the page. */
const emit = defineEmits<{ closer: []; farther: [] }>()
const moving = defineModel<boolean>('moving', { required: true })
</script>

<template>
  <div class="zoom" @pointerdown.stop>
    <Button size="small" class="for-touch" :aria-pressed="moving" @click="moving = !moving">{{
      moving ? 'Done moving' : 'Move'
    }}</Button>
    <Button size="small" aria-label="Show less of the sky" @click="emit('closer')">+</Button>
    <Button size="small" aria-label="Show more of the sky" @click="emit('farther')">−</Button>
  </div>
</template>

<style scoped>
.zoom {
  display: none !important;
}
.for-touch {
  display: none;
}
@media (pointer: coarse) {
  .for-touch {
    display: inline-block;
  }
}
</style>
