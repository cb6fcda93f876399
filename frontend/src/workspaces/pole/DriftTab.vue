<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import { useRefresh } from '@/composables/useRefresh'
import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { showFaults } from '@/composables/useFaults'
import { lastGood, useNeed } from '@/composables/usePole'
import ErrorCross from '@/instruments/ErrorCross.vue'
import FormFaults from '@/parts/FormFaults.vue'
import Field from '@/parts/Field.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import AxisCard from './AxisCard.vue'

/** The drift of two stars or more, read by hand: one near the meridian, one low in the east or west. */
type Entry = {
  altitude_deg: number | string | null
  azimuth_deg: number | string | null
  amount: number | string | null
  unit: 'px' | 'arcsec'
  towards: 'north' | 'south'
  minutes: number | string | null
}
const { context, choices, night } = useContext()
const { data: need } = useNeed()
const refresh = useRefresh()
const blank = (altitude: number | null = null, azimuth: number | null = null): Entry => ({
  altitude_deg: altitude,
  azimuth_deg: azimuth,
  amount: null,
  unit: 'px',
  towards: 'north',
  minutes: 5,
})
const stars = ref<Entry[]>([])
const touched = ref('')
const whole = computed(() =>
  stars.value.filter((one) =>
    [one.altitude_deg, one.azimuth_deg, one.amount, one.minutes].every((value) => value !== null && value !== ''),
  ),
)
const body = computed(() =>
  context.value
    ? {
        context: context.value,
        choices: choices.value,
        stars: whole.value.length === stars.value.length ? whole.value : [],
      }
    : null,
)
const { data: answered, error } = useQuery({
  queryKey: ['pole', 'drift', body],
  queryFn: () => answer(api.POST('/api/pole/drift', { body: body.value as Schemas['DriftIn'] })),
  enabled: computed(() => body.value !== null),
  placeholderData: keepPreviousData,
  retry: false,
})
const data = lastGood(answered)
const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
showFaults(computed(() => refusal.value?.list ?? []))
watch(
  () => data.value?.places,
  (places) => {
    if (places && !stars.value.length)
      stars.value = places.map((one) => blank(Math.round(one.altitude_deg), Math.round(one.azimuth_deg)))
  },
  { immediate: true },
)
const kept = ref('')
async function keep() {
  if (!body.value) return
  await answer(
    api.POST('/api/pole/drift', {
      body: { ...(body.value as Schemas['DriftIn']), keep: true, touched: touched.value },
    }),
  )
  kept.value = 'Written into the record.'
  await refresh()
}
const shown = ref<string | null>(null)
</script>

<template>
  <section class="drift">
    <div class="left">
      <div class="panel how">
        <p v-for="place in data?.places ?? []" :key="place.tells">
          <b>{{ place.words }}</b> Watch it for {{ number(Math.max(place.minutes, 1), 0) }} min or more: what is
          tolerated moves it two pixels by then.
        </p>
        <p class="muted">
          Take a picture at the beginning and one at the end with the tracker running, or one long one. Note how far the
          star moved towards north or south; along RA does not count.
        </p>
      </div>
      <FormFaults />
      <div
        v-for="(star, place) in stars"
        :key="place"
        class="panel star"
        role="group"
        :aria-label="`Star ${place + 1}`">
        <Field v-model="star.azimuth_deg" :path="`stars.${place}.azimuth_deg`" label="Azimuth" unit="°" />
        <Field v-model="star.altitude_deg" :path="`stars.${place}.altitude_deg`" label="Altitude" unit="°" />
        <Field v-model="star.minutes" :path="`stars.${place}.minutes`" label="Watched for" unit="min" />
        <Field v-model="star.amount" :path="`stars.${place}.amount`" label="It moved by" />
        <Field
          v-model="star.unit"
          :path="`stars.${place}.unit`"
          label="in"
          kind="choice"
          :options="[
            { value: 'px', label: 'pixels' },
            { value: 'arcsec', label: 'arcseconds' },
          ]" />
        <Field
          v-model="star.towards"
          :path="`stars.${place}.towards`"
          label="towards"
          kind="choice"
          :options="[
            { value: 'north', label: 'north' },
            { value: 'south', label: 'south' },
          ]" />
        <Button
          v-if="stars.length > 2"
          size="small"
          :aria-label="`Take star ${place + 1} off`"
          @click="stars.splice(place, 1)"
          >×</Button
        >
      </div>
      <p><Button size="small" :disabled="stars.length >= 12" @click="stars.push(blank())">One more star</Button></p>
    </div>
    <div class="right">
      <AxisCard v-if="data?.axis" :axis="data.axis" :night="night ?? ''" @working="(key) => (shown = key)">
        <p class="keep">
          <Field v-model="touched" path="touched" kind="text" label="What was touched before" /><Button
            size="small"
            @click="keep"
            >Write it down</Button
          >
        </p>
        <p role="status">{{ kept }}</p>
      </AxisCard>
      <div v-if="need" class="panel cross">
        <ErrorCross
          :errors="data?.axis ? [data.axis.error] : []"
          :tolerance-arcmin="need.need.tolerance_arcmin"
          :south="need.south" />
      </div>
    </div>
    <WorkingDrawer
      :verdict="shown === null ? null : (data?.axis?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.drift {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 420px;
  gap: 8px;
  align-items: start;
}
.left,
.right {
  display: grid;
  gap: 8px;
}
.how {
  padding: 10px 14px;
  display: grid;
  gap: 4px;
}
.star {
  padding: 8px 12px;
  display: grid;
  grid-template-columns: repeat(6, 1fr) auto;
  gap: 10px;
  align-items: start;
}
.cross {
  padding: 8px;
}
.keep {
  display: flex;
  gap: 10px;
  align-items: center;
}
.keep > :first-child {
  flex: 1;
}
@media (max-width: 1000px) {
  .drift {
    grid-template-columns: minmax(0, 1fr);
  }
  .star {
    grid-template-columns: repeat(2, minmax(0, 1fr));
  }
}
</style>
