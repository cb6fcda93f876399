<script setup lang="ts">
import { Alert, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useContext } from '@/composables/useContext'
import { useAlignments, useNeed } from '@/composables/usePole'
import ErrorCross from '@/instruments/ErrorCross.vue'
import MethodReach from '@/instruments/MethodReach.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import VerdictLines from '@/parts/VerdictLines.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** What accuracy this rig, sub and target need, and the quickest way here that reaches it. */
const { data, refusal } = useNeed()
const { night } = useContext()
const alignments = useAlignments()
const route = useRoute()
const router = useRouter()
const shown = ref<{ topic: string; key: string } | null>(null)
const verdicts = computed(() => (data.value ? [data.value.need.verdict, data.value.at_target] : []))
const errors = computed(() => alignments.value.flatMap((one) => one.error ?? []).reverse())
const SIDES: Record<string, string> = {
  rough: 'pole-rough',
  sight: 'pole-scope',
  scope: 'pole-scope',
  drift: 'pole-drift',
  photographs: 'pole-photographs',
}
const go = (key: string) => router.push({ name: SIDES[key] ?? 'pole', query: route.query })
</script>

<template>
  <Alert v-if="refusal && !data" type="error" show-icon :message="refusal.message" />
  <Spin v-if="!data && !refusal" tip="Working out what is needed…"><div class="hold" /></Spin>
  <section v-if="data" class="need">
    <VerdictLines :verdicts="verdicts" @working="(topic) => (shown = { topic, key: '' })" />
    <div class="left">
      <div class="panel">
        <MethodReach
          :rows="data.need.rows"
          :tolerance-arcmin="data.need.tolerance_arcmin"
          :advised="data.need.advised"
          @pick="go" />
      </div>
      <div class="cards">
        <VerdictCard
          v-for="one in verdicts"
          :key="one.topic"
          :verdict="one"
          :night="night ?? ''"
          @working="(key) => (shown = { topic: one.topic, key })" />
      </div>
    </div>
    <div class="panel right">
      <ErrorCross :errors="errors" :tolerance-arcmin="data.need.tolerance_arcmin" :south="data.south" />
    </div>
  </section>
  <WorkingDrawer
    :verdict="verdicts.find((one) => one.topic === shown?.topic) ?? null"
    :focus="shown?.key ?? ''"
    @close="shown = null" />
</template>

<style scoped>
.need {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  gap: 8px;
  align-items: start;
}
.left,
.cards {
  display: grid;
  gap: 8px;
}
.cards {
  grid-template-columns: 1fr 1fr;
}
.right {
  padding: 8px;
}
.hold {
  min-height: 160px;
}
@media (max-width: 1000px) {
  .need,
  .cards {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
