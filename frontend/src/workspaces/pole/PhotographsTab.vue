<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { showFaults } from '@/composables/useFaults'
import { useEarlierMeasurement } from '@/composables/usePictures'
import { useAlignments, useNeed } from '@/composables/usePole'
import { usePlaces } from '@/composables/useRecords'
import ErrorCross from '@/instruments/ErrorCross.vue'
import DropPictures from '@/parts/DropPictures.vue'
import FormFaults from '@/parts/FormFaults.vue'
import Field from '@/parts/Field.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import AxisCard from './AxisCard.vue'
import CameraClock from './CameraClock.vue'
import MeasuredPictures from './MeasuredPictures.vue'
import { OFFSETS, usePhotographs } from './usePhotographs'

/** Two pictures, the RA axis turned in between: where the axis points and which screw to turn. One picture: where the camera looks. */
const { context, night, spot, change, choose: decide } = useContext()
const earlier = useEarlierMeasurement(context, 'pole')
const { data: need } = useNeed()
const { data: places } = usePlaces()
const alignments = useAlignments()
const zone = computed(
  () => places.value?.items.find((one) => one.spots.some((each) => each.id === spot.value))?.time_zone ?? 'UTC',
)
/** Minutes the place's clocks are ahead of UTC, by the browser's own tables: only to fill a field in. */
function utcOffset() {
  const parts = new Intl.DateTimeFormat('en-GB', { timeZone: zone.value, timeZoneName: 'longOffset' }).formatToParts(
    new Date(`${night.value}T20:00:00Z`),
  )
  const found = /([+-])(\d\d):(\d\d)/.exec(parts.find((one) => one.type === 'timeZoneName')?.value ?? '')
  return found ? (found[1] === '-' ? -1 : 1) * (Number(found[2]) * 60 + Number(found[3])) : 0
}
const hand = usePhotographs(utcOffset)
showFaults(hand.faults)
const result = computed(() => hand.work.data.value ?? null)
const shown = ref<{ of: 'axis' | 'pointing'; key: string } | null>(null)
const verdict = computed(
  () => (shown.value?.of === 'axis' ? result.value?.axis?.verdict : result.value?.pointing) ?? null,
)
const errors = computed(() => alignments.value.flatMap((one) => one.error ?? []).reverse())
/** Use what was measured from now on: it stands under "How" like any other choice. */
const use = () =>
  decide({ alignment_arcmin: Math.max(Math.round((result.value?.axis?.total_arcmin ?? 5) * 10) / 10, 0.1) })

const clock = ref(false)
</script>

<template>
  <section class="photographs">
    <div class="left">
      <DropPictures
        label="Pictures off the card"
        multiple
        :bringing="hand.bringing.value"
        @files="(files) => hand.bring(files)"
        @names="(names) => hand.choose(names)">
        <p>
          <b
            >Look 30° to 70° up, anywhere. Take a picture of 5 to 20 s, turn the tracker about its RA axis by 30° or
            more, touch nothing else, take another.</b
          >
          No view of the pole is needed. With a long or heavy lens take a third and a fourth, each turned once more: two
          pictures cannot show that the camera slipped in its head between them, the third shows it, and the fourth
          tells the axis in spite of it.
        </p>
        <template #acts><Button size="small" @click="clock = true">Is the camera's clock right?</Button></template>
      </DropPictures>
      <p v-if="earlier && !result" class="panel earlier">
        Last measured on {{ dateWords(earlier.night)
        }}<template v-if="earlier.axis"
          >: <span class="number">{{ number(earlier.axis.total_arcmin, 1) }}′</span> off the pole</template
        >.
        <Button size="small" @click="change({ night: earlier.night, spot: earlier.spot })">Go to that night</Button>
      </p>
      <FormFaults />
      <div v-if="hand.chosen.value.length" class="panel hand">
        <table>
          <thead class="unseen">
            <tr>
              <th scope="col">Picture</th>
              <th scope="col">Begun, by the camera's clock</th>
              <th scope="col">Seconds</th>
              <th scope="col">Focal length</th>
              <th scope="col">Acts</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in hand.chosen.value" :key="one.picture.id">
              <th scope="row">
                {{ one.picture.name
                }}<small class="muted"
                  >{{ one.picture.kind }}, {{ one.picture.width_px }} × {{ one.picture.height_px }}</small
                >
              </th>
              <td>
                <Field
                  v-model="one.taken"
                  kind="moment"
                  :path="`pictures.${place}.taken`"
                  label="Begun, camera’s clock"
                  placeholder="8 Dec 2026 21:04:30" />
              </td>
              <td>
                <Field v-model="one.exposure_s" :path="`pictures.${place}.exposure_s`" label="Exposure" unit="s" />
              </td>
              <td>
                <Field
                  v-model="one.focal_mm"
                  :path="`pictures.${place}.focal_mm`"
                  label="Focal length"
                  unit="mm"
                  placeholder="not known" />
              </td>
              <td>
                <Button size="small" :aria-label="`Take ${one.picture.name} off`" @click="hand.drop(place)">×</Button>
              </td>
            </tr>
          </tbody>
        </table>
        <div class="clockline">
          <Field
            v-model="hand.offset.value"
            path="clock_offset_min"
            label="The camera's clock is on"
            kind="choice"
            :options="OFFSETS" />
          <Field
            v-model="hand.fast.value"
            path="clock_fast_s"
            label="and ahead by"
            unit="s"
            placeholder="not compared"
            hint="empty: 30 s are allowed for" />
          <Field v-model="hand.temperature.value" path="temperature_c" label="Air" unit="°C" hint="for refraction" />
        </div>
        <p class="acts">
          <Button type="primary" :disabled="hand.busy.value || hand.chosen.value.length < 2" @click="hand.begin('axis')"
            >Measure the axis</Button
          >
          <Button :disabled="hand.busy.value || hand.chosen.value.length !== 1" @click="hand.begin('pointing')"
            >Where am I pointing?</Button
          >
          <Button :disabled="hand.busy.value || hand.chosen.value.length < 3" @click="hand.begin('series')"
            >A run of an untouched tracker</Button
          >
          <label><input v-model="hand.keepFiles.value" type="checkbox" /> keep the files</label>
          <Button size="small" @click="hand.clear()">Clear</Button>
        </p>
      </div>
      <div v-if="result" class="panel work" aria-label="Measurement" role="region">
        <WorkProgress :result="result" @cancel="hand.work.cancel()" @again="hand.work.again()">
          <MeasuredPictures :result="result" />
          <p v-for="note in result.notes" :key="note" class="note">{{ note }}</p>
        </WorkProgress>
      </div>
    </div>
    <div class="right">
      <AxisCard
        v-if="result?.axis"
        :axis="result.axis"
        :night="night ?? ''"
        @working="(key) => (shown = { of: 'axis', key })">
        <p>
          <Button size="small" @click="use">Use {{ number(result.axis.total_arcmin, 1) }}′ from now on</Button>
        </p>
      </AxisCard>
      <VerdictCard
        v-if="result?.pointing"
        :verdict="result.pointing"
        :night="night ?? ''"
        @working="(key) => (shown = { of: 'pointing', key })" />
      <div v-if="need" class="panel cross">
        <ErrorCross :errors="errors" :tolerance-arcmin="need.need.tolerance_arcmin" :south="need.south" />
      </div>
    </div>
    <CameraClock
      :open="clock"
      :hand="hand"
      :utc-offset="utcOffset"
      @ahead="(seconds) => (hand.fast.value = seconds)"
      @close="clock = false" />
    <WorkingDrawer :verdict="shown ? verdict : null" :focus="shown?.key ?? ''" @close="shown = null" />
  </section>
</template>

<style scoped>
.photographs {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 420px;
  gap: 8px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 8px;
  min-width: 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.cross :deep(svg) {
  max-height: 270px;
}
.hand,
.work,
.cross {
  padding: 8px 12px;
}
.hand {
  display: grid;
  gap: 4px;
}
.hand table {
  border-collapse: collapse;
  width: 100%;
}
.hand th {
  text-align: left;
  font-weight: 400;
  vertical-align: top;
}
.hand tbody th {
  font-weight: 600;
  padding-top: 20px;
}
.hand td {
  padding: 0 0 0 10px;
  vertical-align: top;
}
.hand td:last-child {
  padding-top: 22px;
}
.hand td :deep(small) {
  min-height: 0;
}
th small {
  display: block;
  font-weight: 400;
  font-size: 12px;
}
.clockline {
  display: grid;
  grid-template-columns: 1.2fr 1fr 1fr;
  gap: 10px;
}
.work {
  display: grid;
  gap: 6px;
  justify-items: start;
}
.work > * {
  width: 100%;
}
.work > .ant-btn {
  width: auto;
}
.note {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
@media (max-width: 1000px) {
  .photographs {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
