<script setup lang="ts">
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { Alert, Button, Pagination, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answer, api, Refusal, type Asked, type Schemas } from '@/api/client'
import { number } from '@/composables/figures'
import { useTake } from '@/composables/useCatalogue'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import NothingHere from '@/parts/NothingHere.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** Two to four objects that this lens holds in one frame tonight; one press frames them. */
const SIZE = 12
const MOST_NAME = 110
const { context, choices } = useContext()
const router = useRouter()
const route = useRoute()
const queries = useQueryClient()
const take = useTake()
const { faults, busy, attempt } = useFaults()
const page = ref(1)
watch([context, choices], () => (page.value = 1))
const asked = computed(() =>
  context.value ? { choices: choices.value, ...context.value, limit: SIZE, offset: (page.value - 1) * SIZE } : null,
)
const { data, error, isFetching } = useQuery({
  queryKey: ['together', asked],
  queryFn: () =>
    answer(api.GET('/api/nights/together', { params: { query: asked.value as Asked<'/api/nights/together'> } })),
  enabled: computed(() => asked.value !== null),
  placeholderData: keepPreviousData,
})
const told = computed(() => [
  ...Object.values(faults.value),
  ...(error.value instanceof Refusal ? [error.value.message] : []),
])
const opened = ref<Schemas['Verdict'] | null>(null)
const hours = (minutes: number) => `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, '0')}`

/** The worthiest becomes the target, the frame that holds all its framing. */
const frame = (one: Schemas['GroupOut']) =>
  attempt(async () => {
    const target = await take(one.keys[0] ?? '')
    const kept = await answer(
      api.POST('/api/framings', {
        body: {
          name: one.names.join(', ').slice(0, MOST_NAME),
          target: target.id,
          ra_deg: one.ra_deg,
          dec_deg: one.dec_deg,
          angle_deg: one.angle_deg,
          columns: 1,
          rows: 1,
          overlap: 0.2,
          grid: 'turned',
          wanted: one.subjects,
        },
      }),
    )
    await queries.invalidateQueries({ queryKey: ['framings'] })
    await router.push({
      name: 'framing',
      query: { ...route.query, target: String(target.id), framing: String(kept.id) },
    })
  })
</script>

<template>
  <div class="together">
    <Alert v-if="told.length" type="error" show-icon
      ><template #message
        ><p v-for="message in told" :key="message">{{ message }}</p></template
      ></Alert
    >
    <Spin v-if="!data && !told.length" tip="Trying frames…"><div class="hold" /></Spin>
    <NothingHere
      v-else-if="data && !data.count"
      words="No two worthwhile objects fit one frame of this lens tonight. A shorter focal length may hold some." />
    <table v-else-if="data" class="rows" :class="{ stale: isFetching }">
      <thead>
        <tr>
          <th scope="col">Worth</th>
          <th scope="col">What fits together</th>
          <th scope="col">Usable</th>
          <th scope="col">To spare</th>
          <th scope="col"><span class="unseen">Frame</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in data.items" :key="one.keys.join(' ')">
          <td class="number">
            <button
              type="button"
              class="plain open"
              :aria-label="`Worth ${number(one.worth, 0)}. Open the working`"
              @click="opened = one.verdict">
              {{ number(one.worth, 0) }}
            </button>
          </td>
          <th scope="row">{{ one.names.join(' + ') }}</th>
          <td class="number">{{ hours(one.usable_min) }}</td>
          <td class="number">{{ number(one.margin_deg, 2) }}°, {{ number(one.margin_percent, 0) }} %</td>
          <td>
            <Button size="small" :loading="busy" :aria-label="`Frame ${one.names.join(' and ')}`" @click="frame(one)"
              >Frame them</Button
            >
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="data && data.count > SIZE" class="pages">
      <Pagination
        v-model:current="page"
        :total="data.count"
        :page-size="SIZE"
        :show-size-changer="false"
        size="small" />
    </div>
    <WorkingDrawer :verdict="opened" focus="together" @close="opened = null" />
  </div>
</template>

<style scoped>
.together {
  display: grid;
  gap: 8px;
}
.stale {
  opacity: 0.7;
}
.open {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.hold {
  min-height: 200px;
}
</style>
