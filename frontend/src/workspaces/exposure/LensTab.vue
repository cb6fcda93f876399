<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { dateWords } from '@/composables/dates'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { showFaults } from '@/composables/useFaults'
import { useGoodStops, useLens, useLenses, type Lens } from '@/composables/useLens'
import type { Picture } from '@/composables/usePictures'
import { usePictureWork } from '@/composables/usePictureWork'
import Choice from '@/parts/Choice.vue'
import DropPictures from '@/parts/DropPictures.vue'
import FormFaults from '@/parts/FormFaults.vue'
import Field from '@/parts/Field.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import LensField from './LensField.vue'
import LensTable from './LensTable.vue'

/** Pictures of stars at several stops tell from which on this lens is good, and what is wrong with it where it is not. */
const { night } = useContext()
const hand = usePictureWork('lens')
type By = 'open' | 'iris' | 'ring'
const BYS = [
  { value: 'open', label: 'wide open' },
  { value: 'iris', label: 'the iris' },
  { value: 'ring', label: 'a ring' },
]
const shots = ref<{ picture: Picture; f: number | string | null; by: By }[]>([])
showFaults(hand.faults)
function take(pictures: Picture[]) {
  for (const picture of pictures) shots.value.push({ picture, f: picture.f_number, by: 'iris' })
  shots.value.sort((a, b) => Number(a.f ?? 99) - Number(b.f ?? 99))
}
const bring = async (files: File[]) => take(await hand.bring(files))
const choosePictures = async (names: string[]) => take(await hand.choose(names))
const measure = () =>
  hand.attempt(async () => {
    const pictures = shots.value.map((one) => ({
      picture: one.picture.id,
      taken: null,
      exposure_s: one.picture.exposure_s,
      focal_mm: one.picture.focal_mm,
      f_number: one.f as number | null,
      stopped_by: one.by,
    }))
    await hand.begin({ task: 'lens', pictures })
  })

const measured = useLenses()
const chosen = ref<number | null>(null)
const beside = ref<number | null>(null)
const options = computed(() =>
  measured.value.map((one) => ({
    value: one.id,
    label: `${one.lens}, ${number(one.focal_mm, 0)} mm, f/${one.stops.join(', ')}, ${dateWords(one.at.slice(0, 10))}`,
  })),
)
// What has just come out is shown; else the last there is.
watch(
  [() => hand.result.value, options],
  ([result, there]) => {
    if (result?.state === 'done' && there.some((one) => one.value === result.id)) chosen.value = result.id
    else chosen.value ??= there[0]?.value ?? null
  },
  { immediate: true },
)
const first = useLens(chosen)
const second = useLens(beside)
const shown = computed(() => [first.data.value, second.data.value].filter((one): one is Lens => one !== null))
const keep = useGoodStops()
const open = ref<{ lens: Lens; key: string } | null>(null)
const differs = (lens: Lens) =>
  lens.broad != null &&
  lens.in_use != null &&
  (Math.abs(lens.broad - lens.in_use.broad) > 0.01 || Math.abs((lens.narrow ?? 0) - (lens.in_use.narrow ?? 0)) > 0.01)
const limit = (lens: Lens, place: number) => lens.verdict.limits[place]?.quantity.value ?? 1.3
const sharpest = (lens: Lens) => lens.verdict.figures.find((one) => one.name === 'Sharpest middle')?.value ?? 2
</script>

<template>
  <section class="lens">
    <div class="left">
      <DropPictures
        label="Pictures of stars"
        multiple
        :bringing="hand.bringing.value"
        @files="bring"
        @names="choosePictures">
        <p>
          <b
            >One picture each at two stops or more, wide open first: focus once in the middle, track, 8 to 15 s, a field
            full of stars high in the sky.</b
          >
          Double the time with each stop down. Raw or FITS tells colours too; a JPEG tells shapes alone.
        </p>
      </DropPictures>
      <FormFaults />
      <div v-if="shots.length" class="panel list">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Picture</th>
              <th scope="col">f-number</th>
              <th scope="col">Stopped down by</th>
              <th scope="col"><span class="unseen">Acts</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in shots" :key="one.picture.id">
              <th scope="row">
                {{ one.picture.name }}
                <small class="muted">{{ one.picture.kind }}, {{ one.picture.exposure_s ?? '?' }} s</small>
              </th>
              <td class="stop">
                <Field
                  v-model="one.f"
                  :path="`pictures.${place}.f_number`"
                  :label="`f-number of ${one.picture.name}`" />
              </td>
              <td>
                <label class="unseen" :for="`by-${place}`">What stopped {{ one.picture.name }} down</label
                ><Choice :id="`by-${place}`" v-model="one.by" :options="BYS" />
              </td>
              <td>
                <Button size="small" :aria-label="`Take ${one.picture.name} off`" @click="shots.splice(place, 1)"
                  >×</Button
                >
              </td>
            </tr>
          </tbody>
        </table>
        <p class="acts">
          <Button type="primary" :disabled="hand.busy.value" @click="measure">Measure the lens</Button>
        </p>
      </div>
      <div
        v-if="hand.result.value && hand.result.value.state !== 'done'"
        class="panel list"
        role="region"
        aria-label="Measurement of the lens">
        <WorkProgress :result="hand.result.value" @cancel="hand.work.cancel()" @again="hand.work.again()" />
      </div>
      <div v-if="options.length" class="panel list pick">
        <label for="lens-shown">Measured lens</label
        ><Choice id="lens-shown" v-model="chosen as number" :options="options" />
        <label for="lens-beside">Beside it</label
        ><Choice
          id="lens-beside"
          :model-value="beside ?? 0"
          :options="[{ value: 0, label: 'nothing' }, ...options.filter((one) => one.value !== chosen)]"
          @update:model-value="(value) => (beside = Number(value) || null)" />
      </div>
    </div>
    <Alert v-if="first.refusal.value" type="error" show-icon :message="first.refusal.value.message" />
    <div v-for="one in shown" :key="one.seen.id" class="found" role="region" :aria-label="`${one.seen.lens} judged`">
      <VerdictCard
        :verdict="one.verdict"
        :night="night ?? ''"
        show-limits
        @working="(key) => (open = { lens: one, key })">
        <p v-if="one.in_use" class="acts">
          <span class="muted"
            >Planned with f/{{ one.in_use.broad }} in broadband{{
              one.in_use.narrow ? `, f/${one.in_use.narrow} in narrowband` : ''
            }}</span
          ><Button v-if="differs(one)" type="primary" @click="keep(one)">Use what was measured</Button>
          <span v-else-if="one.broad != null">They agree.</span>
        </p>
      </VerdictCard>
      <div class="fields">
        <LensField
          v-for="stop in one.stops"
          :key="stop.name"
          :stop="stop"
          :sharpest="sharpest(one)"
          :elongation-limit="limit(one, 0)"
          :width-limit="limit(one, 1)" />
      </div>
      <LensTable :lens="one" />
      <p class="muted small">
        Stars are drawn large and to one scale; one that fails your limits has a line through it. Corner light is read
        from the sky, its even slope taken off; a file with a black level left in shows too little fall.
      </p>
    </div>
    <WorkingDrawer :verdict="open?.lens.verdict ?? null" :focus="open?.key ?? ''" @close="open = null" />
  </section>
</template>

<style scoped>
.lens {
  display: grid;
  gap: 8px;
}
.lens > *,
.left > * {
  min-width: 0;
}
.left {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
  gap: 8px;
  align-items: start;
}
.list,
.found {
  padding: 8px 14px;
  display: grid;
  gap: 6px;
  font-size: 13px;
}
.rows th,
.rows td {
  padding: 1px 6px;
}
/* The column says it. */
.stop :deep(label) {
  position: absolute;
  clip-path: inset(50%);
}
.stop {
  max-width: 110px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  gap: 10px;
}
.small {
  font-size: 12px;
}
.found > * {
  min-width: 0;
}
</style>
