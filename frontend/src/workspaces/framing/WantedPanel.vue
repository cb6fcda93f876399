<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { Alert, Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, type Faults, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { asSubject, theFraming, type Subject } from '@/composables/useFraming'
import { useFigures } from '@/composables/useFramingNight'
import { awayDeg } from '@/instruments/skychart'
import Choice from '@/parts/Choice.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import FindObject from './FindObject.vue'

/** What shall be in the picture and what shall not; the frame that holds it all is one press away. */
const props = defineProps<{ composed: Schemas['ComposedOut'] | null; busy: boolean; faults: Faults }>()
const emit = defineEmits<{ compose: [turn: Schemas['ComposeIn']['turn'], hold: Schemas['ComposeIn']['hold']] }>()
const { rig, night } = useContext()
const framing = theFraming()
const { wanted, avoided, sky, held, laid } = framing
const figures = useFigures()
const turn = ref<'rig' | 'any' | 'bracket'>('rig')
const hold = ref<'any' | 'landscape' | 'portrait'>('any')
const { data: angles } = useQuery({
  queryKey: computed(() => ['framing', 'angles', rig.value]),
  queryFn: () => answer(api.GET('/api/framings/angles', { params: { query: { rig: rig.value as number } } })),
  enabled: computed(() => rig.value !== null),
})
const others = computed(() =>
  (sky.value?.objects ?? [])
    .filter((one) => !wanted.value.some((each) => each.key === framing.keyOf(one)))
    .slice(0, 14),
)
const sized = (degrees: number | undefined) => `${number(degrees ?? 0, (degrees ?? 0) < 1 ? 2 : 1)}°`

/** Bright stars that could glare into the picture, the brightest first; a halo of half a degree unless one says otherwise. */
const HALO_DEG = 0.5
const BRIGHT_MAG = 5.5
const bright = computed<Omit<Subject, 'key'>[]>(() => {
  const reach = (laid.value?.panels[0]?.frame.width_deg ?? 5) * 1.2
  const found = []
  for (const [place, ra] of (sky.value?.ra_deg ?? []).entries()) {
    const magnitude = sky.value?.magnitude[place] ?? 99
    if (magnitude > BRIGHT_MAG || found.length >= 8) break
    const at = { ra, dec: sky.value?.dec_deg[place] ?? 0 }
    if (awayDeg(held.value, at) > reach) continue
    const named = figures.value?.stars.find(
      (one) => awayDeg({ ...at, angle: 0 }, { ra: one.ra_deg, dec: one.dec_deg }) < 0.02,
    )
    found.push({
      name: named?.name ?? `${number(magnitude, 1)} mag star`,
      ra_deg: at.ra,
      dec_deg: at.dec,
      long_deg: HALO_DEG,
      angle_deg: 0,
    })
  }
  return found.filter((one) => !avoided.value.some((each) => each.key === framing.keyOf(one)))
})
const shown = ref<string | null>(null)
const told = computed(() => Object.values(props.faults))
</script>

<template>
  <VerdictCard
    v-if="composed"
    role="status"
    :verdict="composed.verdict"
    :night="night ?? ''"
    @working="(key) => (shown = key)" />
  <section class="panel wanted" aria-label="In the picture">
    <h2>In the picture</h2>
    <ul>
      <li v-for="one in wanted" :key="one.key">
        <label><input type="checkbox" checked @change="framing.want(one)" /> {{ one.name }}</label>
        <span class="muted number">{{ sized(one.long_deg) }}</span>
      </li>
    </ul>
    <FindObject @found="(one) => framing.want(asSubject(one))" />
    <details v-if="others.length">
      <summary>Around it, the largest first</summary>
      <ul>
        <li v-for="one in others" :key="one.key">
          <label><input type="checkbox" @change="framing.want(asSubject(one))" /> {{ one.name }}</label>
          <span class="muted number">{{ one.kind }}, {{ sized(one.extent_deg) }}</span>
        </li>
      </ul>
    </details>
    <details :open="avoided.length > 0">
      <summary>Bright stars to keep out</summary>
      <ul>
        <li v-for="one in avoided" :key="one.key">
          <label><input type="checkbox" checked @change="framing.avoid(one)" /> {{ one.name }}</label>
          <span class="muted number">halo {{ sized(one.long_deg) }}</span>
        </li>
        <li v-for="one in bright" :key="`${one.name} ${one.ra_deg}`">
          <label><input type="checkbox" @change="framing.avoid(one)" /> {{ one.name }}</label>
        </li>
      </ul>
      <p v-if="!avoided.length && !bright.length" class="muted">No star brighter than 5.5 mag stands near the frame.</p>
    </details>
    <div class="how">
      <div>
        <label for="framing-turn">The camera turns</label>
        <Choice
          id="framing-turn"
          v-model="turn"
          :options="[
            { value: 'rig', label: 'as this rig can' },
            { value: 'any', label: 'to any angle' },
            { value: 'bracket', label: 'not: 0° or 90° only' },
          ]" />
      </div>
      <div>
        <label for="framing-hold">Held</label>
        <Choice
          id="framing-hold"
          v-model="hold"
          :options="[
            { value: 'any', label: 'either way' },
            { value: 'landscape', label: 'landscape, north up' },
            { value: 'portrait', label: 'portrait, north up' },
          ]" />
      </div>
    </div>
    <p v-if="angles" class="muted">{{ angles.why }} {{ angles.meridian }}</p>
    <Button type="primary" :disabled="!wanted.length" :loading="busy" @click="emit('compose', turn, hold)"
      >Compose it</Button
    >
    <Alert v-if="told.length" type="error" show-icon
      ><template #message
        ><p v-for="message in told" :key="message">{{ message }}</p></template
      ></Alert
    >
  </section>
  <WorkingDrawer
    :verdict="shown !== null && composed ? composed.verdict : null"
    :focus="shown ?? ''"
    @close="shown = null" />
</template>

<style scoped src="./folded.css"></style>
<style scoped>
.wanted {
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  gap: 6px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  min-height: 24px;
}
.how {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
@media (max-width: 820px) {
  li label {
    min-height: 44px;
    display: flex;
    align-items: center;
    gap: 6px;
  }
}
</style>
