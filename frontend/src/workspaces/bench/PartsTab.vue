<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { Alert, Button, Checkbox, Input, Pagination, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, Refusal } from '@/api/client'
import { useKeepPart, useKinds, type Part } from '@/composables/useRecords'
import PartEditor from '@/editors/PartEditor.vue'
import Choice from '@/parts/Choice.vue'

import ExchangeSheet from './ExchangeSheet.vue'
import { freeName } from '@/composables/useNewRig'
import NothingHere from '@/parts/NothingHere.vue'

/** Everything that goes along, in use or not. */
const SIZE = 25
const page = ref(1)
const kind = ref('')
const words = ref('')
const archived = ref(false)
watch([kind, words, archived], () => (page.value = 1))
const asked = computed(() => ({
  kind: kind.value,
  words: words.value,
  archived: archived.value,
  limit: SIZE,
  offset: (page.value - 1) * SIZE,
}))
const { data, error, refetch } = useQuery({
  queryKey: ['parts', 'table', asked],
  queryFn: () => answer(api.GET('/api/parts', { params: { query: asked.value } })),
  placeholderData: keepPreviousData,
})
const { data: known } = useKinds()
const kinds = computed(() => [
  { value: '', label: 'every kind' },
  ...(known.value?.kinds ?? []).map((one) => ({ value: one.kind, label: one.kind })),
])
const { keep, remove } = useKeepPart()
const queries = useQueryClient()

const editing = ref<{ record: Part | null } | null>(null)
/** A link may lead to one part by its name: its form opens at once. */
const route = useRoute()
const router = useRouter()
const linked = computed(() => (typeof route.query.part === 'string' ? route.query.part : ''))
watch(linked, (name) => (words.value = name || words.value), { immediate: true })
watch(
  () => data.value?.items,
  (items) => {
    const found = linked.value ? items?.find((one) => one.name === linked.value) : null
    if (found && !editing.value) editing.value = { record: found }
  },
  { immediate: true },
)
function closed() {
  editing.value = null
  if (!linked.value) return
  void router.replace({ query: { ...route.query, part: undefined } })
}
const exchanging = ref(false)
const refused = ref<{ part: Part; message: string } | null>(null)
const trouble = computed(() => (error.value instanceof Refusal ? error.value.message : ''))

/** A refusal of a deletion names the rigs and offers to put the part away instead. */
async function attempt(part: Part, work: () => Promise<unknown>) {
  refused.value = null
  try {
    await work()
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    refused.value = { part, message: failed.message }
  }
}
async function archive(part: Part, away: boolean) {
  await attempt(part, async () => {
    await answer(
      api.POST('/api/parts/{record_id}/archive', { params: { path: { record_id: part.id } }, body: { away } }),
    )
    await queries.invalidateQueries()
  })
}
const copy = (part: Part) =>
  attempt(part, () =>
    keep(null, {
      kind: part.kind,
      values: {
        ...part.values,
        name: freeName(
          `${part.name}, copy`,
          (data.value?.items ?? []).map((one) => one.name),
        ),
      },
    }),
  )
</script>

<template>
  <section class="inventory">
    <div class="bar">
      <Button type="primary" @click="editing = { record: null }">New part</Button>
      <Input v-model:value="words" class="words" placeholder="Find by name" aria-label="Find by name" allow-clear />
      <label class="unseen" for="inventory-kind">Kind of part</label>
      <Choice id="inventory-kind" v-model="kind" class="kind" :options="kinds" />
      <Checkbox v-model:checked="archived">Put away</Checkbox>
      <span class="gap" />
      <Button @click="exchanging = true">Files in and out</Button>
    </div>
    <Alert v-if="trouble" type="error" show-icon :message="trouble"
      ><template #action><Button size="small" @click="refetch()">Try again</Button></template></Alert
    >
    <Alert v-if="refused" type="warning" show-icon closable :message="refused.message" @close="refused = null">
      <template #action
        ><Button
          v-if="refused.part.used_by.length && !refused.part.archived"
          size="small"
          type="primary"
          @click="archive(refused.part, true)"
          >Archive it</Button
        ></template
      >
    </Alert>
    <Spin v-if="!data && !trouble" tip="Opening the inventory…"><div class="hold" /></Spin>
    <NothingHere
      v-else-if="data && !data.count"
      :words="
        words || kind
          ? 'Nothing like that here.'
          : archived
            ? 'Nothing is put away.'
            : 'No parts yet. Empty your bag onto a table and enter what goes along.'
      " />
    <div v-else-if="data" class="panel frame">
      <table>
        <thead>
          <tr>
            <th scope="col">Kind</th>
            <th scope="col">Name</th>
            <th scope="col" class="right">Mass</th>
            <th scope="col">In</th>
            <th scope="col"><span class="unseen">What to do</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in data.items" :key="part.id">
            <td class="muted">{{ part.kind }}</td>
            <th scope="row">
              <button type="button" class="plain open" @click="editing = { record: part }">{{ part.name }}</button>
            </th>
            <td class="number right">{{ part.mass }}</td>
            <td class="muted">{{ part.used_by.join(', ') }}</td>
            <td class="right">
              <Button size="small" type="text" :aria-label="`Copy ${part.name}`" @click="copy(part)">Copy</Button>
              <Button
                size="small"
                type="text"
                :aria-label="`${part.archived ? 'Take out' : 'Archive'} ${part.name}`"
                @click="archive(part, !part.archived)"
                >{{ part.archived ? 'Take out' : 'Archive' }}</Button
              >
              <Button
                size="small"
                type="text"
                danger
                :aria-label="`Delete ${part.name}`"
                @click="attempt(part, () => remove(part))"
                >Delete</Button
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <Pagination
      v-if="data && data.count > SIZE"
      v-model:current="page"
      :total="data.count"
      :page-size="SIZE"
      :show-size-changer="false" />
    <PartEditor :open="editing !== null" :record="editing?.record ?? null" :begin="kind || 'camera'" @close="closed" />
    <ExchangeSheet :open="exchanging" @close="exchanging = false" />
  </section>
</template>

<style scoped>
.inventory {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
.words {
  width: 220px;
}
.kind {
  width: 170px;
}
.gap {
  flex: 1;
}
.frame {
  padding: 4px 10px;
  overflow-x: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}
thead th {
  text-align: left;
  font-weight: 400;
  font-size: 12.5px;
  color: var(--muted);
}
tbody tr {
  border-top: 1px solid var(--line);
}
tbody th {
  text-align: left;
  font-weight: 600;
}
td,
th {
  padding: 3px 8px;
}
.right {
  text-align: right;
  white-space: nowrap;
}
.open:hover {
  color: var(--accent);
  text-decoration: underline;
}
.hold {
  min-height: 200px;
}
</style>
