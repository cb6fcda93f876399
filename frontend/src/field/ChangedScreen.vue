<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Pack } from './store'
import { useField } from './useField'
import { useReplan } from './useReplan'
import { useSolveAnew } from './useSolveAnew'

/** The night is not as planned: answers that were worked out beforehand. */
const props = defineProps<{ pack: Pack }>()
const emit = defineEmits<{ left: [] }>()
const field = useField()
type Side = 'choose' | 'sub' | 'now' | 'other' | 'home'
const side = ref<Side>('choose')
const runKey = ref(
  props.pack.runs.find((one) => Date.parse(one.ends_at) > field.now.value)?.key ?? props.pack.runs[0]?.key ?? '',
)
const run = computed(() => props.pack.runs.find((one) => one.key === runKey.value))
const several = computed(() => props.pack.rigs.length > 1)
const winds = computed(() => [...new Set(run.value?.subs.map((one) => one.wind) ?? [])])
const axes = computed(() => [...new Set(run.value?.subs.map((one) => one.axis_arcmin) ?? [])])
const wind = ref('fresh')
const axis = ref(6)
const row = computed(() => run.value?.subs.find((one) => one.wind === wind.value && one.axis_arcmin === axis.value))
const other = ref<number | null>(null)
const otherNight = computed(() => (other.value === null ? null : props.pack.other_nights[other.value]))
/** The last moment told that is not after now; what is left there. */
const left = computed(
  () => [...props.pack.left].reverse().find((one) => Date.parse(one.moment) <= field.now.value) ?? props.pack.left[0],
)
const RUNS = computed(() => props.pack.runs.filter((one) => Date.parse(one.ends_at) > field.now.value))

const replan = useReplan()
const shot = ref<boolean | null>(null)
const soFar = computed(() => shot.value ?? replan.shotSoFar.value)
const waited = ref(0) // minutes that the cloud is to stay, from now
const fromThen = computed(() => replan.from(field.now.value + waited.value * 60_000, soFar.value))
const wait = (minutes: number) => (waited.value = minutes ? waited.value + minutes : 0)
async function goFrom() {
  const found = fromThen.value
  if (!found) return
  const what = `best from ${field.planned(found.moment)} on`
  await field.record('otherwise', 'night', { what, from: found.moment, so_far: found.so_far })
  emit('left')
}

const { doing, solve } = useSolveAnew()
const cloudAt = ref(Math.ceil(field.now.value / 600_000) * 600_000)
const cloud = computed(() => field.clock(cloudAt.value))

async function takeSub() {
  if (!run.value || !row.value) return
  await field.record('otherwise', `run:${run.value.key}:sub`, {
    what: 'sub',
    run: run.value.key,
    wind: wind.value,
    axis_arcmin: axis.value,
    exposure_s: row.value.exposure_s,
  })
  emit('left')
}
async function goBy(name: string) {
  await field.record('otherwise', 'night', { what: name })
  emit('left')
}
</script>

<template>
  <section class="changed" aria-label="Not as planned">
    <template v-if="side === 'choose'">
      <h2>What is not as planned?</h2>
      <div class="middle" />
      <button type="button" @click="side = 'sub'">Wind, or the axis is off</button>
      <button v-if="replan.all.value.length" type="button" @click="side = 'now'">
        Late or cloud: best from now on
      </button>
      <button type="button" @click="side = 'other'">Late, cloud, a rig fails</button>
      <button type="button" @click="side = 'home'">Tired: pack up?</button>
    </template>
    <template v-else-if="side === 'sub'">
      <div v-if="RUNS.length > 1" class="side" role="group" aria-label="Run">
        <button
          v-for="one in RUNS.slice(0, 3)"
          :key="one.key"
          type="button"
          class="small"
          :aria-pressed="one.key === runKey"
          @click="runKey = one.key">
          {{ one.name.split(' ').slice(0, 2).join(' ') }}{{ several ? ` · ${pack.rigs[one.rig]?.focal_mm} mm` : '' }}
        </button>
      </div>
      <p>Wind</p>
      <div class="side" role="group" aria-label="Wind">
        <button v-for="one in winds" :key="one" type="button" :aria-pressed="one === wind" @click="wind = one">
          {{ one }}
        </button>
      </div>
      <p>The axis is off by</p>
      <div class="three" role="group" aria-label="The axis is off by">
        <button v-for="one in axes" :key="one" type="button" :aria-pressed="one === axis" @click="axis = one">
          {{ one }}′
        </button>
      </div>
      <p v-if="run && row" role="status" class="answer">
        {{ run.exposure_s }} s: {{ row.keeps_percent.toFixed(0) }} % stay sharp. <br />Best now {{ row.exposure_s }} s:
        {{ row.better_percent.toFixed(0) }} %, {{ row.frames_an_hour.toFixed(0) }} an hour.
        <span class="small">Expected, the axis off the worst way.</span>
      </p>
      <div class="middle" />
      <div class="side">
        <button type="button" @click="side = 'choose'">Back</button>
        <button type="button" class="first" @click="takeSub">Use {{ row?.exposure_s }} s</button>
      </div>
    </template>
    <template v-else-if="side === 'now'">
      <h2 v-if="fromThen">Best from {{ field.planned(fromThen.moment) }} on</h2>
      <p v-else>Nothing can be started any more this night.</p>
      <div class="side" role="group" aria-label="Until then">
        <button type="button" :aria-pressed="soFar" @click="shot = true">As planned so far</button>
        <button type="button" :aria-pressed="!soFar" @click="shot = false">Nothing so far</button>
      </div>
      <ol class="scrolls runs" tabindex="0">
        <li v-for="(one, index) in fromThen?.runs ?? []" :key="index">
          {{ field.planned(one.change_at) }} to {{ field.planned(one.ends_at) }} {{ one.name
          }}{{ several ? `, ${pack.rigs[one.rig]?.name}` : '' }}: {{ one.frames }} × {{ one.exposure_s }} s, ISO
          {{ one.iso }}, f/{{ one.f_number.toPrecision(2) }}
        </li>
      </ol>
      <div class="side" role="group" aria-label="Cloud until">
        <button v-for="minutes in [0, 10, 60]" :key="minutes" type="button" @click="wait(minutes)">
          {{ { 0: 'Now', 10: '10 min later', 60: '1 h later' }[minutes] }}
        </button>
      </div>
      <div class="side">
        <button type="button" @click="side = 'choose'">Back</button>
        <button type="button" class="first" :disabled="!fromThen" @click="goFrom">Go by this</button>
      </div>
    </template>
    <template v-else-if="side === 'other'">
      <template v-if="otherNight">
        <h2>{{ otherNight.name }}</h2>
        <p>{{ otherNight.sentence }}</p>
        <ol class="scrolls runs" tabindex="0">
          <li v-for="(one, index) in otherNight.runs" :key="index">
            {{ one.change_clock }} to {{ one.ends_clock }} {{ one.name }}{{ several ? `, ${one.rig}` : '' }}:
            {{ one.frames }} × {{ one.exposure_s }} s
          </li>
        </ol>
        <div class="side">
          <button type="button" @click="other = null">Back</button>
          <button type="button" class="first" @click="goBy(otherNight.name)">Go by this</button>
        </div>
      </template>
      <template v-else>
        <p v-if="!pack.other_nights.length">
          No other nights were worked out for this pack{{ pack.whole ? '' : '; only a whole night has them' }}.
        </p>
        <div class="scrolls stack grow" tabindex="0">
          <button
            v-for="(one, index) in pack.other_nights"
            :key="one.name"
            type="button"
            class="row"
            @click="other = index">
            <span
              >{{ one.name }}<br /><span class="small">{{ one.sentence }}</span></span
            >
          </button>
        </div>
        <template v-if="pack.whole && !field.single.value">
          <p role="status">{{ doing || `With a connection: cloud until ${cloud}` }}</p>
          <div class="side">
            <button
              v-for="minutes in [-60, -10, 10, 60]"
              :key="minutes"
              type="button"
              @click="cloudAt += minutes * 60_000">
              {{ minutes > 0 ? '+' : '−' }}{{ Math.abs(minutes) }}<span class="unseen"> minutes</span>
            </button>
          </div>
          <button type="button" :disabled="!!doing" @click="solve(cloud)">Recalculate on the server</button>
        </template>
        <button type="button" @click="side = 'choose'">Back</button>
      </template>
    </template>
    <template v-else>
      <h2 v-if="left">Pack up now: what is left brings {{ left.percent.toFixed(0) }} %.</h2>
      <p class="small">Of what this night is to bring, by the plan.</p>
      <ul class="scrolls grow" tabindex="0">
        <li v-for="one in pack.left.filter((_, index) => index % 6 === 0)" :key="one.moment">
          {{ field.planned(one.moment) }}: {{ one.percent.toFixed(0) }} % still to come
        </li>
      </ul>
      <p class="caution small">Tired driving is as dangerous as drunk driving. Sleep first.</p>
      <div class="side">
        <button type="button" @click="side = 'choose'">Back</button>
        <button type="button" class="first" @click="goBy('pack up')">Pack up</button>
      </div>
    </template>
  </section>
</template>

<style scoped>
.changed {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.middle,
.grow {
  flex: 1;
}
.three {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 16px;
}
.side button {
  padding: 6px 4px;
  min-width: 0;
}
.answer {
  font-size: 21px;
  font-weight: 600;
}
.row {
  justify-content: flex-start;
  text-align: left;
}
.runs {
  flex: 1;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
</style>
