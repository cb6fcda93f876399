<script setup lang="ts">
import { onKeyStroke, useMediaQuery } from '@vueuse/core'
import { Alert, Button, InputNumber } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal } from '@/api/client'
import { typed } from '@/composables/choices'
import { dateWords } from '@/composables/dates'
import { useContext } from '@/composables/useContext'
import {
  NOT_RECOGNISED,
  useFolders,
  useJudgedRun,
  useLastFrames,
  useRuns,
  wordOf,
  type Folder,
  type JudgedFrame,
  type Said,
} from '@/composables/useFrames'
import { undoable } from '@/composables/useUndo'
import { useTonight, type Verdict } from '@/composables/useTonight'
import ContextDesk from '@/parts/ContextDesk.vue'
import NothingChosen from '@/parts/NothingChosen.vue'
import NothingHere from '@/parts/NothingHere.vue'
import Choice from '@/parts/Choice.vue'
import VerdictCard from '@/parts/VerdictCard.vue'
import WorkingDrawer from '@/parts/WorkingDrawer.vue'

import CauseList from './CauseList.vue'
import FolderBar from './FolderBar.vue'
import FrameLook from './FrameLook.vue'
import FrameTable from './FrameTable.vue'
import { beyond, BY_LINE, LANES, sorted } from './lanes'
import OutPanel from './OutPanel.vue'
import PlanPanel from './PlanPanel.vue'
import RunTimeline from './RunTimeline.vue'
import TeachPanel from './TeachPanel.vue'
import TrailRose from './TrailRose.vue'

/** Every frame of a night judged, and why; the person has the last word. */
const { context, night, choices, change: changeContext } = useContext()
const last = useLastFrames()
function goToLast() {
  const found = last.value
  if (found?.night && found.spot && found.target)
    void changeContext({ night: found.night, spot: found.spot, target: found.target })
}
const { tonight, refusal, settled, refetch: retry } = useTonight()
const {
  folders,
  there,
  error: folderError,
  read,
  bring,
  bringing,
  refused,
  stopBringing,
  change,
  setClock,
  move,
  remove,
} = useFolders()
const { runs, measured, error: runsError } = useRuns(folders)
const chosen = ref<number | null>(null)
const run = computed(() =>
  runs.value.some((one) => one.id === chosen.value) ? chosen.value : (runs.value.at(-1)?.id ?? null),
)
const {
  judged,
  error: runError,
  say,
  count,
  assign,
  learn,
  axis,
  keepAxis,
  plan,
  planWith,
} = useJudgedRun(run, measured)
const failed = ref('')
const words = (error: unknown) => (error instanceof Refusal ? error.message : error ? String(error) : '')
const trouble = computed(() => failed.value || words(folderError.value ?? runsError.value ?? runError.value))
async function attempt(work: () => Promise<unknown>) {
  failed.value = ''
  try {
    await work()
  } catch (error) {
    failed.value = words(error)
  }
}

/** On a small screen one side at a time; a large one shows all of them. */
const small = useMediaQuery('(max-width: 820px)')
type Side = 'verdict' | 'time' | 'frame' | 'plan' | 'table' | 'out'
const SIDES: [Side, string][] = [
  ['verdict', 'Result'],
  ['time', 'Over time'],
  ['frame', 'One frame'],
  ['table', 'Table'],
  ['plan', 'Plan'],
  ['out', 'Use'],
]
const side = ref<Side>('verdict')
const isOn = (...sides: Side[]) => !small.value || sides.includes(side.value)

const selected = ref(0)
const cause = ref('')
const brushed = ref<number[]>([])
watch(run, () => {
  selected.value = 0
  cause.value = ''
  brushed.value = []
})
const frames = computed(() => judged.value?.frames ?? [])
const frame = computed(() => frames.value[selected.value] ?? null)
/** Stepping goes through the frames of the cause that is chosen, else through those that were drawn over, else through all. */
const stepped = computed(() => {
  if (!judged.value) return []
  if (cause.value) return sorted(judged.value, 'time', cause.value)
  return brushed.value.length ? brushed.value : frames.value.map((_, place) => place)
})
const marked = computed(() => (cause.value || brushed.value.length ? stepped.value : []))
const ahead = computed(() => {
  const here = stepped.value.indexOf(selected.value)
  return stepped.value.slice(Math.max(here - 4, 0), here + 24).flatMap((place) => frames.value[place]?.id ?? [])
})
function step(by: number) {
  const here = stepped.value.indexOf(selected.value)
  const next = stepped.value[Math.min(Math.max(here + by, 0), stepped.value.length - 1)]
  if (next !== undefined) selected.value = next
}

const WORDS = { keep: 'kept', less: 'kept with less weight', cull: 'culled', '': 'as measured' } as const
const sayTo = (list: JudgedFrame[], said: Said) =>
  attempt(() =>
    say(list, said, list.length === 1 ? `${list[0]?.name}: ${WORDS[said]}.` : `${list.length} frames: ${WORDS[said]}.`),
  )
const sayHere = (said: Said) => frame.value && sayTo([frame.value], said)

const twice = ref(false)
const blinking = ref(false)
let blink = 0
let home = 0
watch(blinking, (on) => {
  window.clearInterval(blink)
  if (!on) {
    selected.value = home
    return
  }
  home = selected.value
  const other = stepped.value[stepped.value.indexOf(home) - 1] ?? stepped.value[stepped.value.indexOf(home) + 1]
  if (other !== undefined)
    blink = window.setInterval(() => (selected.value = selected.value === home ? other : home), 500)
})

const typing = () => ['INPUT', 'TEXTAREA', 'SELECT'].includes(document.activeElement?.tagName ?? '')
const KEYS: Record<string, () => void> = {
  ArrowRight: () => step(1),
  ArrowLeft: () => step(-1),
  k: () => void sayHere('keep'),
  c: () => void sayHere('cull'),
  m: () => void sayHere(''),
  z: () => (twice.value = !twice.value),
  b: () => (blinking.value = !blinking.value),
  u: () => void attempt(async () => undoable.value?.undo?.()),
}
onKeyStroke(Object.keys(KEYS), (event) => {
  if (typing() || event.ctrlKey || event.metaKey || event.altKey || !judged.value) return
  event.preventDefault()
  KEYS[event.key]?.()
})

/** Cull by a line: one figure and how far it may go. */
const lineKey = ref<(typeof BY_LINE)[number]>()
const lineAt = ref(1.3)
const LINE_OPTIONS = BY_LINE.map((key) => ({ value: key, label: `${LANES[key].label}, ${LANES[key].beyond}` }))
watch(lineKey, (key) => {
  if (!key || !judged.value) return
  const starts = { elongation: judged.value.elongation_limit, width: judged.value.width_limit_px, clear: 70, sky: 1.5 }
  lineAt.value = Number(starts[key].toFixed(2))
})
const overLine = computed(() =>
  lineKey.value && judged.value
    ? beyond(judged.value, lineKey.value, lineAt.value).filter((one) => wordOf(one) !== 'cull')
    : [],
)
const drawnOver = computed(() => brushed.value.flatMap((place) => frames.value[place] ?? []))

/** While a folder is watched: what can still be mended. */
const alarms = computed(() =>
  folders.value.some((one) => one.watched) ? (judged.value?.causes.filter((one) => one.now) ?? []) : [],
)

const working = ref<Verdict | null>(null)
const focus = ref('')
function open(verdict: Verdict, key: string) {
  working.value = verdict
  focus.value = key
}

function download(name: string, media: string, text: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type: media }))
  link.download = name
  link.click()
  URL.revokeObjectURL(link.href)
}
const out = (form: 'csv' | 'ecsv' | 'kept' | 'culled') =>
  attempt(async () => {
    if (run.value === null) return
    const asked = { path: { record_id: run.value }, query: { form, choices: choices.value } as never }
    const file = await answer(api.GET('/api/frames/runs/{record_id}/list', { params: asked }))
    download(file.name, file.media, file.text)
  })
/** By the clock of the place, as every time here. */
const when = (one: { begins_at: string | null }) =>
  one.begins_at
    ? new Date(one.begins_at).toLocaleTimeString('en-GB', {
        hour: '2-digit',
        minute: '2-digit',
        timeZone: tonight.value?.time_zone ?? 'UTC',
      })
    : ''
const changed = (folder: Folder, state: Parameters<typeof change>[1]) => attempt(() => change(folder, state))
</script>

<template>
  <main class="page">
    <h1 class="unseen">Frames</h1>
    <ContextDesk :refusal="refusal" :settled="settled" @retry="retry()" />
    <NothingChosen v-if="!context" />
    <template v-else>
      <FolderBar
        :folders="folders"
        :there="there"
        :trouble="trouble"
        :bringing="bringing"
        :refused="refused"
        @bring="bring"
        @stop-bringing="stopBringing"
        @read="(where, watched) => attempt(() => read(where, watched))"
        @change="changed"
        @set-clock="(folder, clock) => attempt(() => setClock(folder, clock))"
        @move="(folder, evening) => attempt(() => move(folder, evening))"
        @remove="(folder) => attempt(() => remove(folder))" />
      <NothingHere
        v-if="!runs.length"
        words="No frames for this night. Choose their folder or upload them; each is checked as it is read.">
        <Button v-if="last && last.night !== night" @click="goToLast">
          Go to the night of {{ dateWords(last.night ?? '') }}: {{ last.frames }} frames of {{ last.name }}
        </Button>
      </NothingHere>
      <template v-else>
        <nav class="runs" aria-label="Runs">
          <button
            v-for="one in runs"
            :key="one.id"
            type="button"
            class="run panel"
            :aria-pressed="one.id === run"
            @click="chosen = one.id">
            <strong>{{ one.recognition in NOT_RECOGNISED ? 'Not recognised' : one.target_name }}</strong>
            {{ one.frames }} × {{ one.exposure_s ?? '?' }} s<template v-if="one.iso">, ISO {{ one.iso }}</template>
            <small
              >{{ when(one) }}<template v-if="one.headline"> · {{ one.headline }}</template></small
            >
          </button>
        </nav>
        <Alert
          v-for="one in alarms"
          :key="one.key"
          type="warning"
          show-icon
          role="alert"
          :message="one.name"
          :description="one.now" />
        <div v-if="judged && small" class="tabs" role="tablist" aria-label="Sides of this run">
          <button
            v-for="[key, name] in SIDES"
            :key="key"
            type="button"
            role="tab"
            :aria-selected="side === key"
            @click="side = key">
            {{ name }}
          </button>
        </div>
        <div v-if="judged" class="sides">
          <div v-show="isOn('time', 'frame', 'plan', 'table')" class="main">
            <section v-show="isOn('time')" class="panel plot" aria-label="The run over time">
              <RunTimeline
                :run="judged"
                :selected="selected"
                :marked="marked"
                :line="lineKey ? { key: lineKey, at: lineAt } : null"
                @select="selected = $event"
                @brush="brushed = $event"
                @line="lineAt = $event" />
            </section>
            <section v-show="isOn('time')" class="panel tools" aria-label="Cull by a line">
              <label for="frames-line">Cull by a line</label>
              <Choice
                id="frames-line"
                v-model="lineKey"
                :options="LINE_OPTIONS"
                placeholder="choose a figure"
                class="line" />
              <Button v-if="lineKey" size="small" @click="lineKey = undefined">No line</Button>
              <template v-if="lineKey">
                <label for="frames-at" class="unseen">Where the line lies</label>
                <InputNumber
                  id="frames-at"
                  v-model:value="lineAt"
                  :step="0.05"
                  :parser="(text: string) => String(typed(text) ?? '')" />
                <Button :disabled="!overLine.length" @click="sayTo(overLine, 'cull')">
                  Cull {{ overLine.length }} {{ LANES[lineKey].beyond }} it
                </Button>
              </template>
              <template v-if="brushed.length">
                <span>{{ brushed.length }} frames drawn over</span>
                <Button @click="sayTo(drawnOver, 'cull')">Cull them</Button>
                <Button @click="sayTo(drawnOver, 'keep')">Keep them</Button>
                <Button type="text" @click="brushed = []">Let them go</Button>
              </template>
            </section>
            <FrameLook
              v-if="frame"
              v-show="isOn('frame')"
              v-model:twice="twice"
              v-model:blinking="blinking"
              :frame="frame"
              :ahead="ahead"
              :word="WORDS[wordOf(frame)]"
              @step="step"
              @say="sayHere" />
            <PlanPanel
              v-if="plan?.verdict"
              v-show="isOn('plan')"
              :figures="plan.figures"
              :verdict="plan.verdict"
              @working="open(plan.verdict, $event)"
              @plan-with="(one) => attempt(() => planWith(one))" />
            <FrameTable
              v-show="isOn('table')"
              :run="judged"
              :selected="selected"
              :cause="cause"
              @select="selected = $event"
              @say="(place, said) => sayTo([frames[place]!], said)" />
          </div>
          <aside v-show="isOn('verdict', 'out')" class="aside">
            <VerdictCard
              v-show="isOn('verdict')"
              :verdict="judged.verdict"
              :night="night ?? ''"
              @working="open(judged.verdict, $event)">
              <TrailRose :run="judged" :selected="selected" @select="selected = $event" />
            </VerdictCard>
            <CauseList
              v-show="isOn('verdict')"
              :run="judged"
              :chosen="cause"
              @choose="cause = cause === $event ? '' : $event" />
            <TeachPanel
              v-if="judged.lessons.length || axis?.error"
              v-show="isOn('out')"
              :run="judged"
              :axis="axis ?? null"
              @learn="(one) => attempt(() => learn(one))"
              @keep-axis="attempt(keepAxis)" />
            <OutPanel
              v-show="isOn('out')"
              :run="judged"
              :trouble="failed"
              :choices="choices"
              @count="(missing) => attempt(() => count(missing))"
              @assign="(target) => attempt(() => assign(target))"
              @list="out" />
          </aside>
        </div>
      </template>
    </template>
    <WorkingDrawer :verdict="working" :focus="focus" @close="working = null" />
  </main>
</template>

<style scoped>
.page {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 8px 12px 12px;
  min-width: 0;
}
.runs {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.run {
  text-align: left;
  padding: 6px 12px;
  font: inherit;
  color: inherit;
  cursor: pointer;
  display: grid;
}
.run[aria-pressed='true'] {
  box-shadow: inset 3px 0 0 var(--accent);
}
.tabs {
  display: flex;
  gap: 6px;
  overflow-x: auto;
}
.tabs button {
  flex: none;
  min-height: 44px;
  padding: 0 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--panel);
  color: inherit;
  font: inherit;
  cursor: pointer;
}
.tabs [aria-selected='true'] {
  box-shadow: inset 0 -3px 0 var(--accent);
  font-weight: 600;
}
.sides {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  gap: 8px;
  align-items: start;
}
.main,
.aside {
  display: grid;
  gap: 8px;
  min-width: 0;
}
.plot {
  height: 360px;
  padding: 4px 6px;
}
.tools {
  padding: 8px 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
.line {
  min-width: 190px;
}
@media (max-width: 1000px) {
  .sides {
    grid-template-columns: minmax(0, 1fr);
  }
  .aside {
    order: -1;
  }
}
</style>
