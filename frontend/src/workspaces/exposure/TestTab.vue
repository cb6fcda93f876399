<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useRefresh } from '@/composables/useRefresh'
import { useContext } from '@/composables/useContext'
import { useTrial } from '@/composables/useExposure'
import { showFaults } from '@/composables/useFaults'
import type { Picture } from '@/composables/usePictures'
import { usePictureWork, type Given } from '@/composables/usePictureWork'
import { offerUndo } from '@/composables/useUndo'
import DropPictures from '@/parts/DropPictures.vue'
import FormFaults from '@/parts/FormFaults.vue'
import Field from '@/parts/Field.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

/** One test picture against the plan; what it says may be reckoned with from now on. */
const { choices, choose, rig, spot, night } = useContext()
const hand = usePictureWork('trial')
const done = computed(() => (hand.result.value?.state === 'done' ? hand.result.value.id : null))
const { data: trial, refusal } = useTrial(done)
const refresh = useRefresh()
const shown = ref<string | null>(null)
const picture = ref<Picture | null>(null)
const given = ref<{
  iso: number | string | null
  exposure_s: number | string | null
  f_number: number | string | null
  focal_mm: number | string | null
  clock_offset_min: number | string | null
}>({ iso: null, exposure_s: null, f_number: null, focal_mm: null, clock_offset_min: 0 })
showFaults(hand.faults)

function take(found: Picture | undefined) {
  if (!found) return
  picture.value = found
  given.value = {
    iso: found.iso,
    exposure_s: found.exposure_s,
    f_number: found.f_number,
    focal_mm: found.focal_mm,
    clock_offset_min: found.utc_offset_min ?? 0,
  }
}
const bring = async (files: File[]) => take((await hand.bring(files.slice(0, 1)))[0])
const choosePicture = async (names: string[]) => take((await hand.choose(names))[0])
const measure = () =>
  hand.attempt(async () => {
    if (!picture.value) return
    const { exposure_s, focal_mm, ...rest } = given.value
    const shot = { picture: picture.value.id, taken: picture.value.taken?.slice(0, 19) ?? null, exposure_s, focal_mm }
    await hand.begin({ task: 'trial', pictures: [shot], ...rest } as Given)
  })

async function learn(part: { sky_mag?: number; star_fwhm_px?: number }, words: string) {
  const body = { rig: rig.value as number, spot: spot.value as number, ...part }
  const before: Schemas['LearnOut'] = await answer(api.POST('/api/exposure/learn', { body }))
  await refresh()
  offerUndo(words, async () => {
    const back = {
      ...(part.sky_mag === undefined ? {} : { sky_mag: before.sky_mag }),
      ...(part.star_fwhm_px === undefined
        ? {}
        : { star_fwhm_px: before.star_fwhm_px, star_origin: before.star_origin }),
    }
    await answer(api.POST('/api/exposure/learn', { body: { rig: body.rig, spot: body.spot, ...back } }))
    await refresh()
  })
}
const offer = computed(() => trial.value?.offer ?? null)
</script>

<template>
  <section class="test">
    <div class="left">
      <DropPictures label="Test picture" :bringing="hand.bringing.value" @files="bring" @names="choosePicture">
        <p>
          <b>Take one frame towards the target, 5 to 20 s for the sky, or a real sub for the stars’ shape.</b> JPEG will
          do; raw or FITS is better for the histogram.
        </p>
      </DropPictures>
      <FormFaults />
      <div v-if="picture" class="panel given">
        <p>
          <b>{{ picture.name }}</b>{{ ' '
          }}<span class="muted">{{ picture.kind }}, {{ picture.width_px }} × {{ picture.height_px }}</span>
        </p>
        <div class="fields">
          <Field v-model="given.exposure_s" path="pictures.0.exposure_s" label="Exposure" unit="s" />
          <Field v-model="given.iso" path="pictures.0.iso" label="ISO" />
          <Field v-model="given.f_number" path="pictures.0.f_number" label="f-number" placeholder="as current" />
          <Field v-model="given.focal_mm" path="pictures.0.focal_mm" label="Focal length" unit="mm" />
          <Field
            v-model="given.clock_offset_min"
            path="clock_offset_min"
            label="Camera’s clock ahead of UTC"
            unit="min" />
        </div>
        <p><Button type="primary" :disabled="hand.busy.value" @click="measure">Measure it</Button></p>
      </div>
      <div v-if="hand.result.value" class="panel work" role="region" aria-label="Measurement of the test picture">
        <WorkProgress :result="hand.result.value" @cancel="hand.work.cancel()" @again="hand.work.again()">
          <Alert v-if="refusal" type="error" show-icon :message="refusal.message" />
          <table v-if="trial" class="rows">
            <thead>
              <tr>
                <th scope="col">{{ hand.result.value.pictures[0]?.name }}</th>
                <th scope="col">Predicted</th>
                <th scope="col">Measured</th>
                <th scope="col">Says</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in trial.rows" :key="row.name" :class="{ off: row.agrees === false }">
                <th scope="row">{{ row.name }}</th>
                <td class="number">{{ row.predicted }}</td>
                <td class="number">
                  <b>{{ row.measured }}</b>
                </td>
                <td>{{ row.words }}</td>
              </tr>
            </tbody>
          </table>
          <p v-if="hand.result.value.pictures[0]" class="muted number">
            Looks at {{ number(hand.result.value.pictures[0].pointing.ra_deg / 15, 2) }} h,
            {{ number(hand.result.value.pictures[0].pointing.dec_deg, 1) }}°,
            {{ hand.result.value.pictures[0].pointing.stars }} stars known.
          </p>
        </WorkProgress>
      </div>
    </div>
    <div v-if="trial" class="right">
      <VerdictCard :verdict="trial.verdict" :night="night ?? ''" @working="(key) => (shown = key)" />
      <div
        v-if="offer && (offer.zenith_mag != null || offer.star_fwhm_px != null || offer.alignment_arcmin != null)"
        class="panel offers">
        <h2>From now on</h2>
        <p v-if="offer.zenith_mag != null">
          <Button
            type="primary"
            @click="learn({ sky_mag: offer.zenith_mag }, `The place’s sky is ${number(offer.zenith_mag, 2)} now.`)"
            >Use this sky</Button
          >
          zenith {{ number(offer.zenith_mag, 2) }} instead of {{ number(offer.zenith_before, 2) }} mag/arcsec², for this
          place
        </p>
        <p v-if="offer.star_fwhm_px != null">
          <Button
            @click="
              learn(
                { star_fwhm_px: offer.star_fwhm_px },
                `A still star is ${number(offer.star_fwhm_px, 2)} px wide now.`,
              )
            "
            >Use these stars</Button
          >
          {{ number(offer.star_fwhm_px, 2) }} instead of {{ number(offer.star_before, 2) }} px, for this rig
        </p>
        <p v-if="offer.alignment_arcmin != null">
          <Button @click="choose({ ...choices, alignment_arcmin: offer.alignment_arcmin })">Use this trail</Button>
          as an axis {{ number(offer.alignment_arcmin, 1) }}′ off instead of {{ number(offer.alignment_before, 1) }}′,
          for this plan
        </p>
      </div>
    </div>
    <WorkingDrawer
      :verdict="shown === null ? null : (trial?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.test {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 380px;
  gap: 8px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 8px;
}
.given,
.work,
.offers {
  padding: 8px 14px;
  display: grid;
  gap: 6px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 10px;
}
.rows th,
.rows td {
  padding: 4px 8px;
}
.off td:nth-child(3),
.off td:nth-child(4) {
  color: var(--care);
}
@media (max-width: 1000px) {
  .test,
  .fields {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
