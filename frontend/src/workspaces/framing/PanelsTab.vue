<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { saveFile } from '@/composables/useFiles'
import { theFraming } from '@/composables/useFraming'
import { usePanelNights } from '@/composables/useFramingNight'
import FileButton from '@/parts/FileButton.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import ChartPane from './ChartPane.vue'
import PanelsPanel from './PanelsPanel.vue'
import SecondCamera from './SecondCamera.vue'

/** Columns and rows, the window of each panel in this night, the order to shoot them, and their files. */
const { night } = useContext()
const framing = theFraming()
const { laid } = framing
const { data: nights, refusal } = usePanelNights()
const { busy, faults, attempt } = useFaults()
const fewest = () => attempt(framing.fewest)
const give = (form: 'csv' | 'ecsv' | 'outlines') => attempt(async () => saveFile(await framing.file(form)))
const take = (files: File[]) => attempt(async () => files[0] && (await framing.take(files[0])))
const shown = ref<string | null>(null)
const print = () => window.print()
const told = computed(() => [...Object.values(faults.value), ...(refusal.value ? [refusal.value.message] : [])])
const rows = computed(() =>
  (laid.value?.panels ?? []).map((one) => ({
    ...one,
    key: `${one.row} ${one.column}`,
    night: nights.value?.panels.find((each) => each.row === one.row && each.column === one.column) ?? null,
  })),
)
const readings = (one: Schemas['PanelNight'] | null) => [
  { name: 'Highest', words: one ? `${number(one.highest_deg, 0)}°` : '' },
  { name: 'Sky', words: one?.sky_mag ? number(one.sky_mag, 2) : '' },
]
const window_ = (one: Schemas['PanelNight'] | null) => (one && one.window_s > 0 ? `${one.opens}–${one.closes}` : 'none')
</script>

<template>
  <section class="beside">
    <ChartPane />
    <div class="column">
      <PanelsPanel @fewest="fewest" />
      <Alert v-if="told.length" type="error" show-icon
        ><template #message
          ><p v-for="message in told" :key="message">{{ message }}</p></template
        ></Alert
      >
      <VerdictCard
        v-if="nights && rows.length > 1"
        :verdict="nights.verdict"
        :night="night ?? ''"
        @working="(key) => (shown = key)" />
      <section class="panel files" aria-label="Files of the panels">
        <h2>Files</h2>
        <p class="acts">
          <Button size="small" :loading="busy" @click="give('csv')">CSV</Button>
          <Button size="small" @click="give('ecsv')">ECSV</Button>
          <Button size="small" @click="give('outlines')">Outlines</Button>
          <FileButton
            small
            label="Bring panels from a file"
            words="Bring a file"
            accept=".csv,.ecsv,.txt"
            @files="take" />
          <Button size="small" @click="print">Print</Button>
        </p>
      </section>
      <SecondCamera />
    </div>
    <section v-if="rows.length" class="panel table" aria-label="Each panel">
      <table class="rows">
        <caption class="unseen">
          Panels in the order to shoot them
        </caption>
        <thead>
          <tr>
            <th scope="col">Row · column</th>
            <th scope="col">Shot</th>
            <th scope="col">RA</th>
            <th scope="col">Dec</th>
            <th scope="col">Angle</th>
            <th scope="col">Window</th>
            <th scope="col">Highest</th>
            <th scope="col">Sky, mag/arcsec²</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in rows" :key="one.key" class="number">
            <th scope="row">{{ one.row + 1 }}·{{ one.column + 1 }}</th>
            <td>
              <label class="shot">
                <input
                  type="checkbox"
                  :checked="!one.dropped"
                  :aria-label="`Panel ${one.row + 1}·${one.column + 1}`"
                  @change="framing.drop(one.row, one.column)" />
                {{ one.dropped ? 'no' : 'yes' }}
              </label>
            </td>
            <td>{{ number(one.frame.ra_deg / 15, 3) }} h</td>
            <td>{{ number(one.frame.dec_deg, 2) }}°</td>
            <td>{{ number(one.frame.angle_deg, 1) }}°</td>
            <td>
              <button
                v-if="!one.dropped"
                type="button"
                class="plain open"
                :aria-label="`Window ${window_(one.night)}. Open the working`"
                @click="shown = 'windows'">
                {{ window_(one.night) }}
              </button>
            </td>
            <td v-for="cell in readings(one.night)" :key="cell.name">
              <button
                v-if="cell.words"
                type="button"
                class="plain open"
                :aria-label="`${cell.name} ${cell.words}. Open the working`"
                @click="shown = 'windows'">
                {{ cell.words }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <WorkingDrawer
      :verdict="shown !== null && nights ? nights.verdict : null"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped src="./beside.css"></style>
<style scoped>
.files,
.table {
  padding: 8px 12px;
  font-size: 13px;
}
.table {
  grid-column: 1 / -1;
  overflow-x: auto;
}
.open {
  min-height: 24px;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.shot {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
@media (max-width: 820px) {
  .open,
  .shot {
    min-height: 44px;
    min-width: 44px;
  }
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
</style>
