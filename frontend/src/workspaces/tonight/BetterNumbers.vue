<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'

import { answer, api, type Asked, type Schemas } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'

/** Which typical value would change a verdict most, were it one's own, and where to give it. Empty when all are. */
const { context, choices } = useContext()
const asked = computed(() => (context.value ? { ...context.value, choices: choices.value as Choices } : null))
const { data } = useQuery({
  queryKey: ['better', asked],
  queryFn: () =>
    answer(api.GET('/api/tonight/better', { params: { query: asked.value as Asked<'/api/tonight/better'> } })),
  enabled: computed(() => asked.value !== null),
})
const WHERE = { part: 'bench-parts', 'my camera': 'exposure-camera', 'test picture': 'exposure-test' } as const
const ASSUMED = {
  horizon: { words: 'Draw what stands in the way', name: 'grounds' },
  elevation: { words: 'Give the elevation', name: 'grounds-places' },
} as const
const where = (one: Schemas['Better'], query: object) => ({
  name: WHERE[one.where],
  query: one.where === 'part' ? { ...query, part: one.part } : { ...query },
})
</script>

<template>
  <section v-if="data && (data.better.length || data.assumed.length)" class="panel better" aria-label="Better numbers">
    <h2>Better numbers</h2>
    <ul v-if="data.assumed.length" class="assumed" aria-label="Assumed">
      <li v-for="one in data.assumed" :key="one.key">
        <b>Assumed</b>: {{ one.what }}
        <RouterLink :to="{ name: ASSUMED[one.key].name, query: $route.query }">{{ ASSUMED[one.key].words }}</RouterLink>
      </li>
    </ul>
    <p v-if="data.better.length" class="muted">Some values are typical of their class. Your own would change most:</p>
    <ul v-if="data.better.length">
      <li v-for="one in data.better" :key="one.topic">
        <b>{{ one.topic }}</b>: <RouterLink :to="where(one, $route.query)">{{ one.what }}</RouterLink>
        <span class="number ends">{{ one.low }} … {{ one.high }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.better {
  padding: 8px 12px;
  font-size: 13px;
}
h2 {
  font-size: 14px;
  color: var(--accent);
}
.ends {
  margin-left: 0.6em;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
li {
  padding: 2px 0;
}
</style>
