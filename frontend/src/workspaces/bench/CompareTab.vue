<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Alert } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Asked } from '@/api/client'
import type { useBench } from '@/composables/useBench'
import { figure } from '@/composables/figures'
import { useContext } from '@/composables/useContext'
import { useParts, useRigs } from '@/composables/useRecords'
import Choice from '@/parts/Choice.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import NothingHere from '@/parts/NothingHere.vue'

/** The rig in hand beside another, or beside itself with another lens. */
const props = defineProps<{ hand: ReturnType<typeof useBench> }>()
const { spot, night, target, framing, choices } = useContext()
const { data: rigs } = useRigs()
const { data: parts } = useParts()
const own = computed(() => props.hand.record.value)
const other = ref<string | undefined>()
const options = computed(() => [
  {
    label: 'Another rig',
    options: (rigs.value?.items ?? [])
      .filter((one) => one.id !== own.value?.id)
      .map((one) => ({ value: `rig ${one.id}`, label: one.name })),
  },
  {
    label: 'This rig with another lens',
    options: (parts.value?.items ?? [])
      .filter((one) => one.kind === 'lens' && !own.value?.placed.some((placed) => placed.part === one.id))
      .map((one) => ({ value: `lens ${one.id}`, label: `with ${one.name}` })),
  },
])
watch(
  [options, own],
  () => {
    const all = options.value.flatMap((group) => group.options)
    if (!all.some((one) => one.value === other.value)) other.value = all[0]?.value
  },
  { immediate: true },
)
const asked = computed(() => {
  const [kind, number] = (other.value ?? '').split(' ')
  if (!own.value || !number || !spot.value || !night.value) return null
  const right = kind === 'rig' ? { right: Number(number) } : { right: own.value.id, lens: Number(number) }
  return {
    left: own.value.id,
    ...right,
    spot: spot.value,
    night: night.value,
    target: target.value,
    framing: framing.value ?? undefined,
    choices: choices.value,
  }
})
const { data, error } = useQuery({
  queryKey: ['compare', asked],
  queryFn: () =>
    answer(api.GET('/api/bench/compare', { params: { query: asked.value as Asked<'/api/bench/compare'> } })),
  enabled: computed(() => asked.value !== null),
  placeholderData: keepPreviousData,
})
const trouble = computed(() => (error.value instanceof Refusal ? error.value.message : ''))
const shown = ref<{ side: 'left' | 'right'; topic: string; key: string } | null>(null)
const verdict = computed(
  () =>
    (shown.value && data.value?.[shown.value.side].verdicts.find((one) => one.topic === shown.value?.topic)) || null,
)
const SIDES = ['left', 'right'] as const
</script>

<template>
  <section class="panel compare">
    <div class="pick">
      <b>{{ own?.name ?? 'No rig chosen' }}</b> beside
      <label class="unseen" for="compare-other">What to compare with</label
      ><Choice id="compare-other" v-model="other" class="other" :options="options" placeholder="another rig or lens" />
    </div>
    <Alert v-if="trouble" type="error" show-icon :message="trouble" />
    <NothingHere
      v-else-if="!asked"
      words="Choose a rig, a place and a night above, and have a second rig or lens in the inventory." />
    <table v-if="data && asked && !trouble">
      <thead>
        <tr>
          <th scope="col">Same night, same choices</th>
          <th scope="col">{{ data.left.title }}</th>
          <th scope="col">{{ data.right.title }}</th>
          <th scope="col">Changes by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in data.rows" :key="row.topic + row.name">
          <th scope="row">
            <span class="muted">{{ row.topic }}</span> {{ row.name }}
          </th>
          <td v-for="side in SIDES" :key="side" class="number">
            <button
              v-if="row[side]?.working"
              type="button"
              class="plain open"
              :aria-label="`${row.name} of ${data[side].title}. Open the working`"
              @click="shown = { side, topic: row.topic, key: row[side]?.working ?? '' }">
              {{ figure(row[side]!) }}
            </button>
            <template v-else>{{ row[side] ? figure(row[side]!) : '–' }}</template>
          </td>
          <td class="number">{{ row.change }}</td>
        </tr>
      </tbody>
    </table>
    <ul v-if="data && asked && !trouble" class="said">
      <template v-for="side in SIDES" :key="side"
        ><li
          v-for="one in data[side].verdicts.filter((each) => each.level !== 'go')"
          :key="one.topic"
          :class="one.level">
          <b>{{ data[side].title }}, {{ one.topic }}:</b> {{ one.sentence }}
        </li></template
      >
    </ul>
    <WorkingDrawer :verdict="verdict" :focus="shown?.key ?? ''" @close="shown = null" />
  </section>
</template>

<style scoped>
.compare {
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}
.pick {
  display: flex;
  align-items: center;
  gap: 8px;
}
.other {
  width: 320px;
}
table {
  border-collapse: collapse;
  width: 100%;
  max-width: 1000px;
}
th,
td {
  text-align: left;
  padding: 5px 10px;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}
thead th {
  font-weight: 600;
}
.open {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.open:hover {
  color: var(--accent);
}
.said {
  margin: 0;
  padding-left: 18px;
  font-size: 13.5px;
}
.stop b {
  color: var(--stop);
}
.care b {
  color: var(--care);
}
</style>
