<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'
import { number } from '@/composables/figures'

/** The whole night on paper: black on white and large, since red ink vanishes under a red torch. */
defineProps<{ sheet: Schemas['Sheet']; night: string; spot: string }>()
const seconds = (value: number) => `${number(value, value % 1 ? 1 : 0)} s`
</script>

<template>
  <article class="paper sheet" aria-label="The sheet of the night">
    <header>
      <h1>Night of {{ dateWords(night, 'whole') }}</h1>
      <p>{{ spot }} · times {{ sheet.time_zone }}</p>
    </header>
    <section v-for="(run, place) in sheet.runs" :key="place" class="run">
      <h2>
        <span>{{ run.change_clock }}</span> {{ run.name }} <small>{{ run.rig }}</small>
      </h2>
      <table>
        <thead>
          <tr>
            <th>First frame</th>
            <th>Ends</th>
            <th>Number</th>
            <th>Exposure</th>
            <th>Interval, if a pause</th>
            <th>if start to start</th>
            <th>ISO</th>
            <th>Aperture</th>
            <th>Delay</th>
            <th v-if="run.mirror_s">Mirror</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <td>{{ run.begins_clock }}</td>
            <td>{{ run.ends_clock }}</td>
            <td>{{ run.frames }}</td>
            <td>{{ seconds(run.exposure_s) }}</td>
            <td>{{ seconds(run.interval_gap_s) }}</td>
            <td>{{ seconds(run.interval_start_s) }}</td>
            <td>{{ run.iso }}</td>
            <td>f/{{ number(run.f_number, 1) }}</td>
            <td>{{ seconds(run.delay_s) }}</td>
            <td v-if="run.mirror_s">{{ seconds(run.mirror_s) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="run.noise_reduction">Long-exposure noise reduction on: counted in the interval.</p>
      <p>
        <b>{{ run.way }}.</b> {{ run.steps.join(' ') }}
      </p>
    </section>
    <section v-if="sheet.calibration.length">
      <h2>Before you pack up</h2>
      <p v-for="line in sheet.calibration" :key="line">{{ line }}</p>
    </section>
    <section>
      <h2>Through the night</h2>
      <p class="figures">
        <span v-for="(cue, place) in sheet.cues" :key="place"
          ><b>{{ cue.clock }}</b> {{ cue.name }}</span
        >
      </p>
    </section>
    <p class="cautions">{{ sheet.cautions.join(' ') }}</p>
  </article>
</template>

<style scoped src="@/parts/paper.css"></style>
<style scoped>
h2 {
  font-size: 14pt;
  margin-top: 7pt;
  border-bottom: 1px solid #000;
}
h2 small {
  font-size: 11pt;
  font-weight: 400;
}
.run {
  break-inside: avoid;
}
table {
  width: 100%;
  border-collapse: collapse;
  margin: 2pt 0;
}
th {
  font-size: 9pt;
  font-weight: 400;
  text-align: left;
  color: #000;
  vertical-align: bottom;
  padding-right: 8pt;
}
td {
  font-size: 13pt;
  font-weight: 700;
  padding-right: 6pt;
  white-space: nowrap;
}
</style>
