<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import FinderDrawing from './FinderDrawing.vue'
import LivePole from './LivePole.vue'
import PressedAt from './PressedAt.vue'
import UnsaidRun from './UnsaidRun.vue'
import { countdown, useCues } from './useCues'
import { useField } from './useField'
import { useReplan } from './useReplan'
import { useSteps } from './useSteps'
import { useTap } from './useTap'

/** What to do now: one sentence, the numbers that matter, and two answers. */
const emit = defineEmits<{ all: []; list: []; wrong: []; wake: []; run: [key: string] }>()
const field = useField()
const { steps, chosen, current, place, passed, unsaid, underWay, framesDone, framesWanted, resting, done, dueOf } =
  useSteps()
const { nextCall } = useCues()
const { ahead } = useReplan()
const { resting: justTapped, undoable, tap, undo } = useTap()
const several = computed(() => (field.pack.value?.rigs.length ?? 0) > 1)
const ofRig = computed(() => (current.value?.rig == null ? null : (field.pack.value?.rigs[current.value.rig] ?? null)))
/** Where the pole's stars stand now, for every step that turns the axis of a rig with a polar scope. */
const pole = computed(() => {
  if (current.value?.phase !== 'polar alignment') return null
  return field.pack.value?.poles.find((one) => one.view === ofRig.value?.scope_view) ?? null
})
const drawsPole = computed(() => pole.value !== null && current.value?.kind === 'pole')
/** As in the step, but for the frames of a run where the plan was changed since. */
const figures = computed(() => {
  const step = current.value
  const changed = step?.kind === 'run' ? runsAhead(step.rig, step.run) : null
  return (step?.figures ?? []).map((one) =>
    changed && one.name === 'Frames' ? { ...one, text: String(changed.frames) } : one,
  )
})
function runsAhead(rig: number | null | undefined, key: string) {
  const name = field.pack.value?.runs.find((run) => run.key === key)?.name
  return ahead.value.find((run) => run.rig === rig && run.name === name) ?? null
}
const pressing = ref(false)
const large = ref(false)
const EARLY_MS = 60 * 60_000
const early = computed(() => (current.value ? dueOf(current.value) - field.now.value : 0))
const asked = ref('') // the step that is hours early, and of which it is asked whether it is done
watch(current, () => (pressing.value = large.value = false))

/** Photographs are measured by a computer that this phone reaches: a laptop at the tripod, or the server. */
const measureHere = computed(() => {
  const pack = field.pack.value
  if (current.value?.kind !== 'measure' || !ofRig.value || !pack || field.single.value) return ''
  const target = ofRig.value.target ? `&target=${ofRig.value.target}` : ''
  return `/pole/photographs?rig=${ofRig.value.key}&spot=${pack.spot}&night=${pack.evening}${target}`
})
function redLight() {
  localStorage.setItem('wide-dusk-theme', 'field')
}

async function say(kind: 'checked' | 'put off') {
  const step = current.value
  if (!step) return
  if (kind === 'checked' && early.value > EARLY_MS && asked.value !== step.key) {
    asked.value = step.key
    return
  }
  if (await tap(kind, `step:${step.key}`)) chosen.value = null
}
async function started(at: number) {
  const key = current.value?.run
  if (!key) return
  if (!(await tap('begun', `run:${key}:begun`, { at: new Date(at).toISOString() }))) return
  chosen.value = null
  emit('run', key)
}
const minutes = (value: number) => (value >= 1 ? `${Math.round(value)} min` : '')
</script>

<template>
  <section class="step" aria-label="Now">
    <ul v-if="underWay.length && !pressing" class="running">
      <li v-for="run in underWay" :key="run.key">
        <button type="button" class="small" @click="emit('run', run.key)">
          {{ run.name }}{{ several ? `, ${field.pack.value?.rigs[run.rig]?.name}` : '' }}: {{ framesDone(run) }} of
          {{ framesWanted(run) }}{{ resting(run) ? ', paused' : '' }}
        </button>
      </li>
    </ul>
    <p v-for="run in ahead.slice(0, 2)" :key="run.change_at" class="small ahead">
      Changed plan: {{ field.planned(run.change_at) }} {{ run.name
      }}{{ several ? `, ${field.pack.value?.rigs[run.rig]?.name}` : '' }}, {{ run.frames }} × {{ run.exposure_s }} s
    </p>
    <UnsaidRun v-if="unsaid && !ahead.length" :run="unsaid" @run="emit('run', $event)" />
    <template v-else-if="current">
      <p class="small phase">
        {{ current.phase }}<template v-if="several && ofRig">, {{ ofRig.name }}</template
        >, from {{ field.planned(current.due)
        }}<template v-if="minutes(current.lasts_min ?? 0)"
          >, {{ current.yours ? 'you take' : 'about' }} {{ minutes(current.lasts_min ?? 0) }}</template
        >
      </p>
      <h2>{{ current.sentence }}</h2>
      <p v-if="current.caution" class="caution small">{{ current.caution }}</p>
      <dl v-if="current.figures.length && !pressing" class="figures" :class="{ slim: drawsPole }">
        <div v-for="figure in figures" :key="figure.name">
          <dt>{{ figure.name }}</dt>
          <dd :class="{ words: figure.text.length > 12, six: current.figures.length > 4 }">{{ figure.text }}</dd>
        </div>
      </dl>
      <div class="middle">
        <button v-if="drawsPole || current.view" type="button" class="drawing" @click="large = true">
          <span class="unseen">Larger: </span>
          <LivePole v-if="pole && drawsPole" :pole="pole" />
          <FinderDrawing v-else-if="current.view" :view="current.view" />
        </button>
      </div>
      <a v-if="measureHere" class="press" :href="measureHere" @click="redLight">Measure the photos here</a>
      <button v-if="pole && !drawsPole" type="button" @click="large = true">Stars about the pole now</button>
      <PressedAt v-if="pressing" word="It began at" @said="started" @left="pressing = false" />
      <div v-else-if="asked === current.key && early > EARLY_MS" class="stack">
        <p>Planned for {{ field.planned(current.due) }}, in {{ countdown(early) }}. Done already?</p>
        <div class="side">
          <button type="button" @click="asked = ''">Not yet</button>
          <button type="button" class="first" :disabled="justTapped" @click="say('checked')">Done</button>
        </div>
      </div>
      <div v-else-if="current.kind === 'run' && !done(current)" class="stack">
        <button type="button" class="first" :disabled="justTapped" @click="started(Date.now())">Started now</button>
        <div class="side">
          <button type="button" @click="pressing = true">Started earlier</button>
          <button type="button" :disabled="justTapped" @click="say('put off')">Not now</button>
        </div>
      </div>
      <div v-else class="stack">
        <button type="button" class="first" :disabled="justTapped" @click="say('checked')">Done</button>
        <div class="side">
          <button type="button" :disabled="justTapped" @click="say('put off')">Not now</button>
          <button v-if="current.kind === 'list'" type="button" @click="emit('list')">The list</button>
          <button v-else type="button" @click="emit('wrong')">Something is wrong</button>
        </div>
      </div>
    </template>
    <template v-else>
      <h2>All steps are done. Good night.</h2>
      <div class="middle" />
    </template>
    <div v-if="large && current" class="over">
      <LivePole v-if="pole" :pole="pole" />
      <FinderDrawing v-else-if="current.view" :view="current.view" />
      <p class="small">{{ current.sentence }}</p>
      <button type="button" @click="large = false">Back</button>
    </div>
    <div v-if="!pressing" class="foot">
      <button type="button" class="small all" @click="emit('all')">
        <template v-if="passed.length">{{ passed.length }} steps not ticked</template>
        <template v-else>Step {{ Math.min(place + 1, steps.length) }} of {{ steps.length }}</template>
      </button>
      <button v-if="undoable" type="button" class="small" @click="undo">Undo</button>
      <button v-else-if="nextCall" type="button" class="small call" @click="emit('wake')">
        {{ nextCall.name.split(':')[0] }} in {{ countdown(nextCall.at - field.now.value) }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.step {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.running {
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.running button {
  width: 100%;
}
.phase {
  margin-bottom: -8px;
}
.phase::first-letter {
  text-transform: uppercase;
}
.ahead {
  margin-bottom: -8px;
}
.slim {
  gap: 8px;
}
.slim div {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.slim dd,
dd.six {
  font-size: 21px;
}
.middle {
  flex: 1;
  min-height: 0;
  display: flex;
  justify-content: center;
}
.drawing {
  width: 100%;
  height: 100%;
  min-height: 0;
  padding: 0;
  border: 0;
  background: #000;
}
dd.words {
  font-size: 21px;
}
.first:disabled {
  border-style: solid;
  background: var(--ink);
  color: #000;
}
.foot {
  display: flex;
  align-items: stretch;
  gap: 16px;
}
.foot .all {
  flex: none;
}
.foot .call {
  flex: 1;
  min-width: 0;
  border-color: transparent;
  background: #000;
  text-align: left;
  justify-content: flex-start;
}
</style>
