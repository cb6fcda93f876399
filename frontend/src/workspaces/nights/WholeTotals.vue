<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { lengthWords } from '@/instruments/lengths'

/** What each picture and panel gets of the night, beside an even split of it; and the runs as a table, with what to key in. */
defineProps<{ whole: Schemas['WholeNight']; rigs: string[]; startToStart: boolean; trip: boolean }>()
const emit = defineEmits<{ working: [place: number]; total: [place: number] }>()
</script>

<template>
  <div class="totals">
    <section class="panel">
      <h2>The runs</h2>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th scope="col">Picture</th>
              <th scope="col" class="number">Frame from</th>
              <th scope="col" class="number">First frame</th>
              <th scope="col" class="number">Ends</th>
              <th scope="col" class="number">Frames</th>
              <th scope="col" class="number">Exposure, s</th>
              <th scope="col" class="number">Interval, s</th>
              <th scope="col" class="number">ISO</th>
              <th scope="col" class="number">f/</th>
              <th scope="col" class="rig">Rig</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in whole.runs" :key="place">
              <th scope="row">
                <button
                  type="button"
                  class="plain open"
                  :aria-label="`${one.name}. Open the working`"
                  @click="emit('working', place)">
                  {{ one.name }}
                </button>
              </th>
              <td class="number">{{ one.run.change_clock }}</td>
              <td class="number">{{ one.run.begins_clock }}</td>
              <td class="number">{{ one.run.ends_clock }}</td>
              <td class="number">{{ one.run.frames }}</td>
              <td class="number">{{ number(one.run.exposure_s, one.run.exposure_s < 10 ? 1 : 0) }}</td>
              <td class="number">{{ number(one.run.pause_s + (startToStart ? one.run.exposure_s : 0), 0) }}</td>
              <td class="number">{{ one.run.iso }}</td>
              <td class="number">{{ number(one.run.f_number, 1) }}</td>
              <td class="rig">{{ rigs[one.run.stand] }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </section>
    <section class="panel">
      <h2>What each gets</h2>
      <div class="wide">
        <table>
          <thead>
            <tr>
              <th scope="col">Picture</th>
              <th scope="col" class="number">Frames</th>
              <th scope="col" class="number">Shutter open</th>
              <th scope="col" class="number">Weighted, h</th>
              <th scope="col" class="number">Even split, h</th>
              <th scope="col" class="number">Other nights, h</th>
              <th scope="col" class="number">S/N per pixel, each stack</th>
              <th scope="col" class="number">GB</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in whole.totals" :key="`${one.wish} ${one.panel}`">
              <th scope="row">
                <button
                  type="button"
                  class="plain open"
                  :aria-label="`What ${one.name} gets. Open the working`"
                  @click="emit('total', place)">
                  {{ one.name }}
                </button>
              </th>
              <td class="number">{{ one.frames }}</td>
              <td class="number">{{ lengthWords(one.open_s) }}</td>
              <td class="number">{{ number(one.hours, 2) }}</td>
              <td class="number">{{ number(one.even_h, 2) }}</td>
              <td class="number">{{ number(one.gathered_h, 2) }}</td>
              <td class="number">
                <span v-for="stack in one.stacks" :key="stack.stand" class="stack"
                  >{{ one.stacks.length > 1 ? `${rigs[stack.stand]}: ` : '' }}{{ number(stack.snr, 1) }}</span
                >
              </td>
              <td class="number">{{ number(one.storage_gb, 1) }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p class="muted">
        Weighted: hours under a moonless zenith that bring as much. Other nights: what was shot<template v-if="trip"
          >, and what is planned for the other nights of the trip</template
        >.
      </p>
    </section>
  </div>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.totals {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.panel {
  padding: 8px 12px;
}
h2 {
  font-size: 13px;
}
.muted {
  font-size: 12.5px;
}
td.rig,
th.rig {
  padding: 0 0 0 8px;
}
.stack {
  display: block;
}
</style>
