<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'

import { answer, api } from '@/api/client'
import { useContext } from '@/composables/useContext'
import { useRefresh } from '@/composables/useRefresh'
import { useRefused } from '@/composables/useRefused'
import { useTonight } from '@/composables/useTonight'

import FileButton from './FileButton.vue'

/** A forecast out of a file, for where no service tells one, or a better one is at hand. */
const { spot, night } = useContext()
const { tonight } = useTonight()
const refresh = useRefresh()
const { busy, faults, attempt } = useRefused()
const query = computed(() => (spot.value && night.value ? { spot: spot.value, night: night.value } : null))
const standing = computed(() => tonight.value?.weather?.state === 'file')
const bring = ([file]: File[]) =>
  attempt(async () => {
    if (!query.value || !file) return
    const form = new FormData()
    form.append('file', file)
    const body = { file: file as unknown as string }
    await answer(api.POST('/api/nights/forecast', { params: { query: query.value }, body, bodySerializer: () => form }))
    await refresh()
  })
const remove = () =>
  attempt(async () => {
    if (!query.value) return
    await answer(api.DELETE('/api/nights/forecast', { params: { query: query.value } }))
    await refresh()
  })
</script>

<template>
  <div v-if="query" class="forecast">
    <FileButton
      small
      label="Forecast of this night from a file"
      words="Forecast from a file"
      accept=".json,.covjson,application/json"
      :disabled="busy"
      @files="bring" />
    <span v-if="standing" class="muted">{{ tonight?.weather.source }} is used.</span>
    <Button v-if="standing" size="small" :disabled="busy" @click="remove">Remove it</Button>
    <span v-else class="muted">CoverageJSON, with the CF standard names of each quantity</span>
    <p v-for="fault in faults" :key="fault.message" class="wrong" role="alert">{{ fault.message }}</p>
  </div>
</template>

<style scoped>
.forecast {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
  font-size: 13px;
}
.wrong {
  color: var(--stop);
  width: 100%;
}
</style>
