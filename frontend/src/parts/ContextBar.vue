<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { dateWords, readDate } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { useFramings } from '@/composables/useFramings'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'

import Choice from './Choice.vue'

/** With what, where, when, at what: the one place that says so. */
const emit = defineEmits<{ edit: [kind: 'rig' | 'place' | 'target', id: number | null]; how: [] }>()
defineProps<{ nightFault: string; changedChoices: number }>()

const { rig, spot, night, target, framing, change, shiftNight } = useContext()
const { these, ofTarget } = useFramings()
const { data: rigs } = useRigs()
const { data: places } = usePlaces()
const { data: targets } = useTargets()

const rigOptions = computed(() => (rigs.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const targetOptions = computed(() => (targets.value?.items ?? []).map((one) => ({ value: one.id, label: one.name })))
const spotOptions = computed(() =>
  (places.value?.items ?? []).map((place) => ({
    label: place.name,
    options: place.spots.map((one) => ({ value: one.id, label: `${place.name}, ${one.name}` })),
  })),
)
const placeId = computed(
  () => places.value?.items.find((place) => place.spots.some((one) => one.id === spot.value))?.id ?? null,
)

/** A target comes with the framing that was kept for it, if one was. */
const chooseTarget = (id: number) => change({ target: id, framing: ofTarget(id)[0]?.id ?? null })
const OWN_MIDDLE = 'its own middle'
const framingOptions = computed(() => [
  { value: '', label: OWN_MIDDLE },
  ...these.value.map((one) => ({ value: String(one.id), label: one.name })),
])

/** The date as typed; it goes to the address once it is left or confirmed. */
const date = ref('')
watch(night, (now) => (date.value = dateWords(now, 'whole')), { immediate: true })
function takeNight() {
  const read = readDate(date.value)
  if (read === night.value) date.value = dateWords(read, 'whole')
  else if (read) void change({ night: read })
}
/** On a small screen the bar folds to one line, which opens. */
const unfolded = ref(false)
const named = (options: { value: number; label: string }[], value: number | null) =>
  options.find((one) => one.value === value)?.label
const day = computed(() => dateWords(night.value, 'day'))
const summary = computed(() =>
  [
    named(rigOptions.value, rig.value),
    named(
      spotOptions.value.flatMap((one) => one.options),
      spot.value,
    ),
    day.value,
    named(targetOptions.value, target.value),
  ]
    .filter(Boolean)
    .join(' · '),
)
</script>

<template>
  <div class="bar panel" :class="{ unfolded }" role="group" aria-label="Context">
    <button
      type="button"
      class="plain fold"
      :aria-expanded="unfolded"
      aria-label="What is chosen"
      @click="unfolded = !unfolded">
      <span class="summary">{{ summary || 'Choose rig, place, night and target' }}</span>
      <svg viewBox="0 0 24 24" width="16" height="16" aria-hidden="true">
        <path :d="unfolded ? 'M5 16l7-7 7 7' : 'M5 8l7 7 7-7'" />
      </svg>
    </button>
    <div class="chip wide">
      <label for="context-rig">With<span class="unseen"> rig</span></label>
      <Choice
        id="context-rig"
        :model-value="rig ?? undefined"
        :options="rigOptions"
        frameless
        placeholder="Choose a rig"
        @update:model-value="(value) => change({ rig: Number(value) })" />
      <Button
        title="Change this rig"
        type="text"
        size="small"
        :disabled="!rig"
        aria-label="Change this rig"
        @click="emit('edit', 'rig', rig)"
        >✎</Button
      >
      <Button title="New rig" type="text" size="small" aria-label="New rig" @click="emit('edit', 'rig', null)"
        >+</Button
      >
    </div>
    <div class="chip wide place">
      <label for="context-spot">at<span class="unseen"> place and spot</span></label>
      <Choice
        id="context-spot"
        :model-value="spot ?? undefined"
        :options="spotOptions"
        frameless
        placeholder="Choose a place"
        @update:model-value="(value) => change({ spot: Number(value) })" />
      <Button
        title="Change this place"
        type="text"
        size="small"
        :disabled="!placeId"
        aria-label="Change this place"
        @click="emit('edit', 'place', placeId)"
        >✎</Button
      >
      <Button title="New place" type="text" size="small" aria-label="New place" @click="emit('edit', 'place', null)"
        >+</Button
      >
    </div>
    <div class="chip night" :class="{ wrong: nightFault }">
      <label for="context-night">night of</label>
      <Button title="Night before ( [ )" type="text" size="small" aria-label="Night before" @click="shiftNight(-1)"
        >‹</Button
      >
      <input
        id="context-night"
        v-model="date"
        class="date number"
        maxlength="40"
        placeholder="9 Dec 2026"
        :aria-invalid="nightFault !== ''"
        aria-label="Night, date of the evening"
        @keydown.enter="takeNight"
        @blur="takeNight" />
      <Button title="Night after ( ] )" type="text" size="small" aria-label="Night after" @click="shiftNight(1)"
        >›</Button
      >
    </div>
    <div class="chip wide">
      <label for="context-target">on<span class="unseen"> target</span></label>
      <Choice
        id="context-target"
        :model-value="target ?? undefined"
        :options="targetOptions"
        frameless
        placeholder="Choose a target"
        @update:model-value="(value) => chooseTarget(Number(value))" />
      <label v-if="these.length" for="context-framing" class="unseen">framed on</label>
      <Choice
        v-if="these.length"
        id="context-framing"
        class="framed"
        :model-value="framing === null ? '' : String(framing)"
        :options="framingOptions"
        frameless
        @update:model-value="(value) => change({ framing: value ? Number(value) : null })" />
      <Button
        title="Change this target"
        type="text"
        size="small"
        :disabled="!target"
        aria-label="Change this target"
        @click="emit('edit', 'target', target)"
        >✎</Button
      >
      <Button title="New target" type="text" size="small" aria-label="New target" @click="emit('edit', 'target', null)"
        >+</Button
      >
    </div>
    <Button class="how" @click="emit('how')"
      >How<span v-if="changedChoices" class="count">{{ changedChoices }}</span></Button
    >
    <slot />
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: stretch;
  gap: 6px;
  padding: 5px 8px;
}
.chip {
  display: flex;
  align-items: center;
  gap: 0;
  min-width: 0;
  border-right: 1px solid var(--line);
  padding-right: 4px;
}
.chip.wide {
  flex: 1 1 0;
}
.chip.place {
  flex: 1.35 1 0;
}
.chip label {
  color: var(--muted);
  font-size: 12.5px;
  white-space: nowrap;
}
.chip .choice {
  flex: 1;
  min-width: 60px;
}
.chip .framed {
  flex: 0 1 92px;
  color: var(--muted);
}
.chip :deep(.ant-select-selection-item) {
  font-weight: 600;
}
.date {
  width: 124px;
  background: none;
  border: 0;
  border-bottom: 1px dotted var(--muted);
  color: var(--text);
  font-size: 14px;
  padding: 2px;
  text-align: center;
}
.night :deep(.ant-btn) {
  min-width: 28px;
  height: 28px;
  padding: 0;
}
.night.wrong .date {
  border-bottom: 2px solid var(--stop);
  color: var(--stop);
}
.how {
  align-self: center;
}
.fold {
  display: none;
}
@media (max-width: 820px) {
  .bar {
    flex-wrap: wrap;
    gap: 4px 8px;
    padding: 4px 8px;
  }
  .fold {
    display: flex;
    align-items: center;
    gap: 8px;
    flex: 1 1 60%;
    min-width: 0;
    min-height: 44px;
  }
  .fold svg {
    flex: none;
    color: var(--muted);
  }
  .fold path {
    fill: none;
    stroke: currentColor;
    stroke-width: 2.2;
    stroke-linecap: round;
    stroke-linejoin: round;
  }
  .summary {
    flex: 1;
    min-width: 0;
    font-weight: 600;
    font-size: 14px;
    line-height: 1.25;
    display: -webkit-box;
    -webkit-line-clamp: 2;
    -webkit-box-orient: vertical;
    overflow: hidden;
  }
  .chip,
  .chip.wide,
  .chip.place {
    display: none;
  }
  .unfolded .chip {
    display: flex;
    flex: 1 1 100%;
    border: 0;
    border-top: 1px solid var(--line);
    padding: 4px 0 0;
    gap: 4px;
    order: 3;
  }
  .unfolded .chip label {
    width: 64px;
  }
  .date {
    flex: 1;
    font-size: 16px;
    min-height: 44px;
  }
}
.count {
  margin-left: 6px;
  color: var(--accent);
  font-weight: 600;
}
</style>
