<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useFramings } from '@/composables/useFramings'
import { useRigs, useTargets } from '@/composables/useRecords'
import { AS_IT_COMES, type useWholeNight } from '@/composables/useWholeNight'
import Choice from '@/parts/Choice.vue'
import Field from '@/parts/Field.vue'

/** What is wanted of the night: with which rigs, of which targets or framings, and within which hours. */
const props = defineProps<{ night: ReturnType<typeof useWholeNight> }>()
const plan = computed(() => props.night.plan.value)
const { data: rigs } = useRigs()
const { data: targets } = useTargets()
const { ofTarget } = useFramings()

const rigNames = computed(() => new Map((rigs.value?.items ?? []).map((one) => [one.id, one.name])))
const targetNames = computed(() => new Map((targets.value?.items ?? []).map((one) => [one.id, one.name])))
const otherRigs = computed(() =>
  (rigs.value?.items ?? [])
    .filter((one) => !plan.value?.rigs.includes(one.id))
    .map((one) => ({ value: one.id, label: one.name })),
)
const otherTargets = computed(() => (targets.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const framings = (target: number) => [
  { value: null, label: 'its own middle' },
  ...ofTarget(target).map((one) => ({
    value: one.id,
    label: one.columns * one.rows > 1 ? `${one.name}, ${one.columns} × ${one.rows} panels` : one.name,
  })),
]
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
  })
const dropWish = (place: number) =>
  props.night.change(
    `Took ${targetNames.value.get(plan.value?.wishes[place]?.target ?? 0) ?? 'a target'} off the night.`,
    (now) => {
      now.wishes.splice(place, 1)
      now.held = without(now.held, 'wish', place)
      now.dropped = without(now.dropped, 'wish', place)
    },
  )
const reframe = (place: number, framing: unknown) =>
  props.night.change('', (now) => {
    const wish = now.wishes[place]
    if (wish) wish.framing = typeof framing === 'number' ? framing : null
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
        <div class="how">
          <label v-if="framings(wish.target).length > 1" class="framing" :for="`whole-framing-${place}`"
            >Framed by
            <Choice
              :id="`whole-framing-${place}`"
              :model-value="wish.framing ?? null"
              :options="framings(wish.target)"
              @update:model-value="(id) => reframe(place, id)"
          /></label>
          <Field v-model="wish.weight" :path="`wishes.${place}.weight`" label="Matters" unit="×" />
          <Field v-model="wish.least_h" :path="`wishes.${place}.least_h`" label="At least" unit="h" />
        </div>
      </li>
    </ul>
    <label class="unseen" for="whole-target">Add a target</label>
    <Choice
      id="whole-target"
      v-model="addingTarget"
      :options="otherTargets"
      placeholder="Add a target"
      @update:model-value="addTarget" />
    <details :open="Boolean(plan.limits.sleep_from || plan.limits.not_before || plan.limits.not_after)">
      <summary>Let me sleep, start later, end earlier</summary>
      <div class="limits">
        <Field v-model="plan.limits.sleep_from" path="sleep_from" kind="text" label="Asleep from" hint="like 01:00" />
        <Field v-model="plan.limits.sleep_to" path="sleep_to" kind="text" label="to" hint="like 04:00" />
        <Field v-model="plan.limits.awakenings" path="awakenings" label="Wake me at most" unit="times" />
        <Field
          v-model="plan.limits.not_before"
          path="not_before"
          kind="text"
          label="Nothing before"
          hint="local time" />
        <Field v-model="plan.limits.not_after" path="not_after" kind="text" label="Nothing after" hint="local time" />
      </div>
    </details>
    <p v-if="plan.dropped.length" class="muted">
      {{ plan.dropped.length }} dropped.
      <button type="button" class="plain again" @click="night.takeBackDropped()">Shoot them after all</button>
    </p>
  </section>
</template>

<style scoped src="../framing/folded.css"></style>
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
.how {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
  width: 100%;
}
.framing {
  grid-column: 1 / -1;
}
.limits {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.again {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
</style>
