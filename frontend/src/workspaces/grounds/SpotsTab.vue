<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useContext } from '@/composables/useContext'
import { useSpots } from '@/composables/useNights'
import VerdictBrief from '@/parts/VerdictBrief.vue'
import { lengthWords } from '@/instruments/lengths'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** The spots of one place: what each leaves to each target of the night. */
const { spot, change } = useContext()
const { data, refusal } = useSpots()
const shown = ref<string | null>(null)
const longest = computed(() =>
  Math.max(1, ...(data.value?.comparison.rows ?? []).flatMap((row) => row.times.map((time) => time.minutes))),
)
</script>

<template>
  <section class="spots panel">
    <Alert v-if="refusal && !data" type="error" show-icon :message="refusal.message" />
    <Spin v-if="!data && !refusal" tip="Standing everywhere…"><div class="hold" /></Spin>
    <template v-if="data">
      <VerdictBrief class="verdict" :verdict="data.comparison.verdict" @working="(key) => (shown = key)" />
      <table>
        <thead>
          <tr>
            <th scope="col">Usable tonight</th>
            <th v-for="(name, place) in data.comparison.spots" :key="data.ids[place]" scope="col">
              {{ name }}
              <Button v-if="data.ids[place] !== spot" size="small" @click="change({ spot: data.ids[place] ?? 0 })"
                >Stand here</Button
              ><span v-else class="muted"> you stand here</span>
            </th>
            <th scope="col">Wins</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in data.comparison.rows" :key="row.target">
            <th scope="row">{{ row.target }}</th>
            <td v-for="(time, place) in row.times" :key="place" :class="{ best: row.best === place }">
              <span class="bar" aria-hidden="true"><i :style="{ width: `${(100 * time.minutes) / longest}%` }" /></span>
              <span class="number"
                ><b>{{ time.words }}</b
                ><span v-if="row.best === place"> · best</span></span
              ><small class="muted number">{{ time.runs }}</small>
            </td>
            <td class="number">
              {{ row.best === null ? 'no difference' : lengthWords(row.wins_minutes * 60) }}
            </td>
          </tr>
        </tbody>
        <tfoot v-if="data.comparison.rows.length > 1">
          <tr>
            <th scope="row">All together</th>
            <td v-for="(time, place) in data.comparison.totals" :key="place" class="number">{{ time.words }}</td>
            <td />
          </tr>
        </tfoot>
      </table>
      <p class="muted">The targets are those of the night; choose them under Nights.</p>
    </template>
    <WorkingDrawer
      :verdict="shown === null ? null : (data?.comparison.verdict ?? null)"
      :focus="shown ?? ''"
      @close="shown = null" />
  </section>
</template>

<style scoped>
.spots {
  padding: 12px 16px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.verdict {
  border: 0;
  padding: 0;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th,
td {
  text-align: left;
  padding: 6px 12px 6px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
  vertical-align: top;
}
thead th {
  font-weight: 600;
}
td small {
  display: block;
  font-size: 12px;
}
.bar {
  display: block;
  height: 8px;
  width: 180px;
  max-width: 100%;
  background: var(--raised);
  border-radius: 4px;
  margin-bottom: 3px;
}
.bar i {
  display: block;
  height: 8px;
  border-radius: 4px;
  background: var(--muted);
}
.best .bar i {
  background: var(--accent);
}
.hold {
  min-height: 200px;
}
</style>
