<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { Alert, Button, Checkbox, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Asked } from '@/api/client'
import type { useBench } from '@/composables/useBench'
import { useContext } from '@/composables/useContext'
import { useRigs } from '@/composables/useRecords'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import NothingHere from '@/parts/NothingHere.vue'
import NightWeather from '@/parts/NightWeather.vue'

/** What goes into the car for this night; ticks are kept, and what stayed at home is asked for ever after. */
const props = defineProps<{ hand: ReturnType<typeof useBench> }>()
const emit = defineEmits<{ weather: [] }>()
const { spot, night, choices } = useContext()
const { data: rigs } = useRigs()
const queries = useQueryClient()

const going = ref<number[]>([])
const asked = computed(() =>
  spot.value && night.value
    ? { spot: spot.value, night: night.value, choices: choices.value, rigs: going.value }
    : null,
)
const { data, error } = useQuery({
  queryKey: ['packing', asked],
  queryFn: () => answer(api.GET('/api/packing', { params: { query: asked.value as Asked<'/api/packing'> } })),
  enabled: computed(() => asked.value !== null),
  placeholderData: keepPreviousData,
})
// The trip remembers its rigs; a new one begins with the rig in hand.
watch([spot, night], () => (going.value = []))
watch(
  [data, () => props.hand.record.value],
  () => {
    if (going.value.length || !data.value) return
    going.value = data.value.rigs.length ? data.value.rigs : props.hand.record.value ? [props.hand.record.value.id] : []
  },
  { immediate: true },
)

const shown = ref('')
const ticked = ref<string[]>([])
const forgotten = ref<string[]>([])
const trouble = ref('')
watch(
  data,
  (now) => {
    if (!now) return
    ticked.value = now.ticked
    forgotten.value = now.forgotten
  },
  { immediate: true },
)
const items = computed(() => data.value?.packing.items ?? [])
const groups = computed(() =>
  [...new Set(items.value.map((one) => one.group))].map((name) => ({
    name,
    items: items.value.filter((one) => one.group === name),
  })),
)
const left = computed(() => items.value.filter((one) => !ticked.value.includes(one.key)).length)

async function keep() {
  if (!spot.value || !night.value) return
  const names = items.value.filter((one) => forgotten.value.includes(one.key)).map((one) => one.name)
  try {
    trouble.value = ''
    await answer(
      api.PUT('/api/packing', {
        body: { spot: spot.value, night: night.value, rigs: going.value, ticked: ticked.value, forgotten: names },
      }),
    )
    await queries.invalidateQueries({ queryKey: ['packing'] })
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const toggled = (list: string[], key: string) =>
  list.includes(key) ? list.filter((one) => one !== key) : [...list, key]
function tick(key: string) {
  ticked.value = toggled(ticked.value, key)
  void keep()
}
function forget(key: string) {
  forgotten.value = toggled(forgotten.value, key)
  void keep()
}
function take(id: number) {
  going.value = going.value.includes(id) ? going.value.filter((one) => one !== id) : [...going.value, id]
  void keep()
}
const refused = computed(() => trouble.value || (error.value instanceof Refusal ? error.value.message : ''))
const print = () => window.print()
</script>

<template>
  <section class="packing">
    <Alert v-if="refused" type="error" show-icon :message="refused" />
    <NothingHere v-if="!asked" words="Choose a place and a night above; the list belongs to them." />
    <Spin v-else-if="!data && !refused" tip="Writing the list…"><div class="hold" /></Spin>
    <template v-else-if="data">
      <NightWeather />
      <header class="panel">
        <fieldset class="rigs">
          <legend>Rigs that go</legend>
          <Checkbox
            v-for="one in rigs?.items ?? []"
            :key="one.id"
            :checked="going.includes(one.id)"
            @change="take(one.id)"
            >{{ one.name }}</Checkbox
          >
        </fieldset>
        <p class="sum">
          <button
            type="button"
            class="plain open number"
            aria-label="Mass in all. Open the working"
            @click="shown = 'mass'">
            <b>{{ data.packing.mass }}</b>
          </button>
          in
          <button type="button" class="plain open number" aria-label="Walks. Open the working" @click="shown = 'walks'">
            <b>{{ data.packing.carries }}</b> {{ data.packing.carries === 1 ? 'walk' : 'walks' }}
          </button>
          of {{ data.packing.carry_limit }}<span class="muted">; {{ data.packing.unweighed }} things not weighed</span>
        </p>
        <p>
          <b class="number">{{ left }}</b> {{ left === 1 ? 'thing' : 'things' }} still to pack
        </p>
        <Button size="small" @click="emit('weather')">Weather and carry limit</Button>
        <Button size="small" class="screen" @click="print">Print</Button>
      </header>
      <Alert
        v-if="data.packing.clashes.length"
        type="warning"
        show-icon
        :message="`One part, two rigs: ${data.packing.clashes.join('; ')}. Take a second one, or run them in turn.`" />
      <Alert
        v-if="data.packing.too_heavy.length"
        type="warning"
        show-icon
        :message="`Heavier than one walk by itself: ${data.packing.too_heavy.join(', ')}.`" />
      <div class="groups">
        <section v-for="group in groups" :key="group.name" class="panel" :aria-label="group.name">
          <h2>{{ group.name }}</h2>
          <ul>
            <li
              v-for="item in group.items"
              :key="item.key"
              :class="{ done: ticked.includes(item.key), clash: item.clash }">
              <Checkbox :checked="ticked.includes(item.key)" @change="tick(item.key)"
                ><span class="said"
                  ><span class="what">{{ item.name }}</span
                  ><span v-if="item.mass" class="muted number">{{ item.mass }}</span
                  ><small class="muted">{{ item.why }}</small></span
                ></Checkbox
              >
              <button
                type="button"
                class="plain forget"
                :aria-label="`${forgotten.includes(item.key) ? 'left at home' : 'forgot it'}: ${item.name}`"
                :aria-pressed="forgotten.includes(item.key)"
                :title="
                  forgotten.includes(item.key)
                    ? 'Marked as left at home this time'
                    : 'Found missing out there? It is asked for on every trip after'
                "
                @click="forget(item.key)">
                {{ forgotten.includes(item.key) ? 'left at home' : 'forgot it' }}
              </button>
            </li>
          </ul>
        </section>
      </div>
    </template>
    <WorkingDrawer :verdict="shown ? (data?.packing.verdict ?? null) : null" :focus="shown" @close="shown = ''" />
  </section>
</template>

<style scoped>
.packing {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
header {
  display: flex;
  align-items: center;
  gap: 20px;
  padding: 8px 14px;
  flex-wrap: wrap;
}
.rigs {
  border: 0;
  margin: 0;
  padding: 0;
  display: flex;
  flex-direction: column;
}
.rigs legend {
  font-size: 12px;
  color: var(--muted);
  margin: 0;
  border: 0;
}
.rigs :deep(.ant-checkbox-wrapper) {
  margin-inline-start: 0;
}
.sum {
  font-size: 15px;
}
.open {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.groups {
  columns: 2;
  column-gap: 8px;
}
.groups section {
  break-inside: avoid;
  margin-bottom: 8px;
  padding: 8px 14px;
}
h2 {
  color: var(--muted);
  text-transform: uppercase;
  letter-spacing: 0.08em;
  font-size: 12px;
}
ul {
  list-style: none;
  margin: 4px 0 0;
  padding: 0;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 2px 0;
}
.said {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: baseline;
}
.done .what {
  color: var(--muted);
  text-decoration: line-through;
}
.clash .what {
  color: var(--care);
}
small {
  font-size: 12px;
}
.forget {
  font-size: 12px;
  color: var(--muted);
  text-decoration: underline dotted;
  white-space: nowrap;
}
.forget[aria-pressed='true'] {
  color: var(--stop);
  font-weight: 600;
}
.hold {
  min-height: 200px;
}
@media (max-width: 900px) {
  .groups {
    columns: 1;
  }
}
</style>
