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
  data: nights,
  error,
  refetch,
} = useQuery({
  queryKey: ['plans', 'nights', asked],
  queryFn: () => answer(api.GET('/api/nights/list', { params: { query: asked.value } })),
  placeholderData: keepPreviousData,
})
type Line = Schemas['NightLine']
const parts = computed(() =>
  [
    { name: 'To come', lines: (nights.value?.items ?? []).filter((one) => one.coming) },
    { name: 'Past', lines: (nights.value?.items ?? []).filter((one) => !one.coming) },
  ].filter((part) => part.lines.length),
)
const openNight = ({ spot, night, whole }: Line) => ({
  name: 'nights-whole',
  query: { rig: whole?.rig, spot, night, target: whole?.target },
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
    <Alert v-if="trouble" type="error" show-icon :message="trouble"
      ><template #action><Button size="small" @click="refetch()">Try again</Button></template></Alert
    >
    <Spin v-else-if="!nights" tip="Fetching your nights…"><div class="hold" /></Spin>
    <NothingHere v-else-if="!nights.count" words="No plan yet. Work out a night under Tonight, then press Save." />
    <section v-for="part in parts" v-else :key="part.name" :aria-label="part.name">
      <h2>{{ part.name }}</h2>
      <ul class="nights">
        <li v-for="one in part.lines" :key="`${one.spot} ${one.night}`" class="panel">
          <p class="night">
            <b class="number">{{ dateWords(one.night, 'whole') }}</b>
            <span class="muted">{{ one.spot_name }}</span>
          </p>
          <ul class="runs">
            <li v-if="one.whole">
              <RouterLink v-if="one.spot" :to="openNight(one)" class="name">Whole night</RouterLink
              ><b v-else>Whole night</b>
              <span
                ><span class="number">{{ one.whole.runs }}</span> {{ one.whole.runs === 1 ? 'run' : 'runs' }},
                <span class="number">{{ one.whole.frames }}</span> frames expected</span
              >
              <span>{{ one.whole.targets.join(', ') }}</span>
              <span class="muted">{{ one.whole.rigs.join(', ') }}</span>
            </li>
            <li v-for="plan in one.plans" :key="plan.id">
              <RouterLink :to="open(plan)" class="name">{{ plan.name }}</RouterLink>
              <span>{{ plan.target_name }}</span>
              <span class="muted">{{ plan.rig_name }}</span>
              <Button size="small" class="off" :aria-label="`Delete the plan ${plan.name}`" @click="remove(plan)"
                >Delete</Button
              >
            </li>
            <li v-if="one.noted">
              <b>Kept</b>
              <span
                ><span class="number">{{ one.noted.frames }}</span> frames,
                <span class="number">{{ one.noted.hours.toFixed(1) }}</span> h</span
              >
              <span>{{ one.noted.targets.join(', ') }}</span>
            </li>
          </ul>
        </li>
      </ul>
    </section>
    <Pagination
      v-if="nights && nights.count > SIZE"
      v-model:current="page"
      :total="nights.count"
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
ul {
  list-style: none;
  padding: 0;
  margin: 0;
}
.nights {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 4px 0 16px;
}
.nights > li {
  padding: 8px 16px;
}
.night,
.runs li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}
.runs li {
  padding: 2px 0;
}
.off {
  margin-left: auto;
}
.name {
  font-weight: 600;
}
.hold {
  min-height: 160px;
}
@media (max-width: 820px) {
  .name {
    min-height: 44px;
    display: inline-flex;
    align-items: center;
  }
}
</style>
