<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { theFraming } from '@/composables/useFraming'
import { useNudge, useTries } from '@/composables/useFramingNight'
import type { Picture } from '@/composables/usePictures'
import { usePictureWork } from '@/composables/usePictureWork'
import { say } from '@/composables/useUndo'
import DropPictures from '@/parts/DropPictures.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

/** A short picture towards the frame: where it looks, and the next nudge, until it says that one is there. */
const emit = defineEmits<{ tries: [found: Schemas['FrameOut'][]] }>()
const { night } = useContext()
const framing = theFraming()
const hand = usePictureWork('pointing')
const result = computed(() => hand.result.value)
const done = computed(() => (result.value?.state === 'done' ? result.value.id : null))
const { nudge, refusal, remember } = useNudge(done)
const tries = useTries(done)
watch(tries, (found) => emit('tries', found), { immediate: true })
const told = computed(() => [
  ...hand.faults.value.map((one) => one.message),
  ...(refusal.value ? [refusal.value.message] : []),
])
const shown = ref<string | null>(null)

/** One picture is all it takes: it is measured as soon as it is here. */
const measure = (found: Picture | undefined) =>
  hand.attempt(async () => {
    if (!found) return
    const shot = {
      picture: found.id,
      taken: found.taken?.slice(0, 19) ?? null,
      exposure_s: found.exposure_s,
      focal_mm: found.focal_mm,
    }
    await hand.begin({ task: 'pointing', pictures: [shot], clock_offset_min: found.utc_offset_min ?? 0 })
  })
const bring = async (files: File[]) => measure((await hand.bring(files.slice(0, 1)))[0])
const choose = async (names: string[]) => measure((await hand.choose(names))[0])
async function keep() {
  await hand.attempt(async () => {
    const found = await remember()
    if (found)
      say(`Remembered: another night brings you back to this very frame of ${dateWords(found.night, 'whole')}.`)
  })
}
</script>

<template>
  <section class="panel test" aria-label="Test picture">
    <h2>Test picture</h2>
    <DropPictures label="Test picture of the frame" :bringing="hand.bringing.value" @files="bring" @names="choose">
      <p>5 to 20 s at high ISO, towards the frame. JPEG will do.</p>
    </DropPictures>
    <Alert v-if="told.length" type="error" show-icon
      ><template #message
        ><p v-for="(message, place) in told" :key="place">{{ message }}</p></template
      ></Alert
    >
    <WorkProgress v-if="result" :result="result" @cancel="hand.work.cancel()" @again="hand.work.again()">
      <VerdictCard v-if="nudge" :verdict="nudge.verdict" :night="night ?? ''" @working="(key) => (shown = key)">
        <p v-if="nudge.again" class="muted">
          Held against where this rig stood on {{ dateWords(nudge.again, 'whole') }}, not against the composition.
        </p>
        <p v-if="nudge.there && framing.kept.value">
          <Button size="small" @click="keep">Come back to this very frame another night</Button>
        </p>
      </VerdictCard>
    </WorkProgress>
    <WorkingDrawer
      :verdict="shown !== null && nudge ? nudge.verdict : null"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
@media print {
  .test {
    display: none !important;
  }
}
.test {
  padding: 8px 12px;
  display: grid;
  gap: 6px;
}
</style>
