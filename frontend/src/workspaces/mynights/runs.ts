/** Runs in words: states, figures, and who says what. */
import type { Schemas } from '@/api/client'
import type { Run } from '@/composables/useScheduled'

export type { Run }
export type Statement = Schemas['StatementOut']

export const STATE_NAMES: Record<Run['state'], string> = {
  planned: 'Planned',
  running: 'Running',
  done: 'Done',
  dropped: 'Dropped',
  noted: 'Noted by hand',
}
export const SOURCE_NAMES: Record<Statement['source'], string> = {
  plan: 'the plan',
  phone: 'the phone',
  files: 'the files',
  user: 'you',
}
export const FIGURE_NAMES: Record<Statement['figure'], string> = {
  planned: 'In the plan',
  skipped: 'Skipped',
  begins_at: 'Start',
  ends_at: 'End',
  frames: 'Frames',
  kept: 'Frames kept',
  exposure_s: 'Sub',
  f_number: 'f-number',
  iso: 'ISO',
  sky_mag: 'Sky',
  filter_name: 'Filter',
}
const UNITS: Partial<Record<Statement['figure'], string>> = { exposure_s: ' s', sky_mag: ' mag/arcsec²' }

/** A statement, or a moment, as it reads at the place of the run. */
export function valueWords(run: Run, value: Statement | string): string {
  const moment = typeof value === 'string' ? value : value.moment
  if (moment)
    return new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit', timeZone: run.time_zone }).format(
      new Date(moment),
    )
  if (typeof value === 'string') return ''
  if (value.words !== null && value.words !== undefined) return value.words
  if (value.figure === 'planned' || value.figure === 'skipped') return value.number ? 'yes' : 'no'
  return `${Number((value.number ?? 0).toFixed(2))}${UNITS[value.figure] ?? ''}`
}

/** A scheduled run on one line: frames, sub, from when to when. */
export function scheduledLine(run: Run): string {
  const [from, to] = [run.planned_from, run.planned_to].map((moment) => valueWords(run, moment ?? ''))
  return `${run.planned_frames} × ${run.planned_exposure_s} s, ${from} to ${to}`
}

/** The card of a target that is scheduled begins with the schedule; what follows is for this target all night. */
export function asScheduled<T extends { sentence: string }>(verdict: T, runs: readonly Run[]): T {
  return runs.length ? { ...verdict, sentence: `${runs.map(scheduledLine).join('; ')}, as scheduled.` } : verdict
}

/** Frames that lie here and that nobody started by phone run no more: they wait to be counted. Beside a schedule a plan of its own is
 * not followed. */
export function stateName(run: Run, scheduled = false): string {
  if (scheduled && run.origin === 'plan' && run.state === 'planned') return 'Not in the schedule'
  const startedByPhone = run.statements.some((one) => one.figure === 'begins_at' && one.source === 'phone')
  return run.state === 'running' && !startedByPhone ? 'Not counted yet' : STATE_NAMES[run.state]
}

/** Why a run that was shot adds nothing to its target yet; empty where it does. */
export function whyNotCounted(run: Run): string {
  if (['not solved', 'other field', 'other lens'].includes(run.recognition))
    return 'Not recognised, so nothing is counted. Say what these frames show, under Frames.'
  if (run.state !== 'done') return ''
  const missing = [run.f_number === null ? 'f-number' : '', run.exposure_s === null ? 'sub' : ''].filter(Boolean)
  return missing.length
    ? `The ${missing.join(' and the ')} is missing, so nothing is counted. Add it under Frames.`
    : ''
}

/** What is worth listing: that a plan has its run goes without saying. */
export const sourcesOf = (run: Run) => run.statements.filter((one) => one.figure !== 'planned' || !one.number)

/** Who is believed on what was shot; the plan only says what was to be shot. */
export function startedBy(run: Run, figure: Statement['figure']): string {
  const said = run.statements.find((one) => one.figure === figure && one.source !== 'plan' && one.stands)
  return said ? SOURCE_NAMES[said.source].replace('the ', '') : ''
}

/** All runs of a night in one sentence, numbers first. */
export function runSummary(runs: readonly Run[]): string {
  const followed = runs.filter((run) => run.in_plan && run.origin === 'schedule')
  const planned = followed.length ? followed : runs.filter((run) => run.in_plan)
  const sum = (list: readonly Run[], of: (run: Run) => number | null) =>
    list.reduce((all, run) => all + (of(run) ?? 0), 0)
  const counted = (run: Run) => run.kept ?? run.frames
  const over = runs.filter((run) => run.state === 'done' || run.state === 'noted')
  const hours = sum(over, (run) => ((counted(run) ?? 0) * (run.exposure_s ?? 0)) / 3600)
  const parts = [
    planned.length ? `${sum(planned, (run) => run.planned_frames)} frames planned` : 'No plan',
    `${sum(runs, (run) => run.frames ?? run.kept)} shot`,
    `${sum(runs, (run) => run.kept)} kept`,
  ]
  return `${parts.join(', ')}${hours ? `: ${hours.toFixed(1)} h` : ''}.`
}
