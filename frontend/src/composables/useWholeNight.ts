/** A whole night planned: what is wished for, which runs are fixed, and the best order around them. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, toRaw, watch } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import type { Choices } from './choices'
import { useContext } from './useContext'
import { saveFile } from './useFiles'
import { useLanes } from './useNights'
import { useRefresh } from './useRefresh'
import { offerUndo, say } from './useUndo'

export type Whole = Schemas['WholeOut']
export type Planned = Schemas['PlannedRun']
type Wish = Schemas['WishShape']
type Run = Schemas['RunShape']
export type Limits = Required<Schemas['LimitsShape']>
interface Plan {
  rigs: number[]
  wishes: Wish[]
  limits: Limits
  dropped: Required<Schemas['DroppedShape']>[]
  /** Rig and target that are shot although the target is no size for that frame. */
  chosen: Schemas['PairShape'][]
  /** Whose other nights count as if they were shot. */
  trip: number | null
  held: Run[]
  /** All runs as they were kept, and what was asked then: they hold until that is changed. */
  kept: { runs: Run[]; of: string } | null
}

const SETTLE_MS = 450
export const NO_LIMITS: Limits = { sleep_from: '', sleep_to: '', awakenings: 0, not_before: '', not_after: '' }
export const AS_IT_COMES = { framing: null, weight: 1, least_h: 0 }
const same = (
  one: { rig: number; wish: number; panel?: number },
  other: { rig: number; wish: number; panel?: number },
) => one.rig === other.rig && one.wish === other.wish && (one.panel ?? 0) === (other.panel ?? 0)
const whatIsTyped = ({ wishes, limits, trip }: Plan) => JSON.stringify([wishes, limits, trip])
const plainly = <T>(one: T) => JSON.parse(JSON.stringify(one)) as T
/** A planned run as it is sent back: by the whole slots that are its own. */
const asRun = ({ run }: Planned, held: boolean): Run => ({
  rig: run.stand,
  wish: run.wish,
  panel: run.panel,
  begins_at: run.held_from,
  ends_at: run.held_to,
  held,
})

/** What is kept of the night in the context. */
export function useKeptNight() {
  const { spot, night } = useContext()
  const where = computed(() => (spot.value && night.value ? { spot: spot.value, night: night.value } : null))
  const { data: kept } = useQuery({
    queryKey: ['whole', 'kept', where],
    queryFn: () =>
      answer(api.GET('/api/nights/whole', { params: { query: where.value as NonNullable<typeof where.value> } })),
    enabled: computed(() => where.value !== null),
  })
  return { where, kept }
}

export function useWholeNight() {
  const { rig, target, framing, choices } = useContext()
  const refresh = useRefresh()
  const { data: lanes } = useLanes()
  const { where, kept } = useKeptNight()

  const plan = ref<Plan | null>(null)
  const begun = ref('')
  let asBegun = ''
  /** The night as it was kept, else one picture each of what the night is for, with the rig in use. */
  watch(
    [where, kept, lanes],
    () => {
      const key = JSON.stringify(where.value)
      if (!where.value || !kept.value) return
      // An answer kept from before a reload comes first; a newer one begins anew while nothing was changed.
      if (begun.value === key && JSON.stringify(plan.value) !== asBegun) return
      if (kept.value.asked) {
        const { rigs, wishes, limits, dropped, trip, chosen } = kept.value.asked
        plan.value = {
          rigs,
          wishes: wishes.map((one) => ({ ...AS_IT_COMES, ...one })),
          limits: { ...NO_LIMITS, ...limits },
          dropped: (dropped ?? []).map((one) => ({ ...one, panel: one.panel ?? 0 })),
          chosen: chosen ?? [],
          trip: trip ?? null,
          held: kept.value.runs.filter((one) => one.held),
          kept: null,
        }
        if (kept.value.runs.length) plan.value.kept = { runs: kept.value.runs, of: whatIsTyped(plan.value) }
      } else {
        if (!lanes.value || !rig.value) return
        const wishes = lanes.value.targets.map((id) => ({
          target: id,
          ...AS_IT_COMES,
          framing: id === target.value ? framing.value : null,
        }))
        const trip = kept.value.trips[0]?.id ?? null
        plan.value = {
          rigs: [rig.value],
          wishes,
          limits: { ...NO_LIMITS },
          dropped: [],
          chosen: [],
          trip,
          held: [],
          kept: null,
        }
      }
      begun.value = key
      asBegun = JSON.stringify(plan.value)
    },
    { immediate: true },
  )

  /** As they were kept; what is typed into a field sets all free to move again. */
  const keptRuns = computed(() =>
    plan.value?.kept && plan.value.kept.of === whatIsTyped(plan.value) ? plan.value.kept.runs : null,
  )
  const asKept = computed(() => keptRuns.value !== null)

  /** A copy: what is typed into a field changes it, and each change is asked about as a whole. */
  const body = computed(() =>
    plan.value && where.value && begun.value === JSON.stringify(where.value)
      ? plainly({
          ...where.value,
          rigs: plan.value.rigs,
          wishes: plan.value.wishes,
          limits: plan.value.limits,
          dropped: plan.value.dropped,
          chosen: plan.value.chosen,
          trip: plan.value.trip,
          choices: choices.value as Choices,
          runs: keptRuns.value ?? plan.value.held,
          kept: keptRuns.value !== null,
        })
      : null,
  )
  const settled = refDebounced(body, SETTLE_MS)
  const { data, error, isFetching, isPlaceholderData } = useQuery({
    queryKey: ['whole', 'best', settled],
    queryFn: ({ signal }) =>
      answer(api.POST('/api/nights/whole', { body: settled.value as NonNullable<typeof settled.value>, signal })),
    enabled: computed(() => settled.value !== null),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    retry: false,
  })
  /** An answer at once to a moved run, shown until the best order is known. */
  const quick = shallowRef<Whole | null>(null)
  watch([data, isPlaceholderData], () => {
    if (!isPlaceholderData.value) quick.value = null
  })
  const shown = computed(() => quick.value ?? data.value ?? null)
  const looking = computed(() => isFetching.value || toRaw(settled.value) !== body.value)
  const refusal = ref<Refusal | null>(null)
  watch(error, (now) => (refusal.value = now instanceof Refusal ? now : null), { immediate: true })

  const past: string[] = []
  const canUndo = ref(false)
  function change(text: string, work: (now: Plan) => void) {
    if (!plan.value) return
    past.push(JSON.stringify(plan.value))
    canUndo.value = true
    const now = plainly(plan.value)
    now.kept = null
    work(now)
    plan.value = now
    if (text) offerUndo(text, () => Promise.resolve(undo()))
  }
  function undo() {
    const before = past.pop()
    if (before) plan.value = JSON.parse(before) as Plan
    canUndo.value = past.length > 0
    quick.value = null
  }

  const afresh = () => change('', () => undefined)

  async function answerAtOnce(moved: number) {
    if (!body.value || !shown.value) return
    const others = shown.value.whole.runs
      .map((one) => asRun(one, false))
      .filter((one) => !body.value?.runs.some((held) => same(held, one)))
    const asked = body.value
    try {
      const found = await answer(
        api.POST('/api/nights/whole', { body: { ...asked, kept: false, runs: [...asked.runs, ...others], moved } }),
      )
      if (asked === body.value && looking.value) quick.value = found
      refusal.value = null
    } catch (failed) {
      if (!(failed instanceof Refusal)) throw failed
      refusal.value = failed
    }
  }

  /** Fix a run where it is, or where it was moved to; minutes count from the start of the strip. */
  function hold(one: Planned, from?: number, to?: number) {
    const start = shown.value ? new Date(shown.value.whole.start).getTime() : 0
    const at = (minute: number) => new Date(start + minute * 60_000).toISOString()
    const fixed = asRun(one, true)
    if (from !== undefined) fixed.begins_at = at(from)
    if (to !== undefined) fixed.ends_at = at(to)
    change(`Fixed ${one.name}.`, (now) => {
      now.held = [...now.held.filter((each) => each.begins_at !== one.run.held_from || !same(each, fixed)), fixed]
    })
    void answerAtOnce(one.run.stand)
  }
  function letGo(one: Planned) {
    change(`${one.name} may move again.`, (now) => {
      const fixed = asRun(one, true)
      now.held = now.held.filter((each) => !(same(each, fixed) && each.begins_at === fixed.begins_at))
    })
  }
  function drop(one: Planned) {
    change(`Dropped ${one.name}.`, (now) => {
      const off = asRun(one, false)
      now.held = now.held.filter((each) => !same(each, off))
      now.dropped.push({ rig: off.rig, wish: off.wish, panel: off.panel ?? 0 })
    })
  }
  /** Whether a rig may shoot a target: ticked in the grid. */
  const mayShoot = (rig: number, wish: number) => {
    const now = plan.value
    if (!now) return false
    const off = now.dropped.filter((one) => one.rig === rig && one.wish === wish).length
    if (off >= Math.max(shown.value?.wishes[wish]?.panels.length ?? 1, 1)) return false
    const size = suitsOf(rig, wish)
    return !size || size.suits || now.chosen.some((one) => one.rig === rig && one.wish === wish) || size.on
  }
  const suitsOf = (rig: number, wish: number) =>
    shown.value?.whole.suits.find((one) => one.stand === rig && one.wish === wish) ?? null
  function letShoot(rig: number, wish: number, on: boolean) {
    const panels = Math.max(shown.value?.wishes[wish]?.panels.length ?? 1, 1)
    const others = <T extends { rig: number; wish: number }>(list: T[]) =>
      list.filter((one) => one.rig !== rig || one.wish !== wish)
    change('', (now) => {
      now.dropped = others(now.dropped)
      now.chosen = others(now.chosen)
      if (on && suitsOf(rig, wish)?.suits === false) now.chosen.push({ rig, wish })
      if (on) return
      now.held = others(now.held)
      for (let panel = 0; panel < panels; panel += 1) now.dropped.push({ rig, wish, panel })
    })
  }
  const takeBackDropped = () => change('All may be shot again.', (now) => (now.dropped = []))
  /** The first half stays; the rest is filled in anew. */
  function split(one: Planned) {
    if (!shown.value) return
    const start = new Date(shown.value.whole.start).getTime()
    const [from, to] = [one.run.held_from, one.run.held_to].map((at) => (new Date(at).getTime() - start) / 60_000)
    const slot = shown.value.whole.slot
    if (from === undefined || to === undefined) return
    hold(one, from, from + Math.round((to - from) / 2 / slot) * slot)
  }

  const trips = computed(() => kept.value?.trips ?? [])
  const saved = computed(() => {
    const was = kept.value
    if (!was?.asked || !shown.value || looking.value) return false
    const now = shown.value.whole.runs.map(
      (one) => `${one.run.stand} ${one.run.wish} ${one.run.panel} ${one.run.held_from}`,
    )
    const then = was.runs.map((one) => `${one.rig} ${one.wish} ${one.panel ?? 0} ${one.begins_at}`)
    return now.length === then.length && now.every((one) => then.includes(one))
  })
  async function keep() {
    if (!body.value || !shown.value) return
    const runs = shown.value.whole.runs.map((one) => asRun(one, one.run.held))
    await answer(api.PUT('/api/nights/whole', { body: { ...body.value, runs } }))
    await refresh()
    say('Kept the plan of this night.')
  }
  /** On paper goes what is kept, so that it holds out there. */
  const { data: sheet } = useQuery({
    queryKey: ['whole', 'kept', 'sheet', where, computed(() => kept.value?.runs)],
    queryFn: () =>
      answer(api.GET('/api/nights/whole/sheet', { params: { query: where.value as NonNullable<typeof where.value> } })),
    enabled: computed(() => saved.value && Boolean(kept.value?.runs.length)),
  })
  async function cues() {
    if (where.value) saveFile(await answer(api.GET('/api/nights/whole/cues', { params: { query: where.value } })))
  }
  return {
    plan, where, trips, shown, looking, refusal, asKept, saved, canUndo,
    sheet: computed(() => (saved.value ? (sheet.value ?? null) : null)),
    change, undo, hold, letGo, drop, takeBackDropped, mayShoot, suitsOf, letShoot, split, afresh, keep, cues,
  } // prettier-ignore
}
