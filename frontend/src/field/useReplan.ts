/** The plan that was chosen in place of the first one, looked up in the pack. */
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

import { useField } from './useField'
import { useSteps } from './useSteps'

export type Replan = Schemas['PackReplan']
const SOON_MS = 60_000

const inOrder = (runs: Replan['runs']) =>
  [...runs].sort((one, other) => Date.parse(one.change_at) - Date.parse(other.change_at))

export function useReplan() {
  const { pack, state, now } = useField()
  const { framesDone } = useSteps()
  const all = computed(() => pack.value?.replans ?? [])
  /** Whether what was to be shot by now was shot, for the larger part; else it is as under cloud. */
  const shotSoFar = computed(() => {
    let [wanted, taken] = [0, 0]
    for (const run of pack.value?.runs ?? []) {
      const since = (now.value - Date.parse(run.begins_at)) / 1000
      wanted += run.done_after_s.filter((one) => one <= since).length
      const told = state.value.runs.get(run.key)
      taken += told?.frames ?? (told?.begun ? framesDone(run) : 0)
    }
    return wanted > 0 && taken >= wanted / 2
  })
  /** The first from a moment on. */
  const from = (moment: number, soFar: boolean): Replan | null => {
    const found = all.value.find((one) => one.so_far === soFar && Date.parse(one.moment) >= moment - SOON_MS)
    return found ? { ...found, runs: inOrder(found.runs) } : null
  }
  /** The one that was gone over to last. */
  const followed = computed<Replan | null>(() => {
    const said = state.value.standing.filter((one) => one.kind === 'otherwise' && one.subject === 'night').at(-1)
    if (!said?.data.from) return null
    const found = all.value.find((one) => one.moment === said.data.from && one.so_far === said.data.so_far)
    return found ?? null
  })
  /** What of it is still to come or under way. */
  const ahead = computed(() => inOrder(followed.value?.runs ?? []).filter((run) => Date.parse(run.ends_at) > now.value))
  return { all, from, shotSoFar, followed, ahead }
}
