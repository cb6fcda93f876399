<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

/** Centre and four corners of one frame, pixel for pixel or twice as large, as people judge by eye. */
const props = defineProps<{ frame: number; ahead: readonly number[]; twice: boolean; label: string }>()

const SIDE = 192
const CROPS = ['centre', 'upper left', 'upper right', 'lower left', 'lower right'] as const
const url = (id: number) => `/api/frames/${id}/crops.jpg`

/** Frames ahead are fetched before they are asked for, so that stepping is as quick as the keys. */
const kept = new Map<number, HTMLImageElement>()
watch(
  () => [props.frame, ...props.ahead],
  (numbers) => {
    for (const id of numbers) {
      if (kept.has(id)) continue
      const image = new Image()
      image.src = url(id)
      kept.set(id, image)
    }
    for (const id of [...kept.keys()]) {
      if (kept.size <= 80) break
      kept.delete(id)
    }
  },
  { immediate: true },
)
const box = ref<HTMLElement | null>(null)
const { width } = useElementSize(box)
/** As many pieces beside each other as there is room for; a piece is cut from its middle where it is narrower. */
const shown = computed(() =>
  Math.min(SIDE, Math.max(Math.floor((width.value - 16) / (width.value > 700 ? 5 : 2)), 110)),
)
const scale = computed(() => (props.twice ? 2 : 1))
const whole = computed(() => SIDE * scale.value)
const cut = computed(() => (whole.value - shown.value) / 2)
const style = (place: number) => ({
  width: `${shown.value}px`,
  height: `${shown.value}px`,
  backgroundImage: `url("${url(props.frame)}")`,
  backgroundSize: `${5 * whole.value}px ${whole.value}px`,
  backgroundPosition: `${-(place * whole.value + cut.value)}px ${-cut.value}px`,
})
</script>

<template>
  <div ref="box" class="crops" role="img" :aria-label="label">
    <figure v-for="(name, place) in CROPS" :key="name">
      <div class="piece" :style="style(place)" />
      <figcaption>{{ name }}</figcaption>
    </figure>
  </div>
</template>

<style scoped>
.crops {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
figure {
  margin: 0;
}
.piece {
  background-repeat: no-repeat;
  background-color: var(--earth);
  image-rendering: pixelated;
}
figcaption {
  font-size: 12px;
  color: var(--muted);
}
:root[data-theme='field'] .piece {
  background-blend-mode: multiply;
  background-color: #ff0000;
}
</style>
