/**
 * What calls: the night's own cues, those of the runs under way, and what frames say that can still be mended; each once, until
 * somebody has seen it. What called while the phone slept is told when it wakes.
 */
import { computed } from 'vue'

import { useField } from './useField'
import { useSteps } from './useSteps'
import { useWake } from './useWake'

export interface Call {
  subject: string
  name: string
  at: number
  loud: boolean
  lasting?: boolean // it calls until somebody has heard it
}
const DAY_MS = 86_400_000
const STALE_MS = 20 * 60_000 // what nobody saw for so long calls no more
const MISSED_MS = 8 * 3_600_000 // and is told for so long
const MAX_MISSED = 6

export function useCues() {
  const { alarms, pack, state, now } = useField()
  const { underWay, begun, dueAfter, endsAt, resting } = useSteps()
  const { wakesAt } = useWake()
  const rig = (place: number) => ((pack.value?.rigs.length ?? 0) > 1 ? `, ${pack.value?.rigs[place]?.name ?? ''}` : '')
  const calls = computed<Call[]>(() => {
    // A run that has begun calls by its own clock, and needs no word that it should begin.
    const open = (pack.value?.cues ?? []).filter((one) => !one.run || begun(one.run) === null)
    const found: Call[] = open.map((one) => ({
      subject: `cue:${one.key}`,
      name: one.name,
      at: Date.parse(one.moment),
      loud: one.loud,
      lasting: one.kind === 'wake',
    }))
    for (const run of underWay.value) {
      for (const cue of run.cues)
        found.push({
          subject: `cue:${run.key}:${cue.key}`,
          name: `${cue.name}${rig(run.rig)}`,
          at: dueAfter(run, cue.after_s),
          loud: true,
        })
      if (!resting(run))
        found.push({
          subject: `cue:${run.key}:done`,
          name: `All frames taken: ${run.name}${rig(run.rig)}`,
          at: endsAt(run),
          loud: true,
        })
    }
    if (wakesAt.value)
      found.push({
        subject: `cue:wake:${wakesAt.value}`,
        name: 'Wake up',
        at: wakesAt.value,
        loud: true,
        lasting: true,
      })
    for (const one of alarms.value)
      found.push({ subject: `cue:frames:${one.key}`, name: `${one.name}. ${one.now}`, at: one.since, loud: true })
    return found.sort((one, other) => one.at - other.at)
  })
  const waiting = computed(() =>
    calls.value.filter((one) => one.loud && one.at <= now.value && !state.value.acknowledged.has(one.subject)),
  )
  const ringing = computed(() => waiting.value.filter((one) => one.lasting || now.value - one.at < STALE_MS))
  /** Later than the pack, which knew what was over when it was made. */
  const missed = computed(() =>
    waiting.value
      .filter((one) => !one.lasting && now.value - one.at >= STALE_MS && now.value - one.at < MISSED_MS)
      .filter((one) => one.at > Date.parse(pack.value?.made_at ?? ''))
      .slice(-MAX_MISSED),
  )
  const nextCall = computed(
    () => calls.value.find((one) => one.loud && one.at > now.value && one.at < now.value + DAY_MS) ?? null,
  )
  return { calls, ringing, missed, nextCall }
}

/** "12:05" of minutes and seconds to a moment, "2:54 h" of hours and minutes. */
export function countdown(milliseconds: number): string {
  const seconds = Math.max(Math.round(milliseconds / 1000), 0)
  const two = (value: number) => String(value).padStart(2, '0')
  if (seconds < 3600) return `${Math.floor(seconds / 60)}:${two(seconds % 60)} min`
  return `${Math.floor(seconds / 3600)}:${two(Math.floor((seconds % 3600) / 60))} h`
}
