/** Which step is next, and what runs. */
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'

import { useField } from './useField'

export type Step = Schemas['Step']
export type Run = Schemas['PackRun']

const chosen = ref<string | null>(null) // a step that was looked up, in place of the next

export function useSteps() {
  const { pack, state, now } = useField()
  const steps = computed(() => pack.value?.steps ?? [])
  const begun = (run: string) => state.value.runs.get(run)?.begun ?? null
  const ended = (run: string) => state.value.runs.get(run)?.ended ?? null
  const done = (step: Step) =>
    state.value.checked.has(`step:${step.key}`) || (step.kind === 'run' && begun(step.run) !== null)
  const putOff = (step: Step) => !done(step) && state.value.putOff.has(`step:${step.key}`)
  const next = computed(
    () => steps.value.find((one) => !done(one) && !putOff(one)) ?? steps.value.find((one) => !done(one)) ?? null,
  )
  const current = computed(() => steps.value.find((one) => one.key === chosen.value) ?? next.value)
  const place = computed(() => (current.value ? steps.value.indexOf(current.value) : steps.value.length))
  const left = computed(() => steps.value.filter((one) => !done(one)).length)

  const underWay = computed(() =>
    (pack.value?.runs ?? []).filter((run) => begun(run.key) !== null && ended(run.key) === null),
  )
  /** How many frames of a run are done by now, looked up in its table. */
  function framesBy(run: Run, moment: number): number {
    const since = (moment - (begun(run.key) ?? moment)) / 1000
    let [low, high] = [0, run.done_after_s.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((run.done_after_s[middle] ?? 0) <= since) low = middle + 1
      else high = middle
    }
    return low
  }
  const framesDone = (run: Run) => framesBy(run, now.value)
  const endsAt = (run: Run) => (begun(run.key) ?? 0) + (run.done_after_s.at(-1) ?? 0) * 1000

  return { steps, chosen, current, place, left, done, putOff, begun, ended, underWay, framesBy, framesDone, endsAt }
}
