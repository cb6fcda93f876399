<script setup lang="ts">
import { Alert, Button, Spin } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import type { Choices } from '@/composables/choices'
import { useContext } from '@/composables/useContext'
import { saveFile } from '@/composables/useFiles'
import { useChosen, useFortnight, useLanes } from '@/composables/useNights'
import { useTargets } from '@/composables/useRecords'
import { useScheduled } from '@/composables/useScheduled'
import type { Tonight } from '@/composables/useTonight'
import FortnightRow from '@/instruments/FortnightRow.vue'
import NightLanes from '@/instruments/NightLanes.vue'
import WeatherNote from '@/parts/WeatherNote.vue'
import Choice from '@/parts/Choice.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

/** The targets of one night side by side, under the dusk strip, and the fortnight to choose the night from. */
const props = defineProps<{ tonight: Tonight | null }>()
const { context, choices, night, target, change } = useContext()
const { data, refusal } = useLanes()
const { data: coming } = useFortnight()
const { data: targets } = useTargets()
const { change: choose } = useChosen()

const trouble = ref('')
async function attempt(work: () => Promise<void>) {
  trouble.value = ''
  try {
    await work()
  } catch (failed) {
    if (!(failed instanceof Refusal)) throw failed
    trouble.value = failed.message
  }
}
const ids = computed(() => data.value?.targets ?? [])
const chosen = computed(() => (data.value?.chosen ? ids.value : []))
const names = computed(() => new Map((targets.value?.items ?? []).map((one) => [one.id, one.name])))
const others = computed(() =>
  (targets.value?.items ?? [])
    .filter((one) => !ids.value.includes(one.id))
    .map((one) => ({ value: one.id, label: one.name })),
)
const adding = ref<number | undefined>(undefined)
function add(id: unknown) {
  if (typeof id !== 'number') return
  adding.value = undefined
  // What is on show stays when others join it, whether it was chosen for this night or stands in.
  void attempt(() =>
    choose(
      chosen.value,
      ids.value.includes(id) ? ids.value : [...ids.value, id],
      `Added ${names.value.get(id) ?? 'a target'} to the night.`,
    ),
  )
}
const remove = (id: number) =>
  attempt(() =>
    choose(
      chosen.value,
      ids.value.filter((one) => one !== id),
      `Took ${names.value.get(id) ?? 'a target'} off the night.`,
    ),
  )
const { scheduled } = useScheduled()
/** As a calendar: of the schedule where there is one, so that it tells the same times as the phone. */
const cues = () =>
  attempt(async () => {
    if (context.value)
      saveFile(
        await answer(
          scheduled.value.length
            ? api.GET('/api/nights/whole/cues', {
                params: { query: { spot: context.value.spot, night: context.value.night } },
              })
            : api.GET('/api/nights/cues', {
                params: { query: { ...context.value, choices: choices.value as Choices } },
              }),
        ),
      )
  })
const shown = ref<number | null>(null)
const weather = computed(() => props.tonight?.strip.weather?.verdict ?? null)
const sky = ref(false)
const dark = ref(false)
</script>

<template>
  <section class="night">
    <Alert v-if="trouble || (refusal && !data)" type="error" show-icon :message="trouble || refusal?.message" />
    <div class="tools">
      <label class="unseen" for="add-lane">Add one of your targets to this night</label>
      <Choice
        id="add-lane"
        v-model="adding"
        class="add"
        :options="others"
        placeholder="Add a target of yours to this night"
        @update:model-value="add" />
      <RouterLink :to="{ name: 'nights-suits', query: $route.query }">or see what suits</RouterLink>
      <button v-if="weather" type="button" class="plain sky" :class="weather.level" @click="sky = true">
        {{ weather.sentence }}
      </button>
      <WeatherNote v-if="tonight" :weather="tonight.weather" />
      <Button class="right" :disabled="!tonight" @click="cues">Cues for my calendar</Button>
    </div>
    <Spin v-if="!data && !refusal" tip="Laying the lanes…"><div class="hold" /></Spin>
    <NightLanes
      v-if="data && tonight"
      :lanes="data.lanes"
      :ids="ids"
      :current="target"
      :time-zone="tonight.strip.time_zone"
      :minutes="tonight.strip.state.length"
      :removable="ids.length > 1"
      @pick="(id) => change({ target: id })"
      @remove="remove"
      @working="(place) => (shown = place)" />
    <section v-if="coming" class="panel fortnight" aria-label="Fortnight">
      <h2>
        The coming fortnight
        <button type="button" class="plain darkest" :class="coming.verdict.level" @click="dark = true">
          {{ coming.verdict.sentence }}
        </button>
        <span v-if="coming.verdict.advice" class="muted">{{ coming.verdict.advice }}</span>
      </h2>
      <FortnightRow :nights="coming.nights" :current="night ?? ''" @pick="(date) => change({ night: date })" />
    </section>
    <WorkingDrawer :verdict="dark ? (coming?.verdict ?? null) : null" focus="dark" @close="dark = false" />
    <WorkingDrawer
      :verdict="shown === null ? null : (data?.lanes.lanes[shown]?.verdict ?? null)"
      focus="usable"
      @close="shown = null" />
    <WorkingDrawer :verdict="sky ? weather : null" focus="forecast" @close="sky = false" />
  </section>
</template>

<style scoped>
.night {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
@media (max-width: 820px) {
  .tools > a {
    min-height: 44px;
    display: flex;
    align-items: center;
  }
  .add {
    width: 100%;
  }
}
.tools {
  display: flex;
  gap: 2px 12px;
  align-items: center;
  flex-wrap: wrap;
}
.add {
  width: 300px;
}
.sky {
  font-size: 13px;
}
.sky.care {
  color: var(--care);
}
.sky.stop {
  color: var(--stop);
}
button.sky {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.right {
  margin-left: auto;
}
.fortnight {
  padding: 6px 10px;
}
h2 {
  font-size: 13px;
}
.darkest {
  font-weight: 400;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.darkest.stop {
  color: var(--care);
}
h2 .muted {
  font-weight: 400;
}
.hold {
  min-height: 160px;
}
</style>
