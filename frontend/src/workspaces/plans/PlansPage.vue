<script setup lang="ts">
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { Alert, Button, Pagination, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import { choicesOut } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { useKeepPlan, type Plan } from '@/composables/useRecords'
import NothingHere from '@/parts/NothingHere.vue'

const SIZE = 20
const page = ref(1)
const router = useRouter()
const { remove } = useKeepPlan()
const asked = computed(() => ({ limit: SIZE, offset: (page.value - 1) * SIZE }))
const {
  data: plans,
  error,
  refetch,
} = useQuery({
  queryKey: ['plans', asked],
  queryFn: () => answer(api.GET('/api/plans', { params: { query: asked.value } })),
  placeholderData: keepPreviousData,
})
const nightPage = ref(1)
const nightsAsked = computed(() => ({ limit: SIZE, offset: (nightPage.value - 1) * SIZE }))
const { data: nights } = useQuery({
  queryKey: ['whole', 'planned', nightsAsked],
  queryFn: () => answer(api.GET('/api/nights/whole/planned', { params: { query: nightsAsked.value } })),
  placeholderData: keepPreviousData,
})
const openNight = ({ rig, spot, night, target }: Schemas['PlannedNightOut']) => ({
  name: 'nights-whole',
  query: { rig, spot, night, target },
})
const trouble = computed(() => (error.value instanceof Refusal ? error.value.message : ''))

const open = ({ id, rig, spot, night, target, framing, choices }: Plan) => ({
  name: 'tonight',
  query: { rig, spot, night, target, ...(framing ? { framing } : {}), plan: id, ...choicesOut(choices) },
})
</script>

<template>
  <main class="page">
    <header>
      <h1>Plans</h1>
      <Button type="primary" @click="router.push({ name: 'tonight' })">Plan a night</Button>
    </header>
    <section v-if="nights?.count" aria-labelledby="whole-nights">
      <h2 id="whole-nights">Whole nights</h2>
      <ul class="plans">
        <li v-for="one in nights.items" :key="`${one.spot} ${one.night}`" class="panel">
          <RouterLink :to="openNight(one)" class="name number">{{ dateWords(one.night, 'whole') }}</RouterLink>
          <span class="number">{{ one.runs }} {{ one.runs === 1 ? 'run' : 'runs' }}</span>
          <span>{{ one.targets.join(', ') }}</span>
          <span class="muted">{{ one.spot_name }}</span>
          <span class="muted">{{ one.rigs.join(', ') }}</span>
        </li>
      </ul>
      <Pagination
        v-if="nights.count > SIZE"
        v-model:current="nightPage"
        :total="nights.count"
        :page-size="SIZE"
        :show-size-changer="false" />
      <h2>One target each</h2>
    </section>
    <Alert v-if="trouble" type="error" show-icon :message="trouble"
      ><template #action><Button size="small" @click="refetch()">Try again</Button></template></Alert
    >
    <Spin v-else-if="!plans" tip="Fetching your plans…"><div class="hold" /></Spin>
    <NothingHere v-else-if="!plans.count" words="No plan yet. Work out a night under Tonight, then press Save." />
    <ul v-else class="plans">
      <li v-for="plan in plans.items" :key="plan.id" class="panel">
        <RouterLink :to="open(plan)" class="name">{{ plan.name }}</RouterLink>
        <span class="number">{{ dateWords(plan.night, 'whole') }}</span>
        <span>{{ plan.target_name }}</span>
        <span class="muted">{{ plan.spot_name }}</span>
        <span class="muted">{{ plan.rig_name }}</span>
        <Button size="small" :aria-label="`Delete the plan ${plan.name}`" @click="remove(plan)">Delete</Button>
      </li>
    </ul>
    <Pagination
      v-if="plans && plans.count > SIZE"
      v-model:current="page"
      :total="plans.count"
      :page-size="SIZE"
      :show-size-changer="false" />
  </main>
</template>

<style scoped>
.page {
  padding: 16px 24px;
  max-width: 1200px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin-bottom: 16px;
}
h2 {
  font-size: 15px;
}
h1 {
  font-size: 22px;
}
.plans {
  list-style: none;
  padding: 0;
  margin: 0 0 16px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.plans li {
  display: grid;
  grid-template-columns: 1.4fr 100px 1.4fr 1.6fr 1.2fr auto;
  gap: 12px;
  align-items: center;
  padding: 10px 16px;
}
.name {
  font-weight: 600;
}
.hold {
  min-height: 160px;
}
</style>
