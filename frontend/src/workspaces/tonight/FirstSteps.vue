<script setup lang="ts">
import { Button } from 'ant-design-vue'

defineProps<{ rig: boolean; place: boolean; target: boolean }>()
defineEmits<{ edit: [kind: 'rig' | 'place' | 'target'] }>()
</script>

<template>
  <section class="panel steps">
    <h1>Three things first</h1>
    <p class="muted">Wide Dusk works out a night from a rig, a place and a target. Tell it one of each; everything else has a default that you can change later.</p>
    <ol>
      <li><b>With what.</b> Camera, lens, tracker, and what else hangs on it. <Button type="primary" :disabled="rig" @click="$emit('edit', 'rig')">{{ rig ? 'Rig entered' : 'Enter a rig' }}</Button></li>
      <li><b>Where.</b> Coordinates, how dark the sky is, and what stands in the way. <Button type="primary" :disabled="place" @click="$emit('edit', 'place')">{{ place ? 'Place entered' : 'Enter a place' }}</Button></li>
      <li><b>At what.</b> <RouterLink :to="{ name: 'nights-targets' }">Out of the catalogue</RouterLink>, or typed: position, size, brightness. <Button type="primary" :disabled="target" @click="$emit('edit', 'target')">{{ target ? 'Target entered' : 'Enter a target' }}</Button></li>
    </ol>
  </section>
</template>

<style scoped>
.steps { max-width: 720px; margin: 40px auto; padding: 24px 32px; }
h1 { font-size: 24px; }
li { margin: 14px 0; line-height: 32px; }
li :deep(.ant-btn) { float: right; }
</style>
