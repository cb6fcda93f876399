<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Verdict } from '@/composables/useTonight'

/** For those who hear the page: what changed among the verdicts, once hand and figures rest; not at every step of a drag. */
const props = defineProps<{ verdicts: Pick<Verdict, 'topic' | 'sentence'>[] }>()
const SETTLE_MS = 900
const now = computed(() => props.verdicts.map((one) => `${one.topic}: ${one.sentence}`))
const settled = refDebounced(now, SETTLE_MS)
const said = ref('')
watch(settled, (after, before) => (said.value = after.filter((one) => !before.includes(one)).join(' ')))
</script>

<template>
  <p class="unseen" role="status">{{ said }}</p>
</template>
