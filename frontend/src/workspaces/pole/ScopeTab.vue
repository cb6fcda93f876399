<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { useCaution } from '@/composables/useCaution'
import { useContext } from '@/composables/useContext'
import { number } from '@/composables/figures'
import { useScope } from '@/composables/usePole'
import PoleView, { type Reticle } from '@/instruments/PoleView.vue'
import Field from '@/parts/Field.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** What the eye should see in the polar scope, now or later; and what sighting along the axis is worth. */
const { night, choices } = useContext()
const view = ref<'upright' | 'inverted' | 'none' | ''>('')
const pole = ref<'refracted' | 'true'>(choices.value.pole ?? 'refracted')
const later = ref<number | null>(null)
const begun = ref<string | null>(null)
const asked = computed(() => ({
  ...(view.value ? { view: view.value } : {}),
  pole: pole.value,
  ...(at.value ? { at: at.value } : {}),
}))
const at = computed(() =>
  later.value && begun.value ? new Date(Date.parse(begun.value) + later.value * 60_000).toISOString() : null,
)
const { data, refusal } = useScope(asked)
watch(
  data,
  (now) => {
    if (now && !later.value) begun.value = now.now
  },
  { immediate: true },
)
const reticle = ref<Reticle | null>(null)
const drawn = computed<Reticle>(() => reticle.value ?? ((data.value?.reticle ?? '12-hour dial') as Reticle))
const RETICLES = [
  '12-hour dial',
  '24-part dial',
  'degree dial',
  'year rings',
  'two rings',
  'offset mark',
  'southern pattern',
  'none',
].map((value) => ({ value, label: value }))
const shown = ref<string | null>(null)
const rows = computed(() => data.value?.scope.rows ?? [])
const south = computed(() => data.value?.scope.dial.south ?? false)
const { unseen, understood } = useCaution(() => `${night.value} laser`)
</script>

<template>
  <Alert v-if="refusal && !data" type="error" show-icon :message="refusal.message" />
  <Spin v-if="!data && !refusal" tip="Finding the stars near the pole…"><div class="hold" /></Spin>
  <section v-if="data" class="scope">
    <div class="panel eye">
      <Alert
        v-if="data.pole_hidden"
        type="warning"
        show-icon
        :message="data.pole_hidden"
        description="Two photographs need no view of the pole." />
      <PoleView
        :dial="data.scope.dial"
        :turning="data.scope.turning"
        :at="data.scope.at"
        :clock="data.scope.clock"
        :reticle="drawn"
        :rings="data.scope.rings"
        :other-ring-arcmin="data.scope.other_ring_arcmin" />
    </div>
    <div class="beside">
      <div class="panel fields">
        <Field
          :model-value="drawn"
          path="reticle"
          label="Reticle"
          kind="choice"
          :options="RETICLES"
          @update:model-value="(now) => (reticle = now)" />
        <Field
          v-model="view"
          path="view"
          label="The scope shows it"
          kind="choice"
          :options="[
            { value: '', label: 'as noted for the tracker' },
            { value: 'upright', label: 'upright' },
            { value: 'inverted', label: 'turned by half a turn' },
            { value: 'none', label: 'to the naked eye' },
          ]" />
        <Field
          v-model="pole"
          path="pole"
          label="Aim at the pole"
          kind="choice"
          :options="[
            { value: 'refracted', label: 'where it is seen (refracted)' },
            { value: 'true', label: 'where it is (true)' },
          ]" />
        <Field v-model="later" path="later" label="Minutes from now" unit="min" placeholder="now, live" />
      </div>
      <p v-if="south" class="panel note">
        The four stars of Octans are matched as one figure: start at the brightest corner, χ, and find σ nearest the
        pole. In a reticle with two rings the inner and the outer belong to different hemispheres: use the one whose
        figure has four corners.
      </p>
      <VerdictCard :verdict="data.scope.cost" :night="night ?? ''" @working="(key) => (shown = key)" />
      <details class="panel table">
        <summary>Every ten minutes, for the print</summary>
        <table class="number">
          <thead>
            <tr>
              <th scope="col">Time</th>
              <th scope="col">Clock's face</th>
              <th scope="col">24 parts</th>
              <th scope="col">Degrees</th>
              <th scope="col">Out</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in rows" :key="row.moment">
              <td>{{ row.clock }}</td>
              <td>{{ number(row.clock_hours, 2) }} h</td>
              <td>{{ number(row.parts_24, 1) }}</td>
              <td>{{ number(row.degrees, 0) }}°</td>
              <td>{{ number(row.radius_arcmin, 1) }}′</td>
            </tr>
          </tbody>
        </table>
      </details>
      <section class="panel note" aria-label="Sight or laser">
        <h2>Sighting along the body, or a laser</h2>
        <template v-if="unseen">
          <p class="caution">
            Never point a laser near aircraft, vehicles, people or animals. Many places restrict or ban them and forbid
            them near airfields; other people's pictures suffer. Local law decides; if in doubt use the scope or two
            photographs.
          </p>
          <Button size="small" @click="understood">I have read this; go on</Button>
        </template>
        <p v-else>
          Reaches 30′ to 1°. Point the beam or the straight edge so that it ends
          {{ number(data.scope.dial.marks[0]?.radius_arcmin ?? 0, 0) }}′ from {{ data.scope.star }}, on the side of the
          cross above{{ south ? '; no star marks the southern pole, so match the figure' : '' }}. Switch it off as soon
          as it has served.
        </p>
      </section>
    </div>
  </section>
  <WorkingDrawer
    :verdict="shown === null ? null : (data?.scope.cost ?? null)"
    :focus="shown ?? ''"
    @close="shown = null" />
</template>

<style scoped>
.scope {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 470px;
  gap: 8px;
  align-items: start;
}
.eye {
  padding: 10px;
  display: grid;
  gap: 8px;
}
.beside {
  display: grid;
  gap: 8px;
}
.fields {
  padding: 8px 12px;
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 2px 12px;
}
.note {
  padding: 8px 12px;
  font-size: 13px;
  display: grid;
  gap: 4px;
}
h2 {
  font-size: 14px;
  color: var(--accent);
}
.caution {
  padding-left: 8px;
  border-left: 3px solid var(--care);
}
.table {
  padding: 8px 12px;
  font-size: 13px;
}
summary {
  cursor: pointer;
}
table {
  border-collapse: collapse;
  margin-top: 6px;
  width: 100%;
}
th {
  text-align: left;
  font-weight: 400;
  color: var(--muted);
}
td,
th {
  border-bottom: 1px solid var(--line);
  padding: 1px 10px 1px 0;
}
.hold {
  min-height: 160px;
}
@media (max-width: 1000px) {
  .scope {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
