<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { useLocalStorage } from '@vueuse/core'
import { Alert, Button, Spin, Textarea } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import { useContext } from '@/composables/useContext'
import { saveFile, upload } from '@/composables/useFiles'
import { useFrameOver, usePanorama } from '@/composables/useNights'
import { usePlaces } from '@/composables/useRecords'
import type { Tonight } from '@/composables/useTonight'
import { offerUndo, withdrawUndo } from '@/composables/useUndo'
import { horizonPoints, horizonText, type Point } from '@/editors/horizon'
import HorizonPanorama from '@/instruments/HorizonPanorama.vue'
import FileButton from '@/parts/FileButton.vue'
import SideSheet from '@/parts/SideSheet.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import VerdictsSaid from '@/parts/VerdictsSaid.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import SweepSheet from './SweepSheet.vue'

/** One spot: what stands round it, drawn, typed or brought from a file; each step is kept and can be undone. */
const props = defineProps<{ tonight: Tonight | null }>()
const { spot } = useContext()
const { data: panorama, refusal, isFetching } = usePanorama()
const over = useFrameOver()
const frames = computed(() => over.value?.frames ?? [])
const shownFrames = useLocalStorage('wide-dusk-frames-over-ground', true)
const { data: places, isFetchedAfterMount, isStale } = usePlaces()
/** A profile kept from an earlier visit is shown, yet nothing is drawn on it: the server may have a newer one. */
const fresh = computed(() => isFetchedAfterMount.value || !isStale.value)
const queries = useQueryClient()

const here = computed(
  () =>
    places.value?.items
      .flatMap((place) => place.spots.map((one) => ({ ...one, place })))
      .find((one) => one.id === spot.value) ?? null,
)
const points = ref<Point[]>([])
/** Strokes may follow one another faster than the server answers: only the latest is sent when it can be, and an answer to an
 * earlier one does not take it off the page. */
let waiting: { id: number; points: Point[] } | null = null
let sending: Promise<boolean> | null = null
watch(
  here,
  (now, before) => {
    if (!sending || now?.id !== before?.id) points.value = now?.horizon ?? []
  },
  { immediate: true },
)
const south = computed(() => (here.value?.place.latitude_deg ?? 0) < 0)
const turn = ref(0)
watch(spot, () => (turn.value = 0))
/** One looks towards the middle of the targets' paths, in steps of 45°; with none up, towards the equator. */
const towards = computed(() => {
  const up = (panorama.value?.paths ?? []).flatMap((path) => path.points)
  const [east, north] = up.reduce(
    ([sine, cosine], { azimuth_deg }) => [
      sine + Math.sin((azimuth_deg * Math.PI) / 180),
      cosine + Math.cos((azimuth_deg * Math.PI) / 180),
    ],
    [0, 0],
  )
  return up.length ? Math.round((Math.atan2(east, north) * 180) / Math.PI / 45) * 45 : south.value ? 0 : 180
})
const middle = computed(() => towards.value + turn.value)
const pencil = ref(false)
const sun = ref(false)
const moon = ref(false)

const faults = ref<{ field: string; message: string }[]>([])
async function attempt(work: () => Promise<void>) {
  faults.value = []
  try {
    await work()
    return true
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    faults.value = failed.list
    return false
  }
}
async function send() {
  let done = true
  while (waiting) {
    const { id, points: horizon } = waiting
    waiting = null
    done = await attempt(async () => {
      await answer(
        api.PUT('/api/places/spots/{record_id}/horizon', { params: { path: { record_id: id } }, body: { horizon } }),
      )
    })
  }
  sending = null
  await queries.invalidateQueries()
  return done
}
function keep(next: Point[]) {
  const id = spot.value
  if (!id) return Promise.resolve(false)
  points.value = next
  waiting = { id, points: next }
  sending ??= send()
  return sending
}
let changes = 0
async function change(next: Point[], said: string) {
  const before = points.value
  const mine = ++changes
  withdrawUndo()
  const done = await keep(next)
  if (mine !== changes) return // a newer one is on its way, and speaks for both
  if (done)
    offerUndo(said, async () => {
      await keep(before)
    })
  else if (here.value) points.value = here.value.horizon
}

const typing = ref(false)
const typedText = ref('')
function openTyping() {
  faults.value = []
  typedText.value = horizonText(points.value)
  typing.value = true
}
async function takeTyped() {
  const before = points.value
  const next = horizonPoints(typedText.value)
  const id = spot.value
  if (!id) return
  const done = await attempt(async () => {
    await answer(
      api.PUT('/api/places/spots/{record_id}/horizon', {
        params: { path: { record_id: id } },
        body: { horizon: next },
      }),
    )
    await queries.invalidateQueries()
  })
  if (!done) return
  typing.value = false
  offerUndo('Typed a new horizon profile.', async () => {
    await keep(before)
  })
}
const sweeping = ref(false)
async function takeSweep(readings: Point[]) {
  const id = spot.value
  if (!id) return
  const before = points.value
  const done = await attempt(async () => {
    await answer(
      api.POST('/api/places/spots/{record_id}/horizon/sweep', {
        params: { path: { record_id: id } },
        body: { readings },
      }),
    )
    await queries.invalidateQueries()
  })
  if (!done) return
  sweeping.value = false
  offerUndo('Swept the horizon profile.', async () => {
    await keep(before)
  })
}
async function takeFile(file: File) {
  const id = spot.value
  if (id) {
    const before = points.value
    const done = await attempt(async () => {
      await answer(
        api.POST('/api/places/spots/{record_id}/horizon.csv', { params: { path: { record_id: id } }, ...upload(file) }),
      )
      await queries.invalidateQueries()
    })
    if (done)
      offerUndo(`Imported the horizon profile from “${file.name}”.`, async () => {
        await keep(before)
      })
  }
}
const saveCsv = () =>
  attempt(async () => {
    if (spot.value)
      saveFile(
        await answer(
          api.GET('/api/places/spots/{record_id}/horizon.csv', { params: { path: { record_id: spot.value } } }),
        ),
      )
  })
const lineOf = (field: string) => {
  const found = /horizon\.(\d+)/.exec(field)
  return found ? `Line ${Number(found[1]) + 1}: ` : field && field !== 'horizon' && field !== 'file' ? `${field}: ` : ''
}

const shown = ref<{ topic: string; key: string } | null>(null)
const window_ = computed(() => props.tonight?.verdicts.find((one) => one.topic === 'Window'))
const verdicts = computed(() => [window_.value, panorama.value?.verdict].filter((one) => one !== undefined))
</script>

<template>
  <section class="spot">
    <Alert v-if="refusal && !panorama" type="error" show-icon :message="refusal.message" />
    <Alert v-if="faults.length && !typing" type="error" show-icon
      ><template #message
        ><p v-for="fault in faults.slice(0, 6)" :key="fault.field + fault.message">
          {{ lineOf(fault.field) }}{{ fault.message }}
        </p></template
      ></Alert
    >
    <Spin v-if="!panorama && !refusal" tip="Looking round…"><div class="hold" /></Spin>
    <template v-if="panorama">
      <div class="tools" role="toolbar" aria-label="Panorama">
        <Button
          :type="pencil ? 'primary' : 'default'"
          size="small"
          :aria-pressed="pencil"
          :disabled="!fresh"
          @click="pencil = !pencil"
          >Draw</Button
        >
        <Button size="small" :disabled="!fresh" @click="openTyping">Type</Button>
        <Button size="small" :disabled="!fresh" @click="sweeping = true">Sweep with a phone</Button>
        <Button size="small" :disabled="!points.length || !fresh" @click="change([], 'Cleared the horizon profile.')"
          >Clear</Button
        >
        <span class="gap" />
        <Button size="small" aria-label="Turn left" @click="turn -= 45">‹ turn</Button>
        <Button size="small" aria-label="Turn right" @click="turn += 45">turn ›</Button>
        <Button size="small" :aria-pressed="sun" :type="sun ? 'primary' : 'default'" @click="sun = !sun"
          >Sun’s path</Button
        >
        <Button size="small" :aria-pressed="moon" :type="moon ? 'primary' : 'default'" @click="moon = !moon"
          >Moon’s path</Button
        >
        <Button
          v-if="frames.length"
          size="small"
          :aria-pressed="shownFrames"
          :type="shownFrames ? 'primary' : 'default'"
          @click="shownFrames = !shownFrames"
          >The frame</Button
        >
        <span class="gap" />
        <FileButton
          label="Horizon profile from a table of azimuth and altitude"
          words="From a table"
          accept=".csv,.txt,text/csv,text/plain"
          small
          @files="([file]) => file && takeFile(file)" />
        <Button size="small" :disabled="!points.length" @click="saveCsv">As CSV</Button>
      </div>
      <HorizonPanorama
        class="grow"
        :panorama="panorama"
        :points="points"
        :pencil="pencil"
        :middle="middle"
        :sun="sun"
        :moon="moon"
        :stale="isFetching && !pencil"
        :frames="shownFrames ? frames : []"
        @drawn="(next) => change(next, 'Drew a piece of the horizon profile.')" />
      <p v-if="over?.verdict" class="muted frame-words">
        {{ over.verdict.sentence }}
        <Button size="small" aria-label="Working of Frame" @click="shown = { topic: 'Frame', key: '' }">Working</Button>
      </p>
      <VerdictsSaid :verdicts="verdicts" />
      <div class="verdicts">
        <VerdictBrief
          v-for="one in verdicts"
          :key="one.topic"
          :verdict="one"
          @working="(key) => (shown = { topic: one.topic, key })" />
        <section v-if="here" class="notes panel" aria-label="Getting there">
          <h2>{{ here.place.name }}</h2>
          <p>
            {{ here.place.access || 'No note on access and local rules yet; the pencil beside the place takes one.' }}
          </p>
          <p v-if="here.place.caution" class="caution">{{ here.place.caution }}</p>
        </section>
      </div>
    </template>
    <SideSheet :open="typing" title="The horizon profile, typed" :width="420" @close="typing = false">
      <p class="muted">
        Azimuth and altitude in degrees, one pair a line. North is 0, east 90; straight lines join the points; none
        means an open horizon.
      </p>
      <label for="typed-horizon" class="unseen">Azimuth and altitude, one pair a line</label>
      <Textarea
        id="typed-horizon"
        v-model:value="typedText"
        :rows="16"
        :status="faults.length ? 'error' : ''"
        placeholder="0 5&#10;90 20&#10;180 3" />
      <p v-for="fault in faults.slice(0, 8)" :key="fault.field + fault.message" class="fault" role="alert">
        {{ lineOf(fault.field) }}{{ fault.message }}
      </p>
      <template #footer
        ><Button type="primary" @click="takeTyped">Keep it</Button>
        <Button @click="typing = false">Cancel</Button></template
      >
    </SideSheet>
    <SweepSheet :open="sweeping" :faults="faults" @close="sweeping = false" @swept="takeSweep" />
    <WorkingDrawer
      :verdict="shown ? ([...verdicts, over?.verdict].find((one) => one?.topic === shown?.topic) ?? null) : null"
      :focus="shown?.key ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.frame-words {
  font-size: 13px;
}
.spot {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
.gap {
  width: 14px;
}
.grow {
  flex: 1;
  min-height: 300px;
}
.verdicts {
  display: grid;
  grid-template-columns: 1.2fr 1.2fr 1fr;
  gap: 8px;
}
.notes {
  padding: 6px 10px;
  font-size: 13px;
}
.notes h2 {
  font-size: 12px;
  color: var(--muted);
  text-transform: uppercase;
  letter-spacing: 0.08em;
}
.caution {
  padding-left: 8px;
  border-left: 3px solid var(--care);
  margin-top: 4px;
}
.fault {
  color: var(--stop);
  font-size: 13px;
}
.hold {
  min-height: 300px;
}
@media (max-width: 900px) {
  .verdicts {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
