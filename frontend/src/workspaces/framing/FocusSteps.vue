<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useExposure } from '@/composables/useExposure'
import { lengthWords } from '@/instruments/lengths'

/** Focus on a bright star, then from a short bright exposure down to the real one; what to try when nothing shows. */
const route = useRoute()
const { data } = useExposure()
const ladder = computed(() => data.value?.ladder ?? [])
</script>

<template>
  <details class="panel focus">
    <summary>Focus, and from the first test to the real exposure</summary>
    <ol>
      <li>Live view on the bright star above, at the highest magnification; turn until it is smallest.</li>
      <li>
        Nothing to see? The cap is on; or ISO and time are too low; or it is far out of focus: set it on a distant light
        first.
      </li>
      <li>Tape the ring. Look again when the air has cooled by a few degrees.</li>
    </ol>
    <p v-if="ladder.length" class="number">
      {{ ladder.map((one) => `ISO ${one.iso} × ${lengthWords(one.exposure_s)}`).join(' = ') }}
    </p>
    <p><RouterLink :to="{ name: 'exposure-card', query: route.query }">The card of this night</RouterLink></p>
  </details>
</template>

<style scoped src="./folded.css"></style>
<style scoped>
.focus {
  padding: 8px 12px;
  font-size: 13px;
}
ol {
  margin: 4px 0;
  padding-left: 20px;
}
</style>
