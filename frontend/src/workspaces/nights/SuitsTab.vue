<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced, useMediaQuery } from '@vueuse/core'
import { Alert, Button, Input, Pagination, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Schemas, type Asked } from '@/api/client'
import { number } from '@/composables/figures'
import { useTake, useTargetKinds } from '@/composables/useCatalogue'
import { useContext } from '@/composables/useContext'
import { useChosen, useLanes } from '@/composables/useNights'
import Choice from '@/parts/Choice.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import NothingHere from '@/parts/NothingHere.vue'

import TogetherTable from './TogetherTable.vue'

/** The whole catalogue ranked for this rig, spot and night. */
const { context, choices } = useContext()
const { data: kinds } = useTargetKinds()
const { data: lanes } = useLanes()
const take = useTake()
const { change: choose } = useChosen()

const words = ref('')
const settled = refDebounced(words, 200)
const kind = ref('')
const season = ref('')
const size = ref('fits')
const page = ref(1)
const how = ref<'single' | 'together'>('single')
const SIZE = 12
const SIZES: Record<string, { smallest_percent: number; largest_percent: number }> = {
  fits: { smallest_percent: 3, largest_percent: 200 },
  good: { smallest_percent: 25, largest_percent: 100 },
  larger: { smallest_percent: 100, largest_percent: 10_000 },
  all: { smallest_percent: 0, largest_percent: 10_000 },
}
/** A small screen has no room for nine columns: a line each, the rest in the working. */
const small = useMediaQuery('(max-width: 820px)')
const SIZE_WORDS: Record<string, string> = {
  fits: 'from 3 % to twice the frame',
  good: 'from a quarter to the whole',
  larger: 'larger than the frame',
  all: 'every size',
}
const filterWords = computed(() =>
  how.value === 'together'
    ? 'what fits together'
    : [settled.value, kind.value, SIZE_WORDS[size.value], season.value].filter(Boolean).join(', '),
)
const SEASONS = ['at its best', 'coming', 'ending', 'off season'].map((value) => ({ value, label: value }))
const asked = computed(() =>
  context.value
    ? {
        choices: choices.value,
        ...context.value,
        ...SIZES[size.value],
        words: settled.value,
        kinds: kind.value ? [kind.value] : [],
        seasons: season.value ? [season.value] : [],
        limit: SIZE,
        offset: (page.value - 1) * SIZE,
      }
    : null,
)
watch([settled, kind, season, size, context, choices], () => (page.value = 1))
const { data, error, isFetching } = useQuery({
  queryKey: ['suits', asked],
  queryFn: () => answer(api.GET('/api/nights/suits', { params: { query: asked.value as Asked<'/api/nights/suits'> } })),
  enabled: computed(() => asked.value !== null),
  placeholderData: keepPreviousData,
})
const opened = ref<Schemas['Verdict'] | null>(null)
const trouble = ref('')
const refused = computed(() => trouble.value || (error.value instanceof Refusal ? error.value.message : ''))
const shown = computed(() => lanes.value?.targets ?? [])
const there = computed(() => new Set(lanes.value?.lanes.lanes.map((lane) => lane.name) ?? []))
async function add(item: Schemas['SuitOut']) {
  trouble.value = ''
  try {
    const kept = await take(item.entry.key)
    await choose(
      lanes.value?.chosen ? shown.value : [],
      [...new Set([...shown.value, kept.id])],
      `Added ${kept.name} to the night.`,
    )
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const hours = (minutes: number) => `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`
const extent = (entry: Schemas['EntryOut']) =>
  entry.extent_deg >= 1
    ? `${number(entry.extent_deg, 1)}°`
    : `${number(entry.extent_deg * 60, entry.extent_deg > 0.16 ? 0 : 1)}′`
</script>

<template>
  <section class="suits">
    <component :is="small ? 'details' : 'div'" class="folded">
      <summary v-if="small">Filters: {{ filterWords }}</summary>
      <div class="filters">
        <label class="unseen" for="suits-how">One by one, or what fits together</label
        ><Choice
          id="suits-how"
          v-model="how"
          class="pick"
          :options="[
            { value: 'single', label: 'one by one' },
            { value: 'together', label: 'what fits together' },
          ]" />
        <template v-if="how === 'single'">
          <label class="unseen" for="suits-words">Name or number</label
          ><Input id="suits-words" v-model:value="words" class="words" placeholder="Name or number" allow-clear />
          <label class="unseen" for="suits-kind">Kind</label
          ><Choice
            id="suits-kind"
            v-model="kind"
            class="pick"
            :options="[
              { value: '', label: 'every kind but constellations' },
              ...(kinds?.kinds ?? []).map((one) => ({ value: one, label: one })),
            ]" />
          <label class="unseen" for="suits-size">Size in the frame</label
          ><Choice
            id="suits-size"
            v-model="size"
            class="pick"
            :options="Object.entries(SIZE_WORDS).map(([value, label]) => ({ value, label }))" />
          <label class="unseen" for="suits-season">Season</label
          ><Choice
            id="suits-season"
            v-model="season"
            class="pick"
            :options="[{ value: '', label: 'every season' }, ...SEASONS]" />
          <span v-if="data" class="muted number"
            >{{ data.count }} of them tonight; frame {{ number(data.frame_long_deg, 1) }}° ×
            {{ number(data.frame_short_deg, 1) }}°{{ data.narrow ? ', narrow filter' : '' }}</span
          >
        </template>
      </div>
    </component>
    <Alert v-if="refused" type="error" show-icon :message="refused" />
    <TogetherTable v-if="how === 'together'" />
    <Spin v-else-if="!data && !refused" tip="Ranking the sky…"><div class="hold" /></Spin>
    <NothingHere
      v-else-if="data && !data.count"
      :words="
        data.dark_minutes
          ? 'Nothing of that sort is usable from here tonight. Widen the choice above, or try another night.'
          : 'No darkness this night, so nothing suits it. Look at the season, or choose nautical darkness under “How”.'
      " />
    <ul v-else-if="data && small" class="lines" :class="{ stale: isFetching }">
      <li v-for="item in data.items" :key="item.entry.key">
        <button
          type="button"
          class="plain name"
          :aria-label="`${item.entry.name}, worth ${number(item.worth, 0)}. Open the working`"
          @click="opened = item.verdict">
          <b>{{ item.entry.name }}</b>
          <small class="muted number"
            >{{ hours(item.usable_min) }} · {{ number(item.fills_percent, 0) }} % of the frame ·
            {{ number(item.highest_deg, 0) }}° high</small
          >
        </button>
        <Button
          :disabled="there.has(item.entry.name)"
          :aria-label="`Add ${item.entry.name} to this night`"
          @click="add(item)"
          >{{ there.has(item.entry.name) ? 'added' : 'Add' }}</Button
        >
      </li>
    </ul>
    <table v-else-if="data" :class="{ stale: isFetching }">
      <thead>
        <tr>
          <th scope="col">Worth</th>
          <th scope="col">What</th>
          <th scope="col">In the frame</th>
          <th scope="col">Usable</th>
          <th scope="col">Highest</th>
          <th scope="col">Sky, mag/arcsec²</th>
          <th scope="col">Season</th>
          <th scope="col">With it in the frame</th>
          <th scope="col"><span class="unseen">Add</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="item in data.items" :key="item.entry.key">
          <td class="worth number">
            <span class="bar" aria-hidden="true"><i :style="{ width: `${item.worth}%` }" /></span
            ><button
              type="button"
              class="plain open"
              :aria-label="`Worth ${number(item.worth, 0)}. Open the working`"
              @click="opened = item.verdict">
              {{ number(item.worth, 0) }}
            </button>
          </td>
          <th scope="row">
            <b>{{ item.entry.name }}</b><small class="muted"
              >{{ item.entry.kind }}, {{ item.entry.constellation
              }}<template v-if="item.entry.numbers"> · {{ item.entry.numbers }}</template></small
            >
          </th>
          <td class="number frame">
            {{ number(item.fills_percent, 0) }} %<small class="muted"
              >{{ extent(item.entry) }}<template v-if="item.note"> · {{ item.note }}</template></small
            >
          </td>
          <td class="number">{{ hours(item.usable_min) }}</td>
          <td class="number">{{ number(item.highest_deg, 0) }}°</td>
          <td class="number">
            {{ number(item.sky_mag, 2)
            }}<small v-if="item.moon_adds_mag >= 0.05" class="muted"
              >Moon {{ number(item.moon_adds_mag, 1) }} mag</small
            >
          </td>
          <td>{{ item.season }}</td>
          <td class="beside muted">{{ item.neighbours.join(', ') }}</td>
          <td>
            <Button
              size="small"
              :disabled="there.has(item.entry.name)"
              :aria-label="`Add ${item.entry.name} to this night`"
              @click="add(item)"
              >{{ there.has(item.entry.name) ? 'added' : 'Add' }}</Button
            >
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="how === 'single' && data && data.count > SIZE" class="pages">
      <Pagination
        v-model:current="page"
        :total="data.count"
        :page-size="SIZE"
        :show-size-changer="false"
        size="small" />
    </div>
    <WorkingDrawer :verdict="opened" focus="worth" @close="opened = null" />
    <p v-if="how === 'single' && data" class="muted note">
      Worth is our own weighting, 0 to 100: usable time × how well it sits in the frame × contrast with the sky × what
      the filter leaves. Surface brightness is measured where the list has magnitudes, else typical of its kind.
    </p>
  </section>
</template>

<style scoped>
.suits {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.folded summary {
  min-height: 44px;
  align-content: center;
  cursor: pointer;
}
.lines {
  list-style: none;
  margin: 0;
  padding: 0;
}
.lines li {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.lines .name {
  flex: 1;
  min-width: 0;
  min-height: 44px;
  text-align: left;
}
.words {
  width: 190px;
}
.pick {
  width: 210px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 13.5px;
}
.stale {
  opacity: 0.7;
}
th,
td {
  text-align: left;
  padding: 3px 10px 3px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  vertical-align: top;
}
thead th {
  color: var(--muted);
  font-size: 12.5px;
}
small {
  display: block;
  font-size: 12px;
}
th small {
  max-width: 300px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.worth {
  white-space: nowrap;
}
.bar {
  display: inline-block;
  width: 40px;
  height: 8px;
  background: var(--raised);
  border-radius: 4px;
  margin-right: 6px;
}
.bar i {
  display: block;
  height: 8px;
  border-radius: 4px;
  background: var(--accent);
}
.frame {
  width: 150px;
}
.open {
  text-decoration: underline dotted;
  text-decoration-color: var(--muted);
  text-underline-offset: 3px;
}
.open:hover {
  color: var(--accent);
}
.beside {
  max-width: 220px;
  font-size: 12.5px;
}
.note {
  font-size: 12px;
}
.hold {
  min-height: 240px;
}
</style>
