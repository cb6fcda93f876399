<script setup lang="ts">
import { computed, toRaw } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

import { LETTER_PX, openPath, projector, toward, type View } from './skychart'

const STEPS = [0.25, 0.5, 1, 2, 5, 10, 15, 30]
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
const pairs = computed(
  () => plain.value?.lines.map(([a = 0, b = 0, c = 0, d = 0]) => [toward(a, b), toward(c, d)]) ?? [],
)
const sun = computed(() => towards(plain.value?.ecliptic ?? []))
const ground = computed(() => towards(toRaw(props.over)?.horizon ?? []))
const named = computed(() => [
  ...(plain.value?.stars ?? []).map((one) => ({ ...one, large: false, to: toward(one.ra_deg, one.dec_deg) })),
  ...(plain.value?.labels ?? []).map((one) => ({
    ...one,
    large: true,
    magnitude: 0,
    to: toward(one.ra_deg, one.dec_deg),
  })),
])
const figures = computed(() => {
  const cast = project.value
  return pairs.value.map((pair) => openPath(pair.map(cast))).join(' ')
})
/** Lines of right ascension and declination, as far apart as leaves some five of each on the drawing. */
const grid = computed(() => {
  const cast = project.value
  const step = STEPS.find((one) => props.fieldDeg / one <= 5) ?? 30
  const middle = props.view
  const lines: string[] = []
  const reach = props.fieldDeg
  const low = Math.max(Math.ceil((middle.dec - reach) / step) * step, -90 + step)
  const high = Math.min(middle.dec + reach, 90 - step)
  const polar = Math.abs(middle.dec) + reach > 85
  const wide = polar ? 180 : Math.min(reach / Math.cos((middle.dec * Math.PI) / 180), 180)
  const stepRa = polar ? 30 : (STEPS.find((one) => wide / one <= 5) ?? 30)
  for (let dec = low; dec <= high; dec += step)
    lines.push(
      openPath(Array.from({ length: 49 }, (_, place) => cast(toward(middle.ra - wide + (wide * place) / 24, dec)))),
    )
  for (let ra = Math.ceil((middle.ra - wide) / stepRa) * stepRa; ra <= middle.ra + wide; ra += stepRa)
    lines.push(
      openPath(
        Array.from({ length: 25 }, (_, place) => {
          const dec = middle.dec - reach + (reach * place) / 12
          return Math.abs(dec) <= 89 ? cast(toward(ra, dec)) : null
        }),
      ),
    )
  return lines.join(' ')
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
  const at = props.over?.moon_up ? project.value(toward(props.over.moon.ra_deg, props.over.moon.dec_deg)) : null
  return at && inside(at) ? { ...at, r: Math.max((props.view.scale * 0.26 * Math.PI) / 180, 5) } : null
})
</script>

<template>
  <g>
    <path class="grid" :d="grid" />
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
.grid,
.figure,
.ecliptic,
.horizon {
  fill: none;
  stroke: var(--path);
}
.grid {
  stroke-width: 0.5;
  opacity: 0.22;
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
@media print {
  .grid,
  .figure,
  .word,
  .word.large {
    opacity: 1;
  }
  .grid {
    stroke-width: 0.2;
  }
}
.moon circle {
  fill: var(--path);
  opacity: 0.85;
}
</style>
