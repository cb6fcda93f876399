<script setup lang="ts">
import { Alert, Button, Checkbox } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { Refusal, type Schemas } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { number } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useTripPlan } from '@/composables/usePlannings'
import { useTargets, type Trip } from '@/composables/useRecords'
import { say } from '@/composables/useUndo'
import { AS_IT_COMES, NO_LIMITS, type Limits } from '@/composables/useWholeNight'
import FormFaults from '@/parts/FormFaults.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import WorkProgress from '@/parts/WorkProgress.vue'

import LimitFields from './LimitFields.vue'
import RunList from './RunList.vue'
import WishFields from './WishFields.vue'

/** The nights of a trip planned as one: what is wanted of them, the best order over all, and what each panel gets. */
const props = defineProps<{ trip: Trip; evenings: string[] }>()
const { rig, choices } = useContext()
const { data: targets } = useTargets()
const tripId = computed(() => props.trip.id)
const work = useTripPlan(tripId)
const { found } = work
const { attempt } = useFaults()
const trouble = ref('')

const wishes = ref<Required<Schemas['WishShape']>[]>([])
const limits = ref<Limits>({ ...NO_LIMITS })
const lost = ref<string[]>([])
/** As it was last asked for, as far as the trip still has those targets; a new target as it comes. */
watch(
  [() => props.trip, found],
  ([trip, now], before) => {
    if (!now || (before?.[0] === trip && before[1])) return
    const asked = new Map((now.asked?.wishes ?? []).map((one) => [one.target, one]))
    wishes.value = trip.targets.map((target) => ({ target, ...AS_IT_COMES, ...asked.get(target) }))
    limits.value = { ...NO_LIMITS, ...now.asked?.limits }
    lost.value = [...(now.asked?.lost ?? [])]
  },
  { immediate: true },
)
const names = computed(() => new Map((targets.value?.items ?? []).map((one) => [one.id, one.name])))
const rigs = computed(() => (props.trip.rigs.length ? props.trip.rigs : rig.value ? [rig.value] : []))
const going = computed(() => ['waiting', 'running'].includes(found.value?.work?.state ?? ''))
const plan = computed(() => found.value?.plan ?? null)
const toggle = (evening: string, on: boolean) =>
  (lost.value = on ? [...lost.value, evening] : lost.value.filter((one) => one !== evening))

const begin = () =>
  attempt(() =>
    work.begin({
      rigs: rigs.value,
      wishes: wishes.value,
      limits: limits.value,
      choices: choices.value as Choices,
      lost: lost.value,
    }),
  )
async function keep() {
  trouble.value = ''
  try {
    const nights = await work.keep()
    say(`Kept the plans of ${nights} ${nights === 1 ? 'night' : 'nights'}.`)
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const shown = ref<string | null>(null)
const openNight = (evening: string, spot: number | undefined) => ({
  name: 'nights-whole',
  query: { night: evening, spot, rig: rigs.value[0], target: props.trip.targets[0] },
})
const spotOf = (evening: string) => props.trip.spots[props.evenings.indexOf(evening)]
</script>

<template>
  <section v-if="found" class="plan" aria-label="The nights planned as one">
    <div class="panel asked">
      <h2>Plan these nights</h2>
      <p v-if="!wishes.length" class="muted">Give the trip its targets first: “Change” above.</p>
      <ul>
        <li v-for="(wish, place) in wishes" :key="wish.target">
          <b>{{ names.get(wish.target) }}</b>
          <WishFields
            v-model:weight="wish.weight"
            v-model:least="wish.least_h"
            v-model:framing="wish.framing"
            :target="wish.target"
            :place="place" />
        </li>
      </ul>
      <LimitFields v-model="limits" />
      <fieldset>
        <legend>Lost to cloud</legend>
        <Checkbox
          v-for="evening in evenings"
          :key="evening"
          :checked="lost.includes(evening)"
          @update:checked="(on: boolean) => toggle(evening, on)"
          >{{ dateWords(evening, 'named') }}</Checkbox
        >
      </fieldset>
      <FormFaults />
      <Button type="primary" :disabled="going || !wishes.length" @click="begin">{{
        plan ? 'Plan them again' : 'Find the best order'
      }}</Button>
    </div>
    <div v-if="found?.work" class="out">
      <Alert v-if="trouble" type="error" show-icon :message="trouble" />
      <WorkProgress :result="found.work" @cancel="work.cancel()" @again="begin">
        <template v-if="plan">
          <VerdictBrief role="status" aria-label="Trip" :verdict="plan.verdict" @working="(key) => (shown = key)"
            ><p class="tools">
              <Button size="small" type="primary" :disabled="!plan.panels.some((one) => one.in_all)" @click="keep"
                >Keep as the plan of each night</Button
              >
            </p></VerdictBrief
          >
          <div class="panel wide">
            <table>
              <caption>
                Frames of each panel, night by night<template v-if="plan.rigs.length > 1">
                  ({{ plan.rigs.join(' + ') }})</template
                >
              </caption>
              <thead>
                <tr>
                  <th scope="col">Picture</th>
                  <th v-for="night in plan.nights" :key="night.evening" scope="col" class="number">
                    {{ dateWords(night.evening, 'day') }}
                  </th>
                  <th scope="col" class="number">Frames</th>
                  <th scope="col" class="number">Stacks</th>
                  <th scope="col" class="number">Weighted, h</th>
                  <th scope="col" class="number">Before, h</th>
                  <th scope="col" class="number">GB</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="one in plan.panels" :key="`${one.wish} ${one.panel}`">
                  <th scope="row">
                    <button
                      type="button"
                      class="plain open"
                      :aria-label="`${one.name}. Open the working`"
                      @click="shown = 'frames'">
                      {{ one.name }}
                    </button>
                  </th>
                  <td v-for="(night, place) in one.frames" :key="place" class="number">
                    {{ night.some(Boolean) ? night.join(' + ') : '–' }}
                  </td>
                  <td class="number">
                    <b>{{ one.in_all }}</b>
                  </td>
                  <td class="number">{{ one.stacks }}</td>
                  <td class="number">{{ number(one.hours, 2) }}</td>
                  <td class="number">{{ number(one.gathered_h, 2) }}</td>
                  <td class="number">{{ number(one.storage_gb, 1) }}</td>
                </tr>
              </tbody>
            </table>
          </div>
          <section v-for="night in plan.nights" :key="night.evening" class="panel night">
            <h3>
              <RouterLink :to="openNight(night.evening, spotOf(night.evening))" class="number">{{
                dateWords(night.evening, 'named')
              }}</RouterLink>
              <span class="muted">{{ night.spot }}</span>
            </h3>
            <RunList :runs="night.runs" />
          </section>
        </template>
      </WorkProgress>
    </div>
    <WorkingDrawer
      :verdict="shown === null ? null : (plan?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.plan {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 10px;
  align-items: start;
}
.panel {
  padding: 8px 12px;
  font-size: 13px;
}
.asked,
.out {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
h2,
h3 {
  font-size: 13px;
}
h3 {
  display: flex;
  gap: 8px;
  align-items: center;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
legend {
  font-size: 13px;
  color: var(--muted);
}
caption {
  text-align: left;
  caption-side: top;
  color: var(--muted);
  padding: 0 0 4px;
}
@media (max-width: 820px) {
  h3 a {
    min-height: 44px;
    display: inline-flex;
    align-items: center;
  }
}
@media (max-width: 1000px) {
  .plan {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
