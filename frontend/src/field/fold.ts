/**
 * What the events on this phone come to. The same rule as the server's (core/field/events.py): each event once, in the stated
 * order; what was taken back is silent; the last word on a subject stands.
 */
export interface FieldEvent {
  id: string
  device: string
  number: number
  at: string
  offset_s: number
  kind: string
  subject: string
  data: Record<string, string | number | boolean | null>
}
/** A run stopped for cloud: frames taken before it in all, and how many were set on the timer when it went on. */
export interface Pause {
  begun: number
  frames: number
  ended: number | null
  follow: number | null
}
export interface RunTold {
  run: string
  begun: number | null
  ended: number | null
  frames: number | null
  pauses: Pause[]
}
export interface Folded {
  checked: Set<string>
  putOff: Set<string>
  acknowledged: Set<string>
  runs: Map<string, RunTold>
  forgotten: string[]
  standing: FieldEvent[]
}

/** Milliseconds, as the server's clock would have told it. */
export const momentOf = (event: FieldEvent) => Date.parse(event.at) - event.offset_s * 1000
const saidOf = (event: FieldEvent) =>
  event.data.at == null ? momentOf(event) : Date.parse(String(event.data.at)) - event.offset_s * 1000

function inOrder(one: FieldEvent, other: FieldEvent): number {
  const compare = (a: string | number, b: string | number) => (a < b ? -1 : a > b ? 1 : 0)
  return (
    compare(momentOf(one), momentOf(other)) ||
    compare(one.device, other.device) ||
    compare(one.number, other.number) ||
    compare(one.id, other.id)
  )
}

/** Events once each, in the stated order, without what was taken back. */
export function standingOf(events: FieldEvent[]): FieldEvent[] {
  const once = new Map<string, FieldEvent>()
  for (const event of [...events].sort(inOrder)) if (!once.has(event.id)) once.set(event.id, event)
  const silenced = new Set<string>()
  for (const event of [...once.values()].reverse())
    if (event.kind === 'taken back' && !silenced.has(event.id)) silenced.add(String(event.data.event))
  return [...once.values()].filter((one) => !silenced.has(one.id) && one.kind !== 'taken back')
}

/** What is said again of a pause that goes on, or of how the last one ended, is the last word on it. */
function takePause(pauses: Pause[], event: FieldEvent): void {
  const frames = Number(event.data.frames)
  const last = pauses.at(-1)
  if (event.kind === 'paused') {
    if (last && last.ended === null) pauses.pop()
    pauses.push({ begun: saidOf(event), frames, ended: null, follow: null })
  } else if (last) [last.ended, last.follow] = [saidOf(event), frames]
}

export function fold(events: FieldEvent[]): Folded {
  const standing = standingOf(events)
  const steps = new Map<string, string>()
  const runs = new Map<string, RunTold>()
  const folded: Folded = {
    checked: new Set(),
    putOff: new Set(),
    acknowledged: new Set(),
    runs,
    forgotten: [],
    standing,
  }
  for (const event of standing) {
    if (event.kind === 'checked' || event.kind === 'put off') steps.set(event.subject, event.kind)
    if (event.kind === 'acknowledged') folded.acknowledged.add(event.subject)
    if (event.kind === 'forgotten') folded.forgotten.push(String(event.data.words).trim())
    if (!['begun', 'paused', 'resumed', 'ended'].includes(event.kind)) continue
    const run = event.subject.split(':')[1] ?? event.subject
    const told = runs.get(run) ?? { run, begun: null, ended: null, frames: null, pauses: [] }
    if (event.kind === 'begun') told.begun = saidOf(event)
    else if (event.kind === 'ended') [told.ended, told.frames] = [saidOf(event), Number(event.data.frames)]
    else takePause(told.pauses, event)
    if (event.kind !== 'resumed' || told.pauses.length) runs.set(run, told)
  }
  for (const [step, kind] of steps) (kind === 'checked' ? folded.checked : folded.putOff).add(step)
  folded.forgotten = [...new Set(folded.forgotten)]
  return folded
}
