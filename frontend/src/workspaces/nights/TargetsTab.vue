<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Alert, Button, Input, Pagination } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useSearch, useTake, useTargetKinds } from '@/composables/useCatalogue'
import { useContext } from '@/composables/useContext'
import { upload } from '@/composables/useFiles'
import { useTargets, type Target } from '@/composables/useRecords'
import TargetEditor from '@/editors/TargetEditor.vue'
import Choice from '@/parts/Choice.vue'
import FilesSheet from '@/parts/FilesSheet.vue'
import NothingHere from '@/parts/NothingHere.vue'

/** The person's own targets on the left; the catalogue to take more from on the right. */
const { data: targets } = useTargets()
const { data: kinds } = useTargetKinds()
const { target, change } = useContext()
const queries = useQueryClient()
const take = useTake()
const editing = ref<{ record: Target | null } | null>(null)
const files = ref(false)
const words = ref('')
const kind = ref('')
const page = ref(1)
const SIZE = 12
watch([words, kind], () => (page.value = 1))
const { data: found } = useSearch(words, kind, page, SIZE)
const own = computed(() => targets.value?.items ?? [])
const taken = computed(() => new Set(own.value.map((one) => one.catalogue_key)))
const trouble = ref('')
async function keep(entry: Schemas['EntryOut']) {
  trouble.value = ''
  try {
    const kept = await take(entry.key)
    await change({ target: kept.id })
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const extent = (degrees: number) =>
  degrees >= 1 ? `${number(degrees, 1)}°` : `${number(degrees * 60, degrees > 0.16 ? 0 : 1)}′`
const sized = (one: { extent_deg: number; width_deg?: number | null }) =>
  one.extent_deg === 0 ? '–' : `${extent(one.extent_deg)}${one.width_deg ? ` × ${extent(one.width_deg)}` : ''}`
const file = (form: 'csv' | 'ecsv' | 'votable') => () =>
  answer(api.GET('/api/targets/file/{form}', { params: { path: { form } } }))
const OUT = [
  { label: 'As CSV', fetch: file('csv') },
  { label: 'As VOTable', fetch: file('votable') },
  { label: 'As ECSV', fetch: file('ecsv') },
]
const ORIGINS: Record<string, string> = {
  'open list': 'the open list',
  'from memory': 'memory',
  computed: 'boundaries',
}
const IN_HINT = [
  'CSV with at least name, ra_deg and dec_deg, or any VOTable or ECSV with a name and a place, up to 1 MB and 2,000 rows.',
  'Where it says nothing, an extent of 1° and a surface brightness of 22 are taken.',
].join(' ')
</script>

<template>
  <section class="targets">
    <section class="panel own" aria-label="Your targets">
      <header>
        <h2>Your targets</h2>
        <Button size="small" @click="editing = { record: null }">New</Button
        ><Button size="small" @click="files = true">Files in and out</Button>
      </header>
      <NothingHere v-if="targets && !own.length" words="None yet. Take one from the catalogue, or type your own." />
      <ul>
        <li v-for="one in own" :key="one.id" :class="{ current: one.id === target }">
          <button type="button" class="plain" :aria-pressed="one.id === target" @click="change({ target: one.id })">
            <b>{{ one.name }}</b><small class="muted"
              >{{ one.kind }}<template v-if="one.constellation">, {{ one.constellation }}</template> ·
              {{ sized(one) }}</small
            >
          </button>
          <Button size="small" type="text" :aria-label="`Change ${one.name}`" @click="editing = { record: one }"
            >✎</Button
          >
        </li>
      </ul>
    </section>
    <section class="catalogue" aria-label="Catalogue">
      <div class="filters">
        <label class="unseen" for="search-words">Search the catalogue</label
        ><Input
          id="search-words"
          v-model:value="words"
          placeholder="Search: NGC 253, M 42, Coalsack, Sh2-155 …"
          allow-clear />
        <label class="unseen" for="search-kind">Kind</label
        ><Choice
          id="search-kind"
          v-model="kind"
          class="pick"
          :options="[
            { value: '', label: 'every kind' },
            ...(kinds?.kinds ?? []).map((one) => ({ value: one, label: one })),
          ]" />
        <span v-if="found" class="muted number count"
          >{{ found.count.toLocaleString('en-GB') }} {{ found.count === 1 ? 'target' : 'targets' }}</span
        >
      </div>
      <Alert v-if="trouble" type="error" show-icon :message="trouble" />
      <NothingHere
        v-if="found && !found.count"
        words="Nothing of that name. Numbers are found with or without the space; your own can be typed under “New”." />
      <table v-else-if="found">
        <thead>
          <tr>
            <th scope="col">Name</th>
            <th scope="col">Kind</th>
            <th scope="col">Size</th>
            <th scope="col">Surface, mag/arcsec²</th>
            <th scope="col">Shines in</th>
            <th scope="col">From</th>
            <th scope="col"><span class="unseen">Take</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="one in found.items" :key="one.key">
            <th scope="row">
              <b>{{ one.name }}</b><small class="muted"
                >{{ one.constellation }}<template v-if="one.numbers"> · {{ one.numbers }}</template></small
              >
            </th>
            <td>{{ one.kind }}</td>
            <td class="number">{{ sized(one) }}</td>
            <td class="number">
              {{ number(one.surface_mag, 1)
              }}<small class="muted">{{ one.surface_measured ? 'from its magnitude' : 'typical' }}</small>
            </td>
            <td>{{ one.light }}</td>
            <td>
              <small class="muted">{{ ORIGINS[one.origin] }}</small>
            </td>
            <td>
              <Button size="small" :disabled="taken.has(one.key)" :aria-label="`Take ${one.name}`" @click="keep(one)">{{
                taken.has(one.key) ? 'yours' : 'Take'
              }}</Button>
            </td>
          </tr>
        </tbody>
      </table>
      <Pagination
        v-if="found && found.count > SIZE"
        v-model:current="page"
        :total="found.count"
        :page-size="SIZE"
        :show-size-changer="false"
        size="small" />
    </section>
    <TargetEditor
      :open="editing !== null"
      :record="editing?.record ?? null"
      @close="editing = null"
      @kept="(kept) => change({ target: kept.id })" />
    <FilesSheet
      :open="files"
      title="Targets: files in and out"
      noun="targets"
      accept=".csv,.ecsv,.vot,.xml,text/csv"
      :out="OUT"
      out-hint="CSV opens in any spreadsheet; VOTable and ECSV carry units and are read by astronomical programs."
      :in-hint="IN_HINT"
      :take="(given) => answer(api.POST('/api/targets/file', upload(given)))"
      :remove="(id) => answer(api.DELETE('/api/targets/{record_id}', { params: { path: { record_id: id } } }))"
      :changed="() => queries.invalidateQueries()"
      @close="files = false" />
  </section>
</template>

<style scoped>
.targets {
  display: grid;
  grid-template-columns: 340px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.own {
  padding: 8px 10px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
}
header h2 {
  flex: 1;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  max-height: 66vh;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  border-top: 1px solid var(--line);
  padding: 3px 4px;
}
li button:first-child {
  flex: 1;
}
li.current b {
  color: var(--accent);
}
small {
  display: block;
  font-size: 12px;
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 6px;
}
.pick {
  width: 220px;
  flex: none;
}
.count {
  white-space: nowrap;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 13.5px;
  margin-bottom: 8px;
}
th,
td {
  text-align: left;
  padding: 2px 10px 2px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  vertical-align: top;
}
thead th {
  color: var(--muted);
  font-size: 12.5px;
}
th small {
  max-width: 330px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 900px) {
  .targets {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
