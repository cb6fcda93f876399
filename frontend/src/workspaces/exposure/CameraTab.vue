<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api } from '@/api/client'
import { number } from '@/composables/figures'
import { useRefresh } from '@/composables/useRefresh'
import { useContext } from '@/composables/useContext'
import { useExposure } from '@/composables/useExposure'
import { showFaults } from '@/composables/useFaults'
import type { Picture } from '@/composables/usePictures'
import { usePictureWork } from '@/composables/usePictureWork'
import { offerUndo } from '@/composables/useUndo'
import Choice from '@/parts/Choice.vue'
import DropPictures from '@/parts/DropPictures.vue'
import FormFaults from '@/parts/FormFaults.vue'
import Field from '@/parts/Field.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import TransferTable from './TransferTable.vue'

/** Two flats and two bias frames of one ISO tell gain, read noise and full well of this camera. */
const { rig } = useContext()
const { data } = useExposure()
const hand = usePictureWork('camera')
const refresh = useRefresh()
type Kind = 'flat' | 'bias'
const frames = ref<{ picture: Picture; kind: Kind }[]>([])
const iso = ref<number | string | null>(null)
showFaults(hand.faults)
const count = (kind: Kind) => frames.value.filter((one) => one.kind === kind).length
const ready = computed(() => count('flat') === 2 && count('bias') === 2)

function take(pictures: Picture[]) {
  for (const picture of pictures) {
    // Flats are exposed, bias frames as short as the body goes; what a file does not say is put right by hand.
    const kind = picture.exposure_s !== null && picture.exposure_s > 0.01 ? 'flat' : 'bias'
    frames.value.push({ picture, kind: frames.value.length || picture.exposure_s !== null ? kind : 'flat' })
    iso.value ??= picture.iso
  }
}
const bring = async (files: File[]) => take(await hand.bring(files))
const choosePictures = async (names: string[]) => take(await hand.choose(names))
/** Flats first, then bias frames. */
const measure = () =>
  hand.attempt(async () => {
    const sorted = [...frames.value]
      .sort((a, b) => (a.kind === b.kind ? 0 : a.kind === 'flat' ? -1 : 1))
      .map((one) => one.picture)
    const pictures = sorted.map((one) => ({
      picture: one.id,
      taken: one.taken?.slice(0, 19) ?? null,
      exposure_s: one.exposure_s,
      focal_mm: one.focal_mm,
    }))
    await hand.begin({ task: 'camera', pictures, iso: iso.value as number })
  })
const transfer = computed(() => hand.result.value?.transfer ?? null)
const step = computed(() => data.value?.isos.find((one) => one.iso === hand.result.value?.iso && !one.between) ?? null)
async function keep() {
  if (!transfer.value || !hand.result.value?.iso) return
  const at = hand.result.value.iso
  const body = {
    rig: rig.value as number,
    iso: at,
    read_noise_e: Number(transfer.value.read_noise_e.toFixed(2)),
    full_well_e: Math.round(transfer.value.full_well_e),
  }
  const before = await answer(api.POST('/api/exposure/camera', { body }))
  await refresh()
  offerUndo(`ISO ${at} of “${before.camera}” is as measured now.`, async () => {
    await answer(
      api.POST('/api/exposure/camera', {
        body: {
          rig: body.rig,
          iso: at,
          read_noise_e: before.read_noise_e,
          full_well_e: before.full_well_e,
          origin: before.origin,
        },
      }),
    )
    await refresh()
  })
}
</script>

<template>
  <section class="camera">
    <div class="left">
      <DropPictures
        label="Flats and bias frames"
        multiple
        :bringing="hand.bringing.value"
        @files="bring"
        @names="choosePictures">
        <p>
          <b
            >At one ISO: two flats of the same even light (a white cloth over the lens by daylight, half-way up the
            histogram), and two bias frames with the cap on at the shortest time.</b
          >
          Never towards the Sun, cloth or not. Raw or FITS, as the camera wrote them. Once for each ISO you use.
        </p>
      </DropPictures>
      <FormFaults />
      <div v-if="frames.length" class="panel list">
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">Frame</th>
              <th scope="col">It is a</th>
              <th scope="col">Exposure</th>
              <th scope="col">ISO</th>
              <th scope="col"><span class="unseen">Acts</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(one, place) in frames" :key="one.picture.id">
              <th scope="row">
                {{ one.picture.name }}
                <small class="muted"
                  >{{ one.picture.kind }}, {{ one.picture.width_px }} × {{ one.picture.height_px }}</small
                >
              </th>
              <td>
                <label class="unseen" :for="`kind-${place}`">Kind of {{ one.picture.name }}</label
                ><Choice
                  :id="`kind-${place}`"
                  v-model="one.kind"
                  :options="[
                    { value: 'flat', label: 'flat' },
                    { value: 'bias', label: 'bias frame' },
                  ]" />
              </td>
              <td class="number">{{ one.picture.exposure_s == null ? 'not told' : `${one.picture.exposure_s} s` }}</td>
              <td class="number">{{ one.picture.iso ?? 'not told' }}</td>
              <td>
                <Button size="small" :aria-label="`Take ${one.picture.name} off`" @click="frames.splice(place, 1)"
                  >×</Button
                >
              </td>
            </tr>
          </tbody>
        </table>
        <p class="acts">
          <Field v-model="iso" path="iso" label="ISO or gain of all four" /><Button
            type="primary"
            :disabled="!ready || hand.busy.value"
            @click="measure"
            >Measure the camera</Button
          ><span v-if="!ready" class="muted">{{ count('flat') }} of 2 flats, {{ count('bias') }} of 2 bias frames</span>
        </p>
      </div>
      <div class="panel list isotable">
        <h2>This camera’s table</h2>
        <table class="rows">
          <thead>
            <tr>
              <th scope="col">ISO</th>
              <th scope="col">Read noise</th>
              <th scope="col">Full well</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="one in (data?.isos ?? []).filter((row) => !row.between)" :key="one.iso" class="number">
              <td>{{ one.iso }}</td>
              <td>{{ number(one.read_noise_e, 2) }} e⁻</td>
              <td>{{ number(one.full_well_e, 0) }} e⁻</td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <div class="right">
      <div v-if="hand.result.value" class="panel list" role="region" aria-label="Measurement of the camera">
        <WorkProgress :result="hand.result.value" @cancel="hand.work.cancel()" @again="hand.work.again()">
          <template v-if="transfer">
            <TransferTable :transfer="transfer" :iso="hand.result.value.iso" :step="step" />
            <p v-if="hand.result.value.iso"><Button type="primary" @click="keep">Keep it with the camera</Button></p>
            <p v-else class="muted">Type the ISO above and measure again, so that it can be kept.</p>
          </template>
        </WorkProgress>
      </div>
      <div class="panel how">
        <h2>How it is worked out</h2>
        <p class="fixed">K = ((F₁+F₂) − (B₁+B₂)) / (var(F₁−F₂) − var(B₁−B₂))</p>
        <p class="fixed">R = K σ(B₁−B₂) / √2</p>
        <p>
          K is the gain in electrons a count, R the read noise. The difference of two equal frames leaves out dust,
          vignetting and hot pixels; what remains is the light’s own noise, and it tells how many electrons a count is
          worth.
        </p>
        <p class="muted">
          Photon transfer: Janesick 2007, Photon Transfer (SPIE). One colour of the mosaic, the middle half of the
          frame, outliers beyond five deviations left out.
        </p>
      </div>
    </div>
  </section>
</template>

<style scoped>
.camera {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 440px;
  gap: 8px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 8px;
}
.list,
.how {
  padding: 8px 14px;
  display: grid;
  gap: 6px;
  font-size: 13px;
}
.rows th,
.rows td {
  padding: 1px 8px;
  white-space: nowrap;
}
.acts {
  display: flex;
  gap: 12px;
  align-items: center;
}
@media (max-width: 1000px) {
  .camera {
    grid-template-columns: minmax(0, 1fr);
  }
}
.camera > * {
  min-width: 0;
}
.panel {
  overflow-x: auto;
}
</style>
