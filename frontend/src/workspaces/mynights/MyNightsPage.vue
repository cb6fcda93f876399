<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Alert, Button, Pagination, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import { dateWords } from '@/composables/dates'
import NothingHere from '@/parts/NothingHere.vue'

/** Every night, upcoming and past: planned against done, and the way into each. */
const SIZE = 20
const page = ref(1)
const router = useRouter()
const query = computed(() => ({ limit: SIZE, offset: (page.value - 1) * SIZE }))
const {
  data: nights,
  error,
  refetch,
} = useQuery({
  queryKey: ['nights', 'list', query],
  queryFn: () => answer(api.GET('/api/nights', { params: { query: query.value } })),
  placeholderData: keepPreviousData,
})
type NightLine = Schemas['NightLine']
const sections = computed(() =>
  [
    { name: 'Upcoming', lines: (nights.value?.items ?? []).filter((line) => line.coming) },
    { name: 'Past', lines: (nights.value?.items ?? []).filter((line) => !line.coming) },
  ].filter((section) => section.lines.length),
)
const nightWay = ({ spot, night, rig, target }: NightLine) => ({
  name: 'mynights-night',
  query: { ...(rig ? { rig } : {}), ...(spot ? { spot } : {}), night, ...(target ? { target } : {}) },
})
const message = computed(() => (error.value instanceof Refusal ? error.value.message : ''))
const hours = (value: number) => `${value.toFixed(1)} h`
</script>

<template>
  <main class="page">
    <header>
      <h1>My nights</h1>
      <Button type="primary" @click="router.push({ name: 'tonight' })">Plan a night</Button>
    </header>
    <Alert v-if="message" type="error" show-icon :message="message"
      ><template #action><Button size="small" @click="refetch()">Try again</Button></template></Alert
    >
    <Spin v-else-if="!nights" tip="Loading your nights…"><div class="hold" /></Spin>
    <NothingHere v-else-if="!nights.count" words="No nights yet. Plan one under Tonight, then press Save." />
    <section v-for="section in sections" v-else :key="section.name" :aria-label="section.name">
      <h2>{{ section.name }}</h2>
      <table class="nights panel">
        <thead>
          <tr>
            <th scope="col">Night</th>
            <th scope="col">Targets</th>
            <th scope="col" class="figure">Runs done</th>
            <th scope="col" class="figure">Frames planned</th>
            <th scope="col" class="figure">Shot</th>
            <th scope="col" class="figure">Kept</th>
            <th scope="col" class="figure">Hours kept</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in section.lines" :key="`${line.spot} ${line.night}`">
            <th scope="row">
              <RouterLink :to="nightWay(line)" class="name">{{ dateWords(line.night, 'whole') }}</RouterLink>
              <small class="muted">{{ line.spot_name || 'Place unknown' }}</small>
            </th>
            <td data-label="Targets">
              {{ line.targets.join(', ') || '–' }}<small class="muted">{{ line.rigs.join(', ') }}</small>
            </td>
            <td class="figure" data-label="Runs done">{{ line.done }} of {{ line.runs }}</td>
            <td class="figure" data-label="Frames planned">
              {{ line.frames_planned || '–' }}<small v-if="line.hours_planned">{{ hours(line.hours_planned) }}</small>
            </td>
            <td class="figure" data-label="Shot">{{ line.frames || '–' }}</td>
            <td class="figure" data-label="Kept">{{ line.kept || '–' }}</td>
            <td class="figure" data-label="Hours kept">{{ line.hours ? hours(line.hours) : '–' }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <Pagination
      v-if="nights && nights.count > SIZE"
      v-model:current="page"
      :total="nights.count"
      :page-size="SIZE"
      :show-size-changer="false" />
  </main>
</template>

<style scoped src="./nights.css"></style>
