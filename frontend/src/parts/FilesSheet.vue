<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue'
import { ref, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { saveFile } from '@/composables/useFiles'
import { useRefused } from '@/composables/useRefused'
import { offerUndo } from '@/composables/useUndo'

import FileButton from './FileButton.vue'
import SideSheet from './SideSheet.vue'

/** Records to files and from files, for any noun: which calls to make is told by whoever opens it. */
const props = defineProps<{
  open: boolean
  title: string
  noun: string
  accept: string
  outHint: string
  inHint: string
  out: { label: string; fetch: () => Promise<Schemas['FileOut']> }[]
  take: (file: File) => Promise<Schemas['AddedOut']>
  remove: (id: number) => Promise<unknown>
  changed: () => Promise<unknown>
}>()
const emit = defineEmits<{ close: [] }>()

const { busy, faults, attempt: refusable } = useRefused()
const taken = ref<Schemas['AddedOut'] | null>(null)
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

async function chosen(file: File) {
  await attempt(async () => {
    const done = await props.take(file)
    taken.value = done
    await props.changed()
    if (!done.added.length) return
    offerUndo(`Added ${done.added.length} ${props.noun}.`, async () => {
      for (const { id } of done.added) await props.remove(id)
      taken.value = null
      await props.changed()
    })
  })
}
</script>

<template>
  <SideSheet :open="open" :width="480" :title="title" @close="emit('close')">
    <h3>Out</h3>
    <p class="muted">{{ outHint }}</p>
    <div class="acts">
      <Button
        v-for="one in out"
        :key="one.label"
        :disabled="busy"
        @click="attempt(async () => saveFile(await one.fetch()))"
        >{{ one.label }}</Button
      >
    </div>
    <h3>In</h3>
    <p class="muted">{{ inHint }}</p>
    <FileButton
      label="File"
      words="Choose a file"
      :accept="accept"
      :disabled="busy"
      @files="([file]) => file && chosen(file)" />
    <Alert
      v-if="taken"
      type="success"
      show-icon
      role="status"
      :message="`${
        taken.added.length
          ? `Added: ${taken.added
              .map((one) => one.name)
              .slice(0, SHOWN)
              .join(', ')}${taken.added.length > SHOWN ? ' and more' : ''}.`
          : 'Nothing new.'
      }${taken.there ? ` ${taken.there} were here already.` : ''}`" />
    <Alert v-if="faults.length" type="error" show-icon>
      <template #message>
        <p>Nothing was imported.</p>
        <ul>
          <li v-for="(fault, place) in faults.slice(0, SHOWN)" :key="place">
            <b v-if="fault.field && fault.field !== 'file'">{{ fault.field }}: </b>{{ fault.message }}
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
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
}
</style>
