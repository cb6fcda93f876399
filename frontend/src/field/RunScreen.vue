<script setup lang="ts">
import { computed, ref } from 'vue'

import PressedAt from './PressedAt.vue'
import { useAwake } from './useAwake'
import { countdown, useCues } from './useCues'
import { useField } from './useField'
import { useSteps } from './useSteps'
import { useTap } from './useTap'

/** A run under way: frames done and left, what calls next, and its end. */
const props = defineProps<{ runKey: string }>()
const emit = defineEmits<{ left: []; wrong: [] }>()
const field = useField()
const { awake, keepAwake } = useAwake()
const { begun, ended, framesBy, framesDone, framesWanted, frameNow, fitting, resting, pausesOf, endsAt } = useSteps()
const { resting: justTapped, tap } = useTap()
const { calls } = useCues()
const run = computed(() => field.pack.value?.runs.find((one) => one.key === props.runKey))
const rig = computed(() =>
  (field.pack.value?.rigs.length ?? 0) > 1 && run.value ? `, ${field.pack.value?.rigs[run.value.rig]?.name ?? ''}` : '',
)
const done = computed(() => (run.value ? framesDone(run.value) : 0))
const next = computed(() =>
  calls.value.find((one) => one.at > field.now.value && (one.loud || one.subject.startsWith(`cue:${props.runKey}:`))),
)
const target = computed(() => {
  const pack = field.pack.value
  if (!pack || !run.value) return null
  const minute = Math.round((field.now.value - Date.parse(pack.first)) / 60_000)
  const stands = pack.targets[run.value.target]
  const altitude = stands?.altitude_deg[minute]
  const azimuth = stands?.azimuth_deg[minute]
  return altitude === undefined || azimuth === undefined ? null : { altitude, azimuth }
})
const told = computed(() => field.state.value.runs.get(props.runKey))
const ending = ref<'no' | 'when' | 'frames'>('no')
const endedAt = ref(0) // by this phone's clock
const frames = ref(0)

function end(at: number) {
  endedAt.value = at
  frames.value = run.value ? framesBy(run.value, at - field.offset.value * 1000) : 0
  ending.value = 'frames'
}
async function keep() {
  await field.record('ended', `run:${props.runKey}:ended`, {
    at: new Date(endedAt.value).toISOString(),
    frames: frames.value,
  })
  ending.value = 'no'
  emit('left')
}
const paused = computed(() => run.value !== undefined && resting(run.value))
const frame = computed(() => (run.value && !told.value?.ended ? frameNow(run.value) : null))
const fits = computed(() => (run.value ? fitting(run.value) : 0))
const cloudCame = () =>
  tap('paused', `run:${props.runKey}:paused`, { at: new Date(Date.now()).toISOString(), frames: done.value })
const cloudGone = () =>
  tap('resumed', `run:${props.runKey}:resumed`, { at: new Date(Date.now()).toISOString(), frames: fits.value })
const more = (step: number) => (frames.value = Math.max(frames.value + step, 0))
</script>

<template>
  <section v-if="run" class="run" aria-label="Run">
    <p class="small">{{ run.exposure_s }} s at ISO {{ run.iso }}, f/{{ run.f_number.toPrecision(2) }}{{ rig }}</p>
    <h2>{{ run.name }}</h2>
    <template v-if="ending === 'frames'">
      <p>It ended at {{ field.clock(endedAt - field.offset.value * 1000) }}. How many frames?</p>
      <p class="count" role="status">{{ frames }}</p>
      <div class="side">
        <button v-for="step in [-10, -1, 1, 10]" :key="step" type="button" @click="more(step)">
          {{ step > 0 ? '+' : '−' }}{{ Math.abs(step) }}<span class="unseen"> frames</span>
        </button>
      </div>
      <div class="middle" />
      <div class="side">
        <button type="button" @click="ending = 'no'">Back</button>
        <button type="button" class="first" @click="keep">Save</button>
      </div>
    </template>
    <PressedAt v-else-if="ending === 'when'" word="It ended at" @said="end" @left="ending = 'no'" />
    <template v-else-if="paused && !told?.ended">
      <p>
        Paused at {{ field.clock(pausesOf(run.key).at(-1)?.begun ?? null) }} after {{ done }} frames. It was to end at
        {{ field.planned(run.ends_at) }}.
      </p>
      <p v-if="fits > 0" class="count" role="status">{{ fits }} frames still fit.</p>
      <p v-else role="status">No frame fits any more before {{ field.planned(run.ends_at) }}.</p>
      <p v-if="fits > 0" class="small">When the sky is clear: set the timer to {{ fits }} frames and start it.</p>
      <div class="middle" />
      <div class="stack">
        <button type="button" class="first" :disabled="justTapped || fits <= 0" @click="cloudGone">
          Cloud gone: started
        </button>
        <div class="side">
          <button type="button" :disabled="justTapped" @click="end(Date.now())">It ended here</button>
          <button type="button" @click="emit('left')">Back to the steps</button>
        </div>
      </div>
    </template>
    <template v-else>
      <p v-if="frame" class="frame" role="timer">
        Frame {{ frame.number }} of {{ framesWanted(run) }},
        {{ frame.waits ? `in ${Math.ceil(frame.leftS)} s` : `${Math.ceil(frame.leftS)} s left` }}
      </p>
      <dl class="figures">
        <div>
          <dt>Frames done</dt>
          <dd>{{ told?.ended ? told.frames : done }}</dd>
        </div>
        <div>
          <dt>Time left</dt>
          <dd>{{ told?.ended ? 'ended' : countdown(endsAt(run) - field.now.value) }}</dd>
        </div>
      </dl>
      <p v-if="begun(run.key)" class="small">
        Began at {{ field.clock(begun(run.key)) }}, {{ ended(run.key) ? 'ended' : 'ends' }} at
        {{ ended(run.key) ? field.clock(ended(run.key)) : field.planned(endsAt(run)) }}.
        <template v-if="target">
          Now {{ target.altitude.toFixed(0) }}° high, azimuth {{ target.azimuth.toFixed(0) }}°.
        </template>
      </p>
      <div class="call" role="timer">
        <template v-if="next && !told?.ended">
          <p>{{ next.name }}</p>
          <p class="count">{{ countdown(next.at - field.now.value) }}</p>
        </template>
      </div>
      <div class="middle" />
      <div class="stack">
        <button type="button" class="first" :disabled="!!told?.ended" @click="end(Date.now())">It ended now</button>
        <div class="side">
          <button type="button" @click="ending = 'when'">
            {{ told?.ended ? 'Ended at another time' : 'Ended earlier' }}
          </button>
          <button v-if="!told?.ended" type="button" :disabled="justTapped" @click="cloudCame">Cloud came</button>
          <button type="button" :aria-pressed="awake" @click="keepAwake(!awake)">Screen on</button>
        </div>
        <div class="side">
          <button type="button" @click="emit('left')">Back to the steps</button>
          <button type="button" @click="emit('wrong')">Something is wrong</button>
        </div>
      </div>
    </template>
  </section>
</template>

<style scoped>
.run {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.middle {
  flex: 1;
}
.frame {
  font-size: 24px;
  font-weight: 600;
}
.call p:first-child {
  font-size: 17px;
}
.count {
  font-size: 42px;
  font-weight: 700;
  line-height: 1;
}
.side button {
  padding: 6px;
}
</style>
