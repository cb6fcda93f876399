<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { Alert } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import { useTonight } from '@/composables/useTonight'
import { useRefresh } from '@/composables/useRefresh'
import ContextDesk from '@/parts/ContextDesk.vue'
import FileButton from '@/parts/FileButton.vue'
import NothingChosen from '@/parts/NothingChosen.vue'
import NothingHere from '@/parts/NothingHere.vue'

import { readEvents } from './readEvents'
import TakeAlong from './TakeAlong.vue'
import WhatCameBack from './WhatCameBack.vue'

/** The field at the desk: take the night along, and see what came back. */
const { spot, night } = useContext()
const { refusal, settled, refetch: again } = useTonight()
const refresh = useRefresh()
const asked = computed(() => (spot.value && night.value ? { spot: spot.value, night: night.value } : null))
const { data: told, error } = useQuery({
  queryKey: ['field', asked],
  queryFn: () => answer(api.GET('/api/nights/field', { params: { query: asked.value ?? { spot: 0, night: '' } } })),
  enabled: computed(() => asked.value !== null),
  refetchInterval: 15_000,
})
const { data: reach } = useQuery({
  queryKey: ['field', 'reach', computed(() => told.value?.night ?? null)],
  queryFn: () =>
    answer(api.GET('/api/nights/{record_id}/reach', { params: { path: { record_id: told.value?.night ?? 0 } } })),
  enabled: computed(() => !!told.value?.night),
})
const trouble = computed(() => (error.value instanceof Refusal ? error.value.message : ''))
const read = ref('')
const failed = ref('')

async function takeFile(files: File[]) {
  const file = files[0]
  if (!file || !told.value?.night) return
  read.value = failed.value = ''
  try {
    read.value = await readEvents(told.value.night, file)
    await refresh()
  } catch (wrong) {
    failed.value = wrong instanceof Error ? wrong.message : String(wrong)
  }
}
</script>

<template>
  <main class="page">
    <h1 class="unseen">Field</h1>
    <ContextDesk :refusal="refusal" :settled="settled" @retry="again()" />
    <NothingChosen v-if="!asked" />
    <Alert v-else-if="trouble" type="error" show-icon :message="trouble" />
    <template v-else-if="told">
      <NothingHere
        v-if="!told.planned && !told.events"
        :words="`Nothing is planned for the night of ${dateWords(night, 'whole')}. Plan a run first, then take the night along.`">
        <RouterLink :to="{ name: 'tonight', query: $route.query }">Plan it on Tonight</RouterLink>
      </NothingHere>
      <div v-else class="sides">
        <TakeAlong v-if="reach && told.night" :night="told.night" :reach="reach" />
        <section class="panel box" aria-label="What came back">
          <header>
            <h2>What came back</h2>
            <FileButton
              label="Read events from a file"
              words="Read from a file"
              accept=".json,.html"
              small
              @files="takeFile" />
          </header>
          <p v-if="read" role="status">{{ read }}</p>
          <Alert v-if="failed" type="error" show-icon closable :message="failed" @close="failed = ''" />
          <WhatCameBack :told="told" />
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
.page {
  padding: 12px 16px;
}
.sides {
  display: grid;
  grid-template-columns: minmax(320px, 5fr) 6fr;
  gap: 14px;
  align-items: start;
  margin-top: 12px;
}
.box {
  padding: 14px 16px;
  display: grid;
  gap: 10px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
}
@media (max-width: 820px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
