<script setup lang="ts">
import { computed } from 'vue'

import { dateWords } from '@/composables/dates'
import { figure, number } from '@/composables/figures'
import type { Tonight } from '@/composables/useTonight'
import type { Run } from '@/composables/useScheduled'
import PoleView from '@/instruments/PoleView.vue'
import { scheduledLine, valueWords } from '@/workspaces/mynights/runs'

/** One page for the pocket: black on white and large, since red ink vanishes under a red torch. */
const props = defineProps<{
  tonight: Tonight
  scheduled: readonly Run[]
  rig: string
  spot: string
  target: string
}>()
const card = computed(() => props.tonight.card)
const run = computed(() => props.scheduled[0])
const seconds = (value: number) => `${number(value, value % 1 ? 1 : 0)} s`
</script>

<template>
  <article class="paper sheet">
    <header>
      <h1>{{ target }}</h1>
      <p>Night of {{ dateWords(tonight.night, 'whole') }} · {{ spot }} · {{ rig }} · times {{ tonight.time_zone }}</p>
    </header>
    <div class="two">
      <table class="key">
        <caption>
          Key in<template v-if="run">at {{ valueWords(run, run.planned_from ?? '') }}</template
          ><template v-else-if="tonight.start_clock">
            at {{ tonight.start_clock }}, ends {{ tonight.end_clock }}</template
          >
        </caption>
        <tbody>
          <tr v-if="card.mirror_s">
            <th>Mirror lock-up <small>counted below</small></th>
            <td>{{ seconds(card.mirror_s) }}</td>
          </tr>
          <tr v-if="card.noise_reduction">
            <th>Noise reduction <small>counted below</small></th>
            <td>on</td>
          </tr>
          <tr>
            <th>Aperture</th>
            <td>f/{{ number(tonight.f_number, 1) }}</td>
          </tr>
          <tr>
            <th>ISO</th>
            <td>{{ tonight.iso }}</td>
          </tr>
          <tr>
            <th>Delay</th>
            <td>{{ seconds(card.delay_s) }}</td>
          </tr>
          <tr>
            <th>Exposure</th>
            <td>{{ seconds(run?.planned_exposure_s ?? card.exposure_s) }}</td>
          </tr>
          <tr>
            <th>Interval <small>if it is the pause</small></th>
            <td>{{ seconds(run?.planned_interval_gap_s ?? card.interval_gap_s) }}</td>
          </tr>
          <tr>
            <th>Interval <small>if from start to start</small></th>
            <td>{{ seconds(run?.planned_interval_start_s ?? card.interval_start_s) }}</td>
          </tr>
          <tr>
            <th>Number</th>
            <td>{{ scheduled.map((one) => one.planned_frames).join(' + ') || card.frames }}</td>
          </tr>
          <tr v-for="one in scheduled" :key="one.id">
            <th>Scheduled</th>
            <td>{{ scheduledLine(one) }}</td>
          </tr>
          <tr v-if="scheduled.length">
            <th>This target all night</th>
            <td>{{ card.frames }} × {{ seconds(card.exposure_s) }}</td>
          </tr>
          <tr>
            <th>Darks to follow <small>cap on</small></th>
            <td>{{ card.calibration.darks }} × {{ seconds(card.exposure_s) }}</td>
          </tr>
        </tbody>
      </table>
      <PoleView
        v-if="tonight.dial && tonight.turning"
        small
        :dial="tonight.dial"
        :turning="tonight.turning"
        :at="tonight.setup"
        :clock="tonight.setup_clock" />
    </div>
    <section v-for="one in tonight.verdicts" :key="one.topic">
      <h2>{{ one.topic }}</h2>
      <p>
        <b>{{ one.sentence }}</b> Decides: {{ one.binding }}. {{ one.advice }}
      </p>
      <p class="figures">
        <span v-for="item in one.figures" :key="item.name">{{ item.name }} {{ figure(item) }}</span>
      </p>
    </section>
    <section>
      <h2>Through the night</h2>
      <p class="figures">
        <span v-for="cue in tonight.cues" :key="cue.key + cue.clock"
          ><b>{{ cue.clock }}</b> {{ cue.name }}</span
        >
      </p>
    </section>
    <p class="cautions">
      {{
        tonight.verdicts
          .map((one) => one.caution)
          .filter(Boolean)
          .join(' ')
      }}
      The app advises; local rules decide.
    </p>
  </article>
</template>

<style scoped src="@/parts/paper.css"></style>
<style scoped>
h2 {
  font-size: 12.5pt;
  margin-top: 5pt;
  border-bottom: 1px solid #000;
}
header p {
  font-size: 11.5pt;
}
.two {
  display: grid;
  grid-template-columns: 1.35fr 1fr;
  gap: 16pt;
  align-items: center;
  margin: 6pt 0;
}
.key {
  border-collapse: collapse;
  width: 100%;
  font-size: 13.5pt;
}
.key caption {
  text-align: left;
  font-weight: 600;
  font-size: 13pt;
  caption-side: top;
  color: #000;
}
.key th {
  text-align: left;
  font-weight: 400;
}
.key td {
  text-align: right;
  font-weight: 700;
}
.key th,
.key td {
  border-bottom: 1px solid #000;
  padding: 1pt 0;
}
small {
  font-size: 10.5pt;
}
</style>
