<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { number } from '@/composables/figures'
import { useRigs, useTargets } from '@/composables/useRecords'
import { AS_IT_COMES, type useWholeNight } from '@/composables/useWholeNight'
import Choice from '@/parts/Choice.vue'

import LimitFields from './LimitFields.vue'
import WishFields from './WishFields.vue'

/** What is wanted of the night: with which rigs, of which targets or framings, and within which hours. */
const props = defineProps<{ night: ReturnType<typeof useWholeNight> }>()
const plan = computed(() => props.night.plan.value)
const { data: rigs } = useRigs()
const { data: targets } = useTargets()

const rigNames = computed(() => new Map((rigs.value?.items ?? []).map((one) => [one.id, one.name])))
const targetNames = computed(() => new Map((targets.value?.items ?? []).map((one) => [one.id, one.name])))
const otherRigs = computed(() =>
  (rigs.value?.items ?? [])
    .filter((one) => !plan.value?.rigs.includes(one.id))
    .map((one) => ({ value: one.id, label: one.name })),
)
const otherTargets = computed(() => (targets.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const addingRig = ref<number | undefined>(undefined)
const addingTarget = ref<number | undefined>(undefined)
/** Places in the lists mean something to what is fixed and dropped; when one goes, so do those. */
function without<T extends { rig: number; wish: number }>(list: T[], by: 'rig' | 'wish', place: number) {
  return list.filter((one) => one[by] !== place).map((one) => (one[by] > place ? { ...one, [by]: one[by] - 1 } : one))
}
function addRig(id: unknown) {
  if (typeof id !== 'number') return
  addingRig.value = undefined
  props.night.change(`Added ${rigNames.value.get(id) ?? 'a rig'}.`, (now) => now.rigs.push(id))
}
function addTarget(id: unknown) {
  if (typeof id !== 'number') return
  addingTarget.value = undefined
  props.night.change(`Added ${targetNames.value.get(id) ?? 'a target'}.`, (now) =>
    now.wishes.push({ target: id, ...AS_IT_COMES }),
  )
}
const dropRig = (place: number) =>
  props.night.change(`Took ${rigNames.value.get(plan.value?.rigs[place] ?? 0) ?? 'a rig'} off the night.`, (now) => {
    now.rigs.splice(place, 1)
    now.held = without(now.held, 'rig', place)
    now.dropped = without(now.dropped, 'rig', place)
    now.chosen = without(now.chosen, 'rig', place)
  })
const dropWish = (place: number) =>
  props.night.change(
    `Took ${targetNames.value.get(plan.value?.wishes[place]?.target ?? 0) ?? 'a target'} off the night.`,
    (now) => {
      now.wishes.splice(place, 1)
      now.held = without(now.held, 'wish', place)
      now.dropped = without(now.dropped, 'wish', place)
      now.chosen = without(now.chosen, 'wish', place)
    },
  )
/** The grid of rigs and targets: shown where there is something to choose, or a target is no size for the only frame. */
const gridIsOf = (wish: number) =>
  (plan.value?.rigs.length ?? 0) > 1 || props.night.suitsOf(0, wish)?.suits === false || !props.night.mayShoot(0, wish)
function sizeWords(rig: number, wish: number) {
  const size = props.night.suitsOf(rig, wish)
  if (!size || size.suits) return ''
  const share = size.share_percent
  return ` ${share < 100 ? 'small' : 'large'} for it: ${number(share, share < 10 ? 1 : 0)} % of the frame`
}
const fromMissing = (trip: number | null) => props.night.change('', (now) => (now.trip = trip))
const reframe = (place: number, framing: number | null) =>
  props.night.change('', (now) => {
    const wish = now.wishes[place]
    if (wish) wish.framing = framing
    now.held = now.held.filter((one) => one.wish !== place)
    now.dropped = now.dropped.filter((one) => one.wish !== place)
  })
</script>

<template>
  <section v-if="plan" class="panel wishes" aria-label="What the night is for">
    <h2>With</h2>
    <ul>
      <li v-for="(id, place) in plan.rigs" :key="id">
        {{ rigNames.get(id) }}
        <Button
          v-if="plan.rigs.length > 1"
          size="small"
          type="text"
          class="off"
          :aria-label="`Take ${rigNames.get(id)} off this night`"
          @click="dropRig(place)"
          >×</Button
        >
      </li>
    </ul>
    <label class="unseen" for="whole-rig">Add another rig</label>
    <Choice
      v-if="otherRigs.length"
      id="whole-rig"
      v-model="addingRig"
      :options="otherRigs"
      placeholder="Add another rig"
      @update:model-value="addRig" />
    <h2>Of</h2>
    <ul>
      <li v-for="(wish, place) in plan.wishes" :key="place" class="wish">
        <b>{{ targetNames.get(wish.target) }}</b>
        <Button
          v-if="plan.wishes.length > 1"
          size="small"
          type="text"
          class="off"
          :aria-label="`Take ${targetNames.get(wish.target)} off this night`"
          @click="dropWish(place)"
          >×</Button
        >
        <WishFields
          v-model:weight="wish.weight"
          v-model:least="wish.least_h"
          :framing="wish.framing ?? null"
          :target="wish.target"
          :place="place"
          @update:framing="(id) => reframe(place, id)" />
        <p v-if="gridIsOf(place)" class="grid" role="group" :aria-label="`Rigs for ${targetNames.get(wish.target)}`">
          <Checkbox
            v-for="(id, rig) in plan.rigs"
            :key="id"
            :checked="night.mayShoot(rig, place)"
            @update:checked="(on: boolean) => night.letShoot(rig, place, on)"
            >{{ rigNames.get(id) }}<small v-if="sizeWords(rig, place)" class="muted">{{ sizeWords(rig, place) }}</small>
          </Checkbox>
        </p>
      </li>
    </ul>
    <label class="unseen" for="whole-target">Add a target</label>
    <Choice
      id="whole-target"
      v-model="addingTarget"
      :options="otherTargets"
      placeholder="Add a target"
      @update:model-value="addTarget" />
    <Checkbox
      v-for="trip in night.trips.value"
      :key="trip.id"
      :checked="plan.trip === trip.id"
      @update:checked="(on: boolean) => fromMissing(on ? trip.id : null)"
      >From what is missing: the plans of the other nights of “{{ trip.name }}” count</Checkbox
    >
    <LimitFields v-model="plan.limits" />
    <p v-if="plan.dropped.length" class="muted">
      {{ plan.dropped.length }} dropped.
      <button type="button" class="plain again" @click="night.takeBackDropped()">Shoot them after all</button>
    </p>
  </section>
</template>

<style scoped>
.wishes {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px 12px;
  font-size: 13px;
}
h2 {
  font-size: 13px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
  gap: 4px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 6px;
}
.wish {
  border-top: 1px solid var(--line);
  padding-top: 4px;
}
.off {
  margin-left: auto;
}
.again {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
</style>
