<script setup lang="ts">
import { Alert, Spin } from 'ant-design-vue'
import { ref } from 'vue'

import { useContext } from '@/composables/useContext'
import { useYear } from '@/composables/useNights'
import YearColumns from '@/instruments/YearColumns.vue'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** The year of the target in hand, from the spot in hand. */
const { change } = useContext()
const { data, refusal, isFetching } = useYear()
const shown = ref<string | null>(null)
</script>

<template>
  <section class="season">
    <Alert v-if="refusal && !data" type="error" show-icon :message="refusal.message" />
    <Spin v-if="!data && !refusal" tip="Going through the year…"><div class="hold" /></Spin>
    <template v-if="data">
      <VerdictBrief :verdict="data.verdict" @working="(key) => (shown = key)" />
      <YearColumns :year="data" :stale="isFetching" @pick="(night) => change({ night })" />
    </template>
    <WorkingDrawer
      :verdict="shown === null ? null : (data?.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.season {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.hold {
  min-height: 300px;
}
</style>
