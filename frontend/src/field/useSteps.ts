/** Which step is next by the clock of the night, and what runs. Moments are looked up in the pack; nothing of the trade is computed. */
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'

import type { Pause } from './fold'
import { useField } from './useField'

export type Step = Schemas['Step']
export type Run = Schemas['PackRun']

const LATE_MS = 10 * 60_000 // a run that nobody started for so long after its time is asked about
const AT_WORK_MS = 15 * 60_000 // whoever ticked a step so lately works through the list, late or not
const chosen = ref<string | null>(null) // a step that was looked up, in place of the next

/** What is done without a break: the steps of a run, or of a rig in one phase. */
const blockOf = (step: Step) => step.run || `${step.phase}:${step.rig ?? ''}`

export function useSteps() {
  const { pack, state, now } = useField()
  const steps = computed(() => pack.value?.steps ?? [])
  const runOf = (key: string) => pack.value?.runs.find((run) => run.key === key)
  const begun = (run: string) => state.value.runs.get(run)?.begun ?? null
  const ended = (run: string) => state.value.runs.get(run)?.ended ?? null
  const pausesOf = (run: string): Pause[] => state.value.runs.get(run)?.pauses ?? []
  const done = (step: Step) =>
    state.value.checked.has(`step:${step.key}`) || (step.kind === 'run' && begun(step.run) !== null)
  const putOff = (step: Step) => !done(step) && state.value.putOff.has(`step:${step.key}`)
  const dueOf = (step: Step) => Date.parse(step.due)
  const atWork = computed(() => {
    const ticks = state.value.standing.filter((one) => one.kind === 'checked' || one.kind === 'begun')
    const last = ticks.at(-1)
    return last !== undefined && now.value - (Date.parse(last.at) - last.offset_s * 1000) < AT_WORK_MS
  })
  /** The moment of the latest block that should be well under way by now. */
  const reached = computed(() => {
    const due = steps.value.map(dueOf).filter((moment) => moment + LATE_MS <= now.value)
    return due.length ? Math.max(...due) : -Infinity
  })
  const blockBegins = computed(() => {
    const found = new Map<string, number>()
    for (const step of steps.value)
      found.set(blockOf(step), Math.min(found.get(blockOf(step)) ?? Infinity, dueOf(step)))
    return found
  })
  /** Whether the night has gone on to something else since. */
  function past(step: Step): boolean {
    if (atWork.value) return false
    const mine = blockBegins.value.get(blockOf(step)) ?? 0
    return [...blockBegins.value].some(
      ([block, begins]) => block !== blockOf(step) && begins > mine && begins <= reached.value && begins > dueOf(step),
    )
  }
  const over = (step: Step) => step.kind === 'run' && Date.parse(runOf(step.run)?.ends_at ?? step.due) < now.value
  const open = computed(() => steps.value.filter((one) => !done(one)))
  const passed = computed(() => open.value.filter((one) => one.kind !== 'run' && !putOff(one) && past(one)))
  const next = computed(
    () =>
      open.value.find((one) => !putOff(one) && !past(one) && !over(one)) ??
      open.value.find((one) => !past(one) && !over(one)) ??
      null,
  )
  const current = computed(() => steps.value.find((one) => one.key === chosen.value) ?? next.value)
  const place = computed(() => (current.value ? steps.value.indexOf(current.value) : steps.value.length))
  const left = computed(() => open.value.length)
  /** A run of which nobody said whether it was started, though its time has come or gone: the last such one first. */
  const unsaid = computed<Run | null>(() => {
    if (chosen.value) return null
    const late = open.value.filter((one) => one.kind === 'run' && !putOff(one) && dueOf(one) + LATE_MS < now.value)
    const step = late
      .filter((one) => !(atWork.value && blockOf(one) === (next.value ? blockOf(next.value) : '')))
      .at(-1)
    return (step && runOf(step.run)) ?? null
  })

  const underWay = computed(() =>
    (pack.value?.runs ?? []).filter((run) => begun(run.key) !== null && ended(run.key) === null),
  )
  /** How many frames are done so many seconds after a start, looked up in the run's table. */
  function framesAfter(run: Run, seconds: number): number {
    let [low, high] = [0, run.done_after_s.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((run.done_after_s[middle] ?? 0) <= seconds) low = middle + 1
      else high = middle
    }
    return low
  }
  /** When the timer was last started, with how many frames taken before, and how many it is set to. */
  function setting(run: Run, moment: number): { since: number; before: number; count: number; resting: boolean } {
    const begins = begun(run.key) ?? moment
    const pause = pausesOf(run.key)
      .filter((one) => one.begun <= moment)
      .at(-1)
    if (!pause) return { since: begins, before: 0, count: run.frames, resting: false }
    const resting = pause.ended === null || moment < pause.ended
    return { since: pause.ended ?? moment, before: pause.frames, count: resting ? 0 : (pause.follow ?? 0), resting }
  }
  function framesBy(run: Run, moment: number): number {
    const { since, before, count } = setting(run, moment)
    return before + Math.min(count, framesAfter(run, (moment - since) / 1000))
  }
  const framesDone = (run: Run) => framesBy(run, now.value)
  const resting = (run: Run) => setting(run, now.value).resting
  /** How many it will have in the end. */
  function framesWanted(run: Run): number {
    const { before, count, resting: stopped } = setting(run, now.value)
    return stopped ? run.frames : before + count
  }
  /** Which frame the shutter is open for and how long still; none between frames, in a pause and after the last. */
  function frameNow(run: Run): { number: number; leftS: number; waits: boolean } | null {
    const { since, before, count, resting: stopped } = setting(run, now.value)
    const seconds = (now.value - since) / 1000
    const index = framesAfter(run, seconds)
    const ends = run.done_after_s[index]
    if (stopped || index >= count || ends === undefined) return null
    const leftS = ends - seconds
    return leftS > run.exposure_s
      ? { number: before + index + 1, leftS: leftS - run.exposure_s, waits: true }
      : { number: before + index + 1, leftS, waits: false }
  }
  /** When the timer has taken all it is set to; of a run at rest, when it was to end by the plan. */
  function endsAt(run: Run): number {
    const { since, count, resting: stopped } = setting(run, now.value)
    return stopped ? Date.parse(run.ends_at) : since + (run.done_after_s[count - 1] ?? 0) * 1000
  }
  /** How many more frames fit in until the run was to end by the plan. */
  const fitting = (run: Run) =>
    Math.min(run.frames - framesDone(run), framesAfter(run, (Date.parse(run.ends_at) - now.value) / 1000))
  /** When something of a run is due that comes so many seconds after its start, pauses not counted; never while it rests. */
  function dueAfter(run: Run, seconds: number): number {
    let at = (begun(run.key) ?? 0) + seconds * 1000
    for (const pause of pausesOf(run.key))
      if (at > pause.begun) at = pause.ended === null ? Infinity : at + pause.ended - pause.begun
    return at
  }

  return {
    steps,
    chosen,
    current,
    place,
    left,
    passed,
    unsaid,
    done,
    putOff,
    dueOf,
    begun,
    ended,
    pausesOf,
    underWay,
    framesBy,
    framesDone,
    framesWanted,
    frameNow,
    fitting,
    resting,
    endsAt,
    dueAfter,
  }
}
