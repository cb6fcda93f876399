<script setup lang="ts">
import { Button } from 'ant-design-vue'

import { wordOf, type JudgedFrame, type Said } from '@/composables/useFrames'

import CropGrid from './CropGrid.vue'

/** One frame looked at: its centre and corners, what is decided of it, and the way to the next. */
defineProps<{ frame: JudgedFrame; ahead: number[]; word: string }>()
const emit = defineEmits<{ step: [by: number]; say: [said: Said] }>()
const twice = defineModel<boolean>('twice', { required: true })
const blinking = defineModel<boolean>('blinking', { required: true })
</script>

<template>
  <section class="panel look" aria-label="One frame">
    <header>
      <h2>{{ frame.name }}</h2>
      <span class="word" :class="wordOf(frame)" role="status">{{ word }}{{ frame.said ? ', by you' : '' }}</span>
      <span class="acts">
        <Button size="small" aria-label="Frame before (left arrow)" @click="emit('step', -1)">‹</Button>
        <Button size="small" aria-label="Next frame (right arrow)" @click="emit('step', 1)">›</Button>
        <Button size="small" title="key k" @click="emit('say', 'keep')">Keep</Button>
        <Button size="small" title="key c" @click="emit('say', 'cull')">Cull</Button>
        <Button v-if="frame.said" size="small" title="key m" @click="emit('say', '')">As measured</Button>
        <Button size="small" title="key z" :aria-pressed="twice" @click="twice = !twice">
          {{ twice ? '200 %' : '100 %' }}
        </Button>
        <Button size="small" title="key b" :aria-pressed="blinking" @click="blinking = !blinking">Blink</Button>
      </span>
    </header>
    <CropGrid :frame="frame.id" :ahead="ahead" :twice="twice" :label="`${frame.name}: centre and four corners`" />
    <p v-if="frame.reasons.length" class="why">{{ frame.reasons.join(' ') }}</p>
  </section>
</template>

<style scoped>
.look {
  display: grid;
  gap: 8px;
  padding: 8px 12px;
}
header,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.acts {
  margin-left: auto;
}
.why {
  font-size: 13px;
  margin: 0;
}
.word.keep {
  color: var(--go);
}
.word.less {
  color: var(--care);
}
.word.cull {
  color: var(--stop);
}
</style>
