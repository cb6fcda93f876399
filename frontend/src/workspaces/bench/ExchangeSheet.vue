<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Alert, Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { answer, api, type Schemas } from '@/api/client'
import { saveFile, upload } from '@/composables/useFiles'
import { useRefused } from '@/composables/useRefused'
import { offerUndo } from '@/composables/useUndo'
import FileButton from '@/parts/FileButton.vue'
import SideSheet from '@/parts/SideSheet.vue'

/** Inventory and rigs to files, and from files. */
const props = defineProps<{ open: boolean }>()
const emit = defineEmits<{ close: [] }>()
const queries = useQueryClient()
const { busy, faults, attempt: refusable } = useRefused()
const taken = ref<Schemas['TakenOut'] | null>(null)
watch(
  () => props.open,
  () => {
    faults.value = []
    taken.value = null
  },
)
const SHOWN = 12

/** What came in last is no longer the matter once something new is tried. */
function attempt(work: () => Promise<void>) {
  taken.value = null
  return refusable(work)
}

const save = (what: 'kit.json' | 'parts.csv' | 'rigs.csv') =>
  attempt(async () => {
    saveFile(await answer(api.GET('/api/exchange/{what}', { params: { path: { what } } })))
  })

async function take(file: File) {
  await attempt(async () => {
    const done = await answer(api.POST('/api/exchange', upload(file)))
    taken.value = done
    await queries.invalidateQueries()
    if (done.parts.length || done.rigs.length)
      offerUndo(`Added ${done.parts.length} parts and ${done.rigs.length} rigs.`, () => takeBack(done))
  })
}
/** Rigs first: a part that a rig uses stays. */
async function takeBack(done: Schemas['TakenOut']) {
  for (const { id } of done.rigs)
    await answer(api.DELETE('/api/rigs/{record_id}', { params: { path: { record_id: id } } }))
  for (const { id } of done.parts)
    await answer(api.DELETE('/api/parts/{record_id}', { params: { path: { record_id: id } } }))
  taken.value = null
  await queries.invalidateQueries()
}
const named = (added: Schemas['Added'][]) => added.map((one) => one.name).join(', ')
</script>

<template>
  <SideSheet :open="open" :width="480" title="Files in and out" @close="emit('close')">
    <h3>Out</h3>
    <p class="muted">One JSON file holds everything; the tables open in any spreadsheet.</p>
    <div class="acts">
      <Button :disabled="busy" @click="save('kit.json')">All, as JSON</Button>
      <Button :disabled="busy" @click="save('parts.csv')">Parts, as CSV</Button>
      <Button :disabled="busy" @click="save('rigs.csv')">Rigs, as CSV</Button>
    </div>
    <h3>In</h3>
    <p class="muted">
      A JSON or CSV file of the same shape, up to 1 MB and 2,000 rows. What you have is never overwritten; another thing
      of the same name gets a number.
    </p>
    <FileButton
      label="File"
      words="Choose a file"
      accept=".json,.csv,text/csv,application/json"
      :disabled="busy"
      @files="([file]) => file && take(file)" />
    <Alert v-if="taken" type="success" show-icon role="status">
      <template #message>
        <p v-if="taken.parts.length">Parts added: {{ named(taken.parts) }}.</p>
        <p v-if="taken.rigs.length">Rigs added: {{ named(taken.rigs) }}.</p>
        <p v-if="taken.there">{{ taken.there }} were here already.</p>
        <p v-if="taken.renamed.length">Under another name: {{ taken.renamed.join('; ') }}.</p>
      </template>
    </Alert>
    <Alert v-if="faults.length" type="error" show-icon>
      <template #message>
        <p>
          Nothing was imported. {{ faults.length === 1 ? 'One thing is' : `${faults.length} things are` }} wrong with
          this file:
        </p>
        <ul>
          <li v-for="(fault, place) in faults.slice(0, SHOWN)" :key="place">
            <b v-if="fault.field !== 'file'">{{ fault.field }}: </b>{{ fault.message }}
          </li>
        </ul>
        <p v-if="faults.length > SHOWN">and {{ faults.length - SHOWN }} more.</p>
      </template>
    </Alert>
  </SideSheet>
</template>

<style scoped>
h3 {
  font-size: 14px;
  margin: 14px 0 4px;
  color: var(--accent);
}
.acts {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
</style>
