<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'

/** The pictures as measured: where each looks, and where the target stands in it. */
defineProps<{ result: Schemas['MeasurementOut'] }>()
const inside = (found: { right_frames?: number | null; down_frames?: number | null }) =>
  Math.max(Math.abs(found.right_frames ?? 9), Math.abs(found.down_frames ?? 9)) < 0.5
const preview = (id: number) => `/api/pictures/${id}/preview.jpg`
</script>

<template>
  <ul class="found">
    <li v-for="one in result.pictures" :key="one.picture">
      <span class="picture"
        ><img :src="preview(one.picture)" :alt="`${one.name}, stretched`" /><svg
          v-if="result.task === 'pointing'"
          viewBox="-50 -50 100 100"
          preserveAspectRatio="none"
          aria-hidden="true">
          <path class="middle" d="M-4 0H4M0 -6V6" /></svg
        ><i
          v-if="result.task === 'pointing' && inside(one)"
          class="target"
          :style="{
            left: `${50 + 100 * (one.right_frames ?? 0)}%`,
            top: `${50 + 100 * (one.down_frames ?? 0)}%`,
          }"
          >target</i
        ></span
      ><span class="number"
        ><b>{{ one.name }}</b
        ><br />{{ number(one.pointing.ra_deg / 15, 2) }} h, {{ number(one.pointing.dec_deg, 1) }}°<br />{{
          one.pointing.stars
        }}
        stars, {{ number(one.pointing.scale_arcsec_px, 2) }} ″/px, FWHM {{ number(one.fwhm_px, 1) }} px</span
      >
    </li>
  </ul>
</template>

<style scoped>
.found {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 8px;
}
.found img {
  height: 150px;
  max-width: 100%;
  border-radius: 6px;
  display: block;
}
:root[data-theme='field'] .picture {
  background: #d00000;
  isolation: isolate;
}
:root[data-theme='field'] .found img {
  mix-blend-mode: multiply;
}
.picture {
  position: relative;
  display: inline-block !important;
}
.picture svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
.middle {
  stroke: #fff;
  vector-effect: non-scaling-stroke;
  fill: none;
}
.target {
  position: absolute;
  font-size: 11px;
  font-style: normal;
  color: #fff;
  border-left: 2px solid #fff;
  padding-left: 4px;
  line-height: 12px;
  text-shadow: 0 0 4px #000;
}
:root[data-theme='field'] .middle {
  stroke: #f00;
}
:root[data-theme='field'] .target {
  color: #f00;
  border-color: #f00;
}
.found span {
  font-size: 12.5px;
  display: block;
}
</style>
