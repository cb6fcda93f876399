<script setup lang="ts">
import { ref } from 'vue'

import type { Schemas } from '@/api/client'
import { useFaults } from '@/composables/useFaults'
import { theFraming } from '@/composables/useFraming'

import ChartPane from './ChartPane.vue'
import WantedPanel from './WantedPanel.vue'

/** What shall be in the picture; the server finds the frame that holds it all. */
const framing = theFraming()
const composed = ref<Schemas['ComposedOut'] | null>(null)
const { busy, faults, attempt } = useFaults()
async function compose(turn: Schemas['ComposeIn']['turn'], hold: Schemas['ComposeIn']['hold']) {
  composed.value = null
  await attempt(async () => {
    composed.value = await framing.compose(turn, hold)
  })
}
</script>

<template>
  <section class="beside still">
    <ChartPane />
    <div class="column">
      <WantedPanel :composed="composed" :busy="busy" :faults="faults" @compose="compose" />
    </div>
  </section>
</template>

<style scoped src="./beside.css"></style>
