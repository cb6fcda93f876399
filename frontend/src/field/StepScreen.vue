<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import FinderDrawing from './FinderDrawing.vue'
import LivePole from './LivePole.vue'
import PressedAt from './PressedAt.vue'
import { countdown, useCues } from './useCues'
import { useField } from './useField'
import { useSteps } from './useSteps'

/** What to do now: one sentence, the numbers that matter, and two answers. */
const emit = defineEmits<{ all: []; list: []; wrong: []; run: [key: string] }>()
const field = useField()
const { steps, chosen, current, place, underWay, framesDone, done } = useSteps()
const { nextCall } = useCues()
const several = computed(() => (field.pack.value?.rigs.length ?? 0) > 1)
const rig = computed(() => (current.value?.rig == null ? '' : (field.pack.value?.rigs[current.value.rig]?.name ?? '')))
const pole = computed(() => {
  if (current.value?.kind !== 'pole' || current.value.rig == null) return null
  const view = field.pack.value?.rigs[current.value.rig]?.scope_view
  return field.pack.value?.poles.find((one) => one.view === view) ?? null
})
const pressing = ref(false)
const large = ref(false)
watch(current, () => (pressing.value = large.value = false))

let busy = false
/** The next step comes when this one is on the disk; a second tap meanwhile is the same press. */
async function take(...event: Parameters<typeof field.record>): Promise<boolean> {
  if (busy) return false
  busy = true
  await field.record(...event)
  chosen.value = null
  busy = false
  return true
}
const say = (kind: 'checked' | 'put off') => current.value && take(kind, `step:${current.value.key}`)
async function pressed(at: number) {
  const key = current.value?.run
  if (!key) return
  if (await take('begun', `run:${key}:begun`, { at: new Date(at).toISOString() })) emit('run', key)
}
</script>

<template>
  <section class="step" aria-label="Now">
    <ul v-if="underWay.length && !pressing" class="running">
      <li v-for="run in underWay" :key="run.key">
        <button type="button" class="small" @click="emit('run', run.key)">
          {{ run.name }}{{ several ? `, ${field.pack.value?.rigs[run.rig]?.name}` : '' }}: {{ framesDone(run) }} of
          {{ run.frames }}
        </button>
      </li>
    </ul>
    <template v-if="current">
      <p class="small phase">
        {{ current.phase }}<template v-if="several && rig">, {{ rig }}</template
        >, from {{ field.planned(current.due) }}
      </p>
      <h2>{{ current.sentence }}</h2>
      <p v-if="current.caution" class="caution small">{{ current.caution }}</p>
      <dl v-if="current.figures.length && !pressing" class="figures" :class="{ slim: pole }">
        <div v-for="figure in current.figures" :key="figure.name">
          <dt>{{ figure.name }}</dt>
          <dd :class="{ words: figure.text.length > 12 }">{{ figure.text }}</dd>
        </div>
      </dl>
      <div class="middle">
        <button v-if="pole || current.view" type="button" class="drawing" @click="large = true">
          <span class="unseen">Larger: </span>
          <LivePole v-if="pole" :pole="pole" />
          <FinderDrawing v-else-if="current.view" :view="current.view" />
        </button>
      </div>
      <PressedAt v-if="pressing" word="It began at" @said="pressed" @left="pressing = false" />
      <div v-else-if="current.kind === 'run' && !done(current)" class="stack">
        <button type="button" class="first" @click="pressed(Date.now())">I pressed it now</button>
        <div class="side">
          <button type="button" @click="pressing = true">Pressed earlier</button>
          <button type="button" @click="say('put off')">Not now</button>
        </div>
      </div>
      <div v-else class="stack">
        <button type="button" class="first" @click="say('checked')">Done</button>
        <div class="side">
          <button type="button" @click="say('put off')">Not now</button>
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
      <button type="button" class="small" @click="emit('all')">
        Step {{ Math.min(place + 1, steps.length) }} of {{ steps.length }}
      </button>
      <p v-if="nextCall" class="small">
        {{ nextCall.name.split(':')[0] }} in {{ countdown(nextCall.at - field.now.value) }}
      </p>
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
.slim {
  gap: 8px;
}
.slim div {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.slim dd {
  font-size: 19px;
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
.over {
  position: fixed;
  inset: 0;
  z-index: 4;
  display: flex;
  flex-direction: column;
  gap: 16px;
  padding: 16px;
  background: #000;
}
dd.words {
  font-size: 21px;
}
.foot {
  display: flex;
  align-items: center;
  gap: 16px;
}
.foot button {
  flex: none;
}
</style>
