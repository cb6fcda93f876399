<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { useFaults } from '@/composables/useFaults'
import { useAlignments, useNeed } from '@/composables/usePole'
import { usePlaces } from '@/composables/useRecords'
import ErrorCross from '@/instruments/ErrorCross.vue'
import DropPictures from '@/parts/DropPictures.vue'
import Field from '@/parts/Field.vue'
import SideSheet from '@/parts/SideSheet.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import AxisCard from './AxisCard.vue'
import { OFFSETS, usePhotographs } from './usePhotographs'

/** Two pictures, the RA axis turned in between: where the axis points and which screw to turn. One picture: where the camera looks. */
const { night, spot, choose: decide } = useContext()
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
const { faults } = useFaults(hand.fieldFaults)
void faults
const told = computed(() =>
  hand.faults.value.filter((fault) => !/^pictures\.\d+\.(taken|exposure_s|focal_mm)$/.test(fault.field)),
)
const result = computed(() => hand.work.data.value ?? null)
const shown = ref<{ of: 'axis' | 'pointing'; key: string } | null>(null)
const verdict = computed(
  () => (shown.value?.of === 'axis' ? result.value?.axis?.verdict : result.value?.pointing) ?? null,
)
const errors = computed(() => alignments.value.flatMap((one) => one.error ?? []).reverse())
const inside = (found: { right_frames?: number | null; down_frames?: number | null }) =>
  Math.max(Math.abs(found.right_frames ?? 9), Math.abs(found.down_frames ?? 9)) < 0.5
const preview = (id: number) => `/api/pictures/${id}/preview.jpg`

/** Reckon with what was measured from now on: it stands under "How" like any other choice. */
const reckon = () =>
  decide({ alignment_arcmin: Math.max(Math.round((result.value?.axis?.total_arcmin ?? 5) * 10) / 10, 0.1) })

/** The camera's clock: photograph this one, and see by how much the stamp is off. */
const clock = ref(false)
const seconds = ref(new Date())
useIntervalFn(() => (seconds.value = new Date()), 250)
const clockShown = computed(() => seconds.value.toISOString().slice(11, 19))
const clockPicture = ref<string>('')
const clockRead = ref('')
const clockWords = ref('')
async function clockTaken(event: Event) {
  const input = event.target as HTMLInputElement
  const before = hand.chosen.value.length
  await hand.bring([...(input.files ?? [])].slice(0, 1))
  input.value = ''
  const one = hand.chosen.value.at(before)
  if (one) {
    clockPicture.value = one.taken
    hand.drop(hand.chosen.value.indexOf(one))
  }
}
function compareClocks() {
  const stamp = Date.parse(`${clockPicture.value.replace(' ', 'T')}Z`) / 1000 - (hand.offset.value ?? utcOffset()) * 60
  const found = /^(\d{1,2}):(\d{2}):(\d{2})$/.exec(clockRead.value.trim())
  if (!found || Number.isNaN(stamp)) {
    clockWords.value = 'Bring the picture of this clock, and type the time it shows like 19:04:30.'
    return
  }
  const real = Number(found[1]) * 3600 + Number(found[2]) * 60 + Number(found[3])
  const ahead = ((((stamp - real) % 86400) + 86400 + 43200) % 86400) - 43200
  hand.fast.value = Math.round(ahead)
  clockWords.value =
    Math.abs(ahead) < 1
      ? 'The camera agrees.'
      : `The camera is ${Math.abs(Math.round(ahead))} s ${ahead > 0 ? 'ahead' : 'behind'}; this is taken off from now on.`
}
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
          No view of the pole is needed. Two pictures cannot tell that the camera slipped in its head between them. With
          a long or heavy lens take a third and a fourth, each turned once more: the third shows a slip, the fourth
          tells the axis in spite of it.
        </p>
        <template #acts><Button size="small" @click="clock = true">Is the camera's clock right?</Button></template>
      </DropPictures>
      <Alert v-if="told.length" type="error" show-icon
        ><template #message
          ><p v-for="(fault, place) in told" :key="place">{{ fault.message }}</p></template
        ></Alert
      >
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
                  kind="text"
                  :path="`pictures.${place}.taken`"
                  label="Begun, camera’s clock"
                  placeholder="2026-12-08 21:04:30" />
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
          <Field v-model="hand.fast.value" path="clock_fast_s" label="and ahead by" unit="s" />
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
                  v-if="result.task === 'pointing' && inside(one.pointing)"
                  class="target"
                  :style="{
                    left: `${50 + 100 * (one.pointing.right_frames ?? 0)}%`,
                    top: `${50 + 100 * (one.pointing.down_frames ?? 0)}%`,
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
          <Button size="small" @click="reckon">Use {{ number(result.axis.total_arcmin, 1) }}′ from now on</Button>
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
    <SideSheet :open="clock" :width="460" title="Is the camera's clock right?" @close="clock = false">
      <p>
        Photograph this clock, bring the picture, and type what it shows there. Both pictures of a pair being off alike
        by a minute hardly matters; past ten minutes the way to turn is wrong by a few degrees.
      </p>
      <p class="bigclock fixed" aria-label="Coordinated universal time">{{ clockShown }}</p>
      <p class="muted">Universal time of this device.</p>
      <p>
        <label>The picture of it <input type="file" accept="image/*" @change="clockTaken" /></label>
      </p>
      <p v-if="clockPicture">
        Its stamp: <b class="number">{{ clockPicture }}</b>
      </p>
      <label for="clock-read">The clock in the picture shows</label>
      <input id="clock-read" v-model="clockRead" class="read number" placeholder="19:04:30" />
      <Button @click="compareClocks">Compare</Button>
      <p role="status">{{ clockWords }}</p>
    </SideSheet>
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
input[type='file']::file-selector-button {
  font: inherit;
  color: var(--text);
  background: var(--raised);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 3px 12px;
  margin: 0 8px;
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
.note {
  font-size: 13px;
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
.bigclock {
  font-size: 64px;
  text-align: center;
  margin: 10px 0;
}
.read {
  background: var(--panel);
  color: var(--text);
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 3px 8px;
  margin: 0 8px;
  width: 110px;
}
@media (max-width: 1000px) {
  .photographs {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
