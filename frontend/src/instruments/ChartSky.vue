<script setup lang="ts">
import { computed, toRaw } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

import { LETTER_PX, openPath, projector, toward, type View } from './skychart'

/** What lies behind a chart: figures and names, the ecliptic, the ground and the Moon of a moment. */
const props = defineProps<{
  view: View
  fieldDeg: number
  lines: Schemas['LinesOut'] | null
  over: Schemas['AboveOut'] | null
  /** Where names of objects stand already. */
  taken: { x: number; y: number; w: number }[]
}>()
const project = computed(() => projector(props.view))
const inside = ({ x, y }: { x: number; y: number }) => x > 0 && y > 0 && x < props.view.width && y < props.view.height
/** Directions, made once for each answer. */
const towards = (points: readonly (readonly number[])[]) => points.map(([ra, dec]) => toward(ra ?? 0, dec ?? 0))
const plain = computed(() => toRaw(props.lines))
const pairs = computed(() => plain.value?.lines.map(([a, b, c, d]) => [toward(a, b), toward(c, d)]) ?? [])
const sun = computed(() => towards(plain.value?.ecliptic ?? []))
const ground = computed(() => towards(toRaw(props.over)?.horizon ?? []))
const named = computed(() => [
  ...(plain.value?.stars ?? []).map(([name, ra, dec, magnitude]) => ({
    name,
    large: false,
    magnitude,
    to: toward(ra, dec),
  })),
  ...(plain.value?.labels ?? []).map(([name, ra, dec]) => ({ name, large: true, magnitude: 0, to: toward(ra, dec) })),
])
const figures = computed(() => {
  const cast = project.value
  return pairs.value.map((pair) => openPath(pair.map(cast))).join(' ')
})
const ecliptic = computed(() => openPath(sun.value.map(project.value)))
const horizon = computed(() => openPath(ground.value.map(project.value)))
/** Names of bright stars and of constellations, where they have room. */
const words = computed(() => {
  const cast = project.value
  const faintest = props.fieldDeg > 45 ? 1.6 : props.fieldDeg > 20 ? 2.6 : 5
  const taken = [...props.taken]
  return named.value.flatMap((one) => {
    if (one.large ? props.fieldDeg <= 12 : one.magnitude > faintest) return []
    const at = cast(one.to)
    if (!at || !inside(at)) return []
    const w = one.name.length * (one.large ? 1.5 : 1) * LETTER_PX
    const place = { x: one.large ? at.x - w / 2 : at.x + 6, y: one.large ? at.y : at.y + 12, w }
    if (taken.some((each) => Math.abs(each.y - place.y) < 15 && place.x < each.x + each.w && each.x < place.x + w))
      return []
    taken.push(place)
    return [{ ...one, at }]
  })
})
const moon = computed(() => {
  const at = props.over?.moon_up ? project.value(toward(...props.over.moon)) : null
  return at && inside(at) ? { ...at, r: Math.max((props.view.scale * 0.26 * Math.PI) / 180, 5) } : null
})
</script>

<template>
  <g>
    <path class="ecliptic" :d="ecliptic" />
    <path class="figure" :d="figures" />
    <path class="horizon" :d="horizon" />
    <text
      v-for="one in words"
      :key="`w${one.name}`"
      class="word"
      :class="{ large: one.large }"
      :x="one.at.x + (one.large ? 0 : 6)"
      :y="one.at.y + (one.large ? 0 : 12)">
      {{ one.name }}
    </text>
    <g v-if="moon" class="moon">
      <circle :cx="moon.x" :cy="moon.y" :r="moon.r" />
      <text :x="moon.x + moon.r + 4" :y="moon.y + 4">Moon, {{ number(over?.moon_lit_percent ?? 0, 0) }} % lit</text>
    </g>
  </g>
</template>

<style scoped>
.figure,
.ecliptic,
.horizon {
  fill: none;
  stroke: var(--path);
}
.figure {
  stroke-width: 0.8;
  opacity: 0.4;
}
.ecliptic {
  stroke-width: 0.8;
  stroke-dasharray: 1 7;
  opacity: 0.7;
}
.horizon {
  stroke-width: 2.5;
  opacity: 0.75;
}
.word,
.moon text {
  fill: var(--path);
  font-size: 11px;
  paint-order: stroke;
  stroke: var(--sky-dark);
  stroke-width: 3px;
  pointer-events: none;
}
.word {
  opacity: 0.75;
}
.word.large {
  font-size: 12px;
  letter-spacing: 0.18em;
  text-anchor: middle;
  opacity: 0.55;
}
.moon circle {
  fill: var(--path);
  opacity: 0.85;
}
</style>
