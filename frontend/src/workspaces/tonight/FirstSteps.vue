<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { Alert, Button } from 'ant-design-vue'
import { computed, defineAsyncComponent, reactive, ref, type Ref } from 'vue'

import { answer, api, type Asked, type Schemas } from '@/api/client'
import { coordinateWords, number } from '@/composables/figures'
import { useTake } from '@/composables/useCatalogue'
import { useContext } from '@/composables/useContext'
import { useFaults } from '@/composables/useFaults'
import { useWhereabouts } from '@/composables/useWhereabouts'
import Field from '@/parts/Field.vue'
import FormFaults from '@/parts/FormFaults.vue'
import HandFields, { emptyHand } from '@/parts/HandFields.vue'

const WorldOutline = defineAsyncComponent(() => import('@/instruments/WorldOutline.vue'))

/** From nothing to a first verdict: what is in one's hand, where one stands, what to take. What is there is not asked. */
const props = defineProps<{ hasRig: boolean; hasPlace: boolean }>()
const { rig, spot, night, choices, change } = useContext()
const queries = useQueryClient()
const take = useTake()
const { busy, attempt } = useFaults()

const hand = reactive(emptyHand())
const ground = reactive<Schemas['GroundIn']>({ coordinates: '', sky: 'dark country' })
const listed = (words: readonly string[]) => words.map((value) => ({ value, label: value }))
const SKIES = listed(['in a town', 'at the edge of a town', 'a village', 'dark country', 'far from every lamp'])
const asks = computed(() => !props.hasRig || !props.hasPlace)

const { looking, trouble, find } = useWhereabouts()
async function here() {
  const found = await find()
  if (found) ground.coordinates = coordinateWords(found.latitude_deg, found.longitude_deg, 4)
}
const point = (latitude: number, longitude: number) => (ground.coordinates = coordinateWords(latitude, longitude, 1))

const go = () =>
  attempt(async () => {
    const body = { hand: props.hasRig ? null : { ...hand }, ground: props.hasPlace ? null : { ...ground } }
    const made = await answer(api.POST('/api/begin', { body: body as Schemas['BeginIn'] }))
    await queries.invalidateQueries()
    await change({ ...(made.rig ? { rig: made.rig } : {}), ...(made.spot ? { spot: made.spot } : {}) })
  })

/** What suits; where the Moon leaves nothing, what it spoils least. */
function useSuits(limit: Ref<number | undefined>, wanted: Ref<boolean>) {
  const asked = computed(() =>
    !asks.value && wanted.value && rig.value && spot.value && night.value
      ? {
          rig: rig.value,
          spot: spot.value,
          night: night.value,
          choices: limit.value === undefined ? choices.value : { ...choices.value, moon_limit_mag: limit.value },
          smallest_percent: 8,
          limit: 8,
          offset: 0,
        }
      : null,
  )
  return useQuery({
    queryKey: ['suits', 'first', asked],
    queryFn: () =>
      answer(api.GET('/api/nights/suits', { params: { query: asked.value as Asked<'/api/nights/suits'> } })),
    enabled: computed(() => asked.value !== null),
  })
}
const ANY_MOON_MAG = 10
const { data: good, error } = useSuits(ref(undefined), ref(true))
const moonlit = computed(() => good.value?.count === 0)
const { data: spoilt } = useSuits(ref(ANY_MOON_MAG), moonlit)
const suits = computed(() => (moonlit.value ? spoilt.value : good.value))
const choose = (key: string) =>
  attempt(async () => {
    const kept = await take(key)
    await change({ target: kept.id })
  })
const hours = (minutes: number) => `${number(minutes / 60, 1)} h`
</script>

<template>
  <form v-if="asks" class="panel steps" @submit.prevent="go">
    <h2>Three questions, then the night</h2>
    <p class="muted">
      What you do not know by heart is filled in with what is typical of its class, marked as such, and yours to
      replace.
    </p>
    <FormFaults />
    <fieldset v-if="!hasRig">
      <legend>1 · What is in your hand?</legend>
      <HandFields v-model="hand" />
    </fieldset>
    <fieldset v-if="!hasPlace">
      <legend>2 · Where will you stand?</legend>
      <div class="grid">
        <div>
          <Field
            v-model="ground.coordinates"
            path="ground.coordinates"
            label="Coordinates"
            kind="text"
            hint="e.g. 24.58 S, 16.42 E, or click the map" />
          <p class="here">
            <Button size="small" :loading="looking" @click="here">Use my location</Button>
            <small v-if="trouble" class="fault" role="alert">{{ trouble }}</small>
          </p>
          <Field v-model="ground.sky" path="ground.sky" label="How dark is it there?" kind="choice" :options="SKIES" />
        </div>
        <WorldOutline class="map" :places="[]" :width="320" @pick="point" />
      </div>
    </fieldset>
    <Button type="primary" html-type="submit" :loading="busy">Show what suits tonight</Button>
  </form>
  <section v-else class="panel steps" aria-label="What to take">
    <h2>3 · What do you want to take?</h2>
    <Alert v-if="error" type="error" show-icon :message="(error as Error).message" />
    <p v-if="suits && !suits.items.length" class="muted">
      Nothing suits this lens tonight from here; choose from the whole catalogue.
    </p>
    <p v-else-if="moonlit && suits" class="muted">
      The Moon brightens the whole night more than is usually borne; these it spoils least. Choose one, and the page
      tells the next night that is free of it.
    </p>
    <ul>
      <li v-for="one in suits?.items ?? []" :key="one.entry.key">
        <button type="button" class="plain pick" :disabled="busy" @click="choose(one.entry.key)">
          <b>{{ one.entry.name }}</b>
          <span class="muted"
            >{{ one.entry.kind }} · {{ hours(one.usable_min) }} tonight · fills
            {{ number(one.fills_percent, 0) }} %</span
          >
        </button>
      </li>
    </ul>
    <p><RouterLink :to="{ name: 'nights-targets', query: $route.query }">Find another in the catalogue</RouterLink></p>
  </section>
</template>

<style scoped>
.steps {
  width: 100%;
  max-width: 720px;
  margin: 12px auto;
  padding: 16px 22px;
  box-sizing: border-box;
  display: grid;
  gap: 10px;
  justify-items: start;
}
h2 {
  font-size: 20px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  width: 100%;
}
legend {
  font-size: 16px;
  font-weight: 600;
  color: var(--accent);
  padding: 4px 0;
}
.grid {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 4px 16px;
}
.here {
  margin: 0 0 8px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.fault {
  color: var(--stop);
}
.map {
  cursor: crosshair;
  max-width: 100%;
  height: auto;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  width: 100%;
}
.pick {
  width: 100%;
  min-height: 44px;
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 2px 12px;
  text-align: left;
  border-bottom: 1px solid var(--line);
}
.pick:hover {
  background: var(--raised);
}
@media (max-width: 640px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
  .steps {
    padding: 10px 12px;
  }
}
</style>
