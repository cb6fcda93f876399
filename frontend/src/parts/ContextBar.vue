<script setup lang="ts">
import { Button, Tooltip } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { useContext } from '@/composables/useContext'
import { usePlaces, useRigs, useTargets } from '@/composables/useRecords'

import Choice from './Choice.vue'

/** With what, where, when, at what: the one place that says so. */
const emit = defineEmits<{ edit: [kind: 'rig' | 'place' | 'target', id: number | null]; how: [] }>()
defineProps<{ nightFault: string; changedChoices: number }>()

const { rig, spot, night, target, change, shiftNight } = useContext()
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
const placeId = computed(() => places.value?.items.find((place) => place.spots.some((one) => one.id === spot.value))?.id ?? null)

/** The date as typed; it goes to the address once it is left or confirmed. */
const date = ref('')
watch(night, (now) => (date.value = now ?? ''), { immediate: true })
function takeNight() {
  if (date.value && date.value !== night.value) void change({ night: date.value })
}
const weekday = computed(() => {
  const at = new Date(`${night.value ?? ''}T12:00:00Z`)
  return Number.isNaN(at.getTime()) ? '' : at.toLocaleDateString('en-GB', { weekday: 'short', timeZone: 'UTC' })
})
</script>

<template>
  <div class="bar panel" role="group" aria-label="Context">
    <div class="chip wide">
      <label for="context-rig">With<span class="unseen"> rig</span></label>
      <Choice id="context-rig" :model-value="rig ?? undefined" :options="rigOptions" frameless placeholder="Choose a rig"
              @update:model-value="(value) => change({ rig: Number(value) })" />
      <Tooltip title="Change this rig"><Button type="text" size="small" :disabled="!rig" aria-label="Change this rig" @click="emit('edit', 'rig', rig)">✎</Button></Tooltip>
      <Tooltip title="New rig"><Button type="text" size="small" aria-label="New rig" @click="emit('edit', 'rig', null)">+</Button></Tooltip>
    </div>
    <div class="chip wide place">
      <label for="context-spot">at<span class="unseen"> place and spot</span></label>
      <Choice id="context-spot" :model-value="spot ?? undefined" :options="spotOptions" frameless placeholder="Choose a place"
              @update:model-value="(value) => change({ spot: Number(value) })" />
      <Tooltip title="Change this place"><Button type="text" size="small" :disabled="!placeId" aria-label="Change this place" @click="emit('edit', 'place', placeId)">✎</Button></Tooltip>
      <Tooltip title="New place"><Button type="text" size="small" aria-label="New place" @click="emit('edit', 'place', null)">+</Button></Tooltip>
    </div>
    <div class="chip night" :class="{ wrong: nightFault }">
      <label for="context-night">night of</label>
      <Tooltip title="Night before ( [ )"><Button type="text" size="small" aria-label="Night before" @click="shiftNight(-1)">‹</Button></Tooltip>
      <span class="weekday">{{ weekday }}</span>
      <input id="context-night" v-model="date" class="date number" size="10" maxlength="10" placeholder="2026-12-09" :aria-invalid="nightFault !== ''"
             aria-label="Night, date of the evening" @keydown.enter="takeNight" @blur="takeNight" />
      <Tooltip title="Night after ( ] )"><Button type="text" size="small" aria-label="Night after" @click="shiftNight(1)">›</Button></Tooltip>
    </div>
    <div class="chip wide">
      <label for="context-target">on<span class="unseen"> target</span></label>
      <Choice id="context-target" :model-value="target ?? undefined" :options="targetOptions" frameless placeholder="Choose a target"
              @update:model-value="(value) => change({ target: Number(value) })" />
      <Tooltip title="Change this target"><Button type="text" size="small" :disabled="!target" aria-label="Change this target" @click="emit('edit', 'target', target)">✎</Button></Tooltip>
      <Tooltip title="New target"><Button type="text" size="small" aria-label="New target" @click="emit('edit', 'target', null)">+</Button></Tooltip>
    </div>
    <Button class="how" @click="emit('how')">How<span v-if="changedChoices" class="count">{{ changedChoices }}</span></Button>
    <slot />
  </div>
</template>

<style scoped>
.bar { display: flex; align-items: stretch; gap: 6px; padding: 5px 8px; }
.chip { display: flex; align-items: center; gap: 0; min-width: 0; border-right: 1px solid var(--line); padding-right: 4px; }
.chip.wide { flex: 1 1 0; }
.chip.place { flex: 1.35 1 0; }
.chip label { color: var(--muted); font-size: 12.5px; white-space: nowrap; }
.chip .choice { flex: 1; min-width: 60px; }
.chip :deep(.ant-select-selection-item) { font-weight: 600; }
.weekday { font-size: 12.5px; color: var(--muted); }
.date { width: 92px; background: none; border: 0; border-bottom: 1px dotted var(--muted); color: var(--text); font-size: 14px; padding: 2px; text-align: center; }
.night :deep(.ant-btn) { min-width: 28px; height: 28px; padding: 0; }
.night.wrong .date { border-bottom: 2px solid var(--stop); color: var(--stop); }
.how { align-self: center; }
.count { margin-left: 6px; color: var(--accent); font-weight: 600; }
</style>
