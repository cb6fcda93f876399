<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { useBench } from '@/composables/useBench'
import PowerLanes from '@/instruments/PowerLanes.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'
import { useContext } from '@/composables/useContext'
import NothingHere from '@/parts/NothingHere.vue'
import NightWeather from '@/parts/NightWeather.vue'

const props = defineProps<{ hand: ReturnType<typeof useBench> }>()
const emit = defineEmits<{ weather: [] }>()
const { night } = useContext()
const key = ref<string | null>(null)
const topic = ref('Power')
const power = computed(() => props.hand.bench.value?.power ?? null)
const verdicts = computed(() =>
  (props.hand.bench.value?.verdicts ?? []).filter((one) => one.topic === 'Power' || one.topic === 'Dew'),
)
</script>

<template>
  <NothingHere v-if="!hand.record.value" words="No rig chosen. Choose one above." />
  <NothingHere
    v-else-if="hand.bench.value && !power"
    words="Choose a place and a night above; the hours come from them." />
  <template v-else-if="power">
    <section class="panel lanes">
      <PowerLanes :power="power" />
      <NightWeather />
      <Button size="small" @click="emit('weather')">Type the weather of this night</Button>
    </section>
    <div class="cards">
      <VerdictCard
        v-for="one in verdicts"
        :key="one.topic"
        :verdict="one"
        :night="night ?? ''"
        show-limits
        @working="
          (at) => {
            topic = one.topic
            key = at
          }
        " />
    </div>
  </template>
  <WorkingDrawer
    :verdict="key === null ? null : (verdicts.find((one) => one.topic === topic) ?? null)"
    :focus="key ?? ''"
    @close="key = null" />
</template>

<style scoped>
.lanes {
  padding: 10px 14px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.lanes .ant-btn {
  align-self: flex-start;
}
.cards {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
@media (max-width: 900px) {
  .cards {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
