<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useTonight } from '@/composables/useTonight'
import DuskStrip from '@/instruments/DuskStrip.vue'

import ContextDesk from './ContextDesk.vue'
import NothingChosen from './NothingChosen.vue'
import WorkTabs from './WorkTabs.vue'

/** What every workspace shares: the desk, its sides, the night's strip, and what to say until there is a night. */
const props = withDefaults(
  defineProps<{
    label: string
    tabs: readonly { name: string; label: string }[]
    /** The strip below the tabs, across the whole width, instead of beside them. */
    across?: boolean
    /** The strip at its full height, with the planned frames on it. */
    tall?: boolean
    lacking?: boolean
    /** A side has a sheet of its own for the printer; else the page itself is printed. */
    ownSheet?: boolean
  }>(),
  { across: false, tall: false, lacking: false, ownSheet: false },
)
const route = useRoute()
const heading = computed(() =>
  [route.meta.title, props.tabs.find((one) => one.name === route.name)?.label].filter(Boolean).join(': '),
)
const { tonight, now, refusal, isFetching, refetch, settled } = useTonight()
const programme = () => (tonight.value ? `${tonight.value.card.frames} × ${tonight.value.card.exposure_s} s` : '')
</script>

<template>
  <main class="page">
    <h1 class="unseen">{{ heading }}</h1>
    <div class="stack" :class="{ screen: ownSheet }">
      <slot name="desk"><ContextDesk :refusal="refusal" :settled="settled" @retry="refetch()" /></slot>
      <div class="head" :class="{ across: across || tall }">
        <WorkTabs :label="label" :tabs="tabs" />
        <DuskStrip
          v-if="tonight && (!refusal || tall)"
          :key="String(tall)"
          :slim="!tall"
          :strip="tonight.strip"
          :cues="tonight.cues"
          :now="now"
          :programme="tall ? programme() : ''"
          :stale="isFetching || !!refusal" />
      </div>
      <NothingChosen v-if="lacking" />
      <slot v-else :tonight="tonight ?? null" :refusal="refusal" />
    </div>
  </main>
</template>

<style scoped>
.page {
  min-width: 0;
}
.stack {
  display: flex;
  flex-direction: column;
  gap: 6px;
  padding: 8px 12px 12px;
  min-width: 0;
  box-sizing: border-box;
  min-height: 100vh;
}
.head {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 14px;
  align-items: end;
}
.head.across {
  grid-template-columns: minmax(0, 1fr);
  gap: 4px;
}
@media (max-width: 820px) {
  .stack {
    padding: 6px 6px 10px;
  }
  .head {
    grid-template-columns: minmax(0, 1fr);
    gap: 4px;
  }
}
</style>
