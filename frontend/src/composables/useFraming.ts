/** One target composed: the frame as it is held, what shall be in it, its panels; kept when the person says so. */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, inject, provide, ref, watch, type InjectionKey } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import type { Held } from '@/instruments/skychart'

import { useContext } from './useContext'
import { upload } from './useFiles'
import { useFramings } from './useFramings'
import { useTargets } from './useRecords'
import { useRefresh } from './useRefresh'
import { offerUndo } from './useUndo'

export type Subject = Schemas['SubjectShape'] & { key: string }
type Place = { ra: number; dec: number }

const SETTLE_MS = 160
/** Chart data are asked for around a grid of places, so that a small move asks for nothing. */
const STEPS = 6

const bare = ({ name, ra_deg, dec_deg, long_deg, short_deg, angle_deg }: Subject) => ({
  name,
  ra_deg,
  dec_deg,
  long_deg,
  short_deg,
  angle_deg,
})
/** An entry of the catalogue as something that shall be in the picture. */
export const asSubject = (one: Schemas['EntryOut']) => ({
  name: one.name,
  ra_deg: one.ra_deg,
  dec_deg: one.dec_deg,
  long_deg: one.extent_deg,
  short_deg: one.width_deg ?? null,
  angle_deg: one.angle_deg ?? 0,
})
const toggled = (list: Subject[], one: Omit<Subject, 'key'>) => {
  const key = keyOf(one)
  return list.some((each) => each.key === key) ? list.filter((each) => each.key !== key) : [...list, { ...one, key }]
}

const keyOf = (one: { ra_deg: number; dec_deg: number; name: string }) => `${one.name} ${one.ra_deg.toFixed(3)}`

export function useFraming() {
  const { rig, target, change } = useContext()
  const { data: targets } = useTargets()
  const { framings, these, chosen } = useFramings()
  const refresh = useRefresh()
  const subject = computed(() => targets.value?.items.find((one) => one.id === target.value) ?? null)
  /** The one in the context; while its target stands by its own middle, the first that was kept of it. */
  const kept = computed(() => chosen.value ?? these.value[0] ?? null)

  const held = ref<Held>({ ra: 0, dec: 0, angle: 0 })
  const fieldDeg = ref(20)
  /** The middle of the drawing. */
  const middle = ref<Place>({ ra: 0, dec: 0 })
  const wanted = ref<Subject[]>([])
  const avoided = ref<Subject[]>([])
  const columns = ref<number | string | null>(1)
  const rows = ref<number | string | null>(1)
  const overlapPercent = ref<number | string | null>(20)
  const grid = ref<'turned' | 'equatorial'>('turned')
  const dropped = ref<Schemas['OnGrid'][]>([])
  const loaded = ref<string | null>(null)
  const wholeOf = () => `${subject.value?.id} ${kept.value?.id ?? ''}`

  function load() {
    const one = subject.value
    if (!one || !framings.value) return
    const stored = kept.value
    held.value = stored
      ? { ra: stored.ra_deg, dec: stored.dec_deg, angle: stored.angle_deg ?? 0 }
      : { ra: one.ra_deg, dec: one.dec_deg, angle: 0 }
    middle.value = { ra: held.value.ra, dec: held.value.dec }
    const itself = {
      key: keyOf(one),
      name: one.name,
      ra_deg: one.ra_deg,
      dec_deg: one.dec_deg,
      long_deg: one.extent_deg,
      short_deg: one.width_deg ?? null,
      angle_deg: one.angle_deg ?? 0,
    }
    avoided.value = (stored?.avoided ?? []).map((each) => ({ ...each, key: keyOf(each) }))
    grid.value = stored?.grid ?? 'turned'
    wanted.value = stored?.wanted?.length ? stored.wanted.map((each) => ({ ...each, key: keyOf(each) })) : [itself]
    columns.value = stored?.columns ?? 1
    rows.value = stored?.rows ?? 1
    overlapPercent.value = Math.round((stored?.overlap ?? 0.2) * 1000) / 10
    dropped.value = [...(stored?.dropped ?? [])]
    loaded.value = wholeOf()
  }
  /** As it was loaded: a framing kept elsewhere meanwhile shows as long as nothing was touched here. */
  let untouched = ''
  const touches = () =>
    JSON.stringify([
      held.value,
      wanted.value,
      avoided.value,
      columns.value,
      rows.value,
      overlapPercent.value,
      grid.value,
      dropped.value,
    ])
  watch(
    [subject, framings, kept],
    () => {
      const same = loaded.value === wholeOf()
      if (!subject.value || (same && touches() !== untouched)) return
      load()
      untouched = touches()
    },
    { immediate: true },
  )

  const sought = computed(() => {
    const step = fieldDeg.value / STEPS
    const dec = Math.min(Math.max(Math.round(middle.value.dec / step) * step, -90), 90)
    const wide = step / Math.max(Math.cos((dec * Math.PI) / 180), 0.05)
    return {
      ra_deg: (Math.round(middle.value.ra / wide) * wide) % 360,
      dec_deg: dec,
      field_deg: Math.min(fieldDeg.value * 2, 120),
    }
  })
  const { data: sky } = useQuery({
    queryKey: ['sky', sought],
    queryFn: () => answer(api.GET('/api/framings/sky', { params: { query: sought.value } })),
    enabled: computed(() => loaded.value !== null),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })

  const shape = computed(() => ({
    name: subject.value ? `${subject.value.name}`.slice(0, 120) : 'framing',
    ra_deg: held.value.ra,
    dec_deg: held.value.dec,
    angle_deg: held.value.angle,
    columns: columns.value as number,
    rows: rows.value as number,
    overlap:
      typeof overlapPercent.value === 'number'
        ? overlapPercent.value / 100
        : (overlapPercent.value as unknown as number),
    grid: grid.value,
    dropped: dropped.value.filter(
      (one) => one.row < Number(rows.value ?? 1) && one.column < Number(columns.value ?? 1),
    ),
    wanted: wanted.value.map(bare),
    avoided: avoided.value.map(bare),
  }))
  const asked = refDebounced(
    computed(() => JSON.stringify({ ...shape.value, rig: rig.value })),
    SETTLE_MS,
  )
  const { data: laid, error } = useQuery({
    queryKey: ['framing', 'panels', asked],
    queryFn: () => answer(api.POST('/api/framings/panels', { body: JSON.parse(asked.value) as Schemas['PanelsIn'] })),
    enabled: computed(() => loaded.value !== null && rig.value !== null),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))

  /** The frame that holds all that is wanted; panels are laid aside. */
  async function compose(turn: Schemas['ComposeIn']['turn'], hold: Schemas['ComposeIn']['hold']) {
    if (rig.value === null) return null
    const found = await answer(
      api.POST('/api/framings/compose', {
        body: { rig: rig.value, subjects: shape.value.wanted, avoided: shape.value.avoided, turn, hold },
      }),
    )
    held.value = { ra: found.frame.ra_deg, dec: found.frame.dec_deg, angle: found.frame.angle_deg }
    columns.value = 1
    rows.value = 1
    dropped.value = []
    return found
  }
  async function fewest() {
    if (rig.value === null) return
    const body = { ...shape.value, columns: 1, rows: 1, dropped: [], rig: rig.value, fewest: true }
    const found = await answer(api.POST('/api/framings/panels', { body }))
    columns.value = found.columns
    rows.value = found.rows
    dropped.value = []
  }
  function drop(row: number, column: number) {
    const left = dropped.value.filter((one) => one.row !== row || one.column !== column)
    dropped.value = left.length < dropped.value.length ? left : [...left, { row, column }]
  }
  const want = (one: Omit<Subject, 'key'>) => (wanted.value = toggled(wanted.value, one))
  const avoid = (one: Omit<Subject, 'key'>) => (avoided.value = toggled(avoided.value, one))

  /** Taken in from a file: it is kept already, and shown. */
  async function take(file: File) {
    if (target.value === null) return
    const found = await answer(
      api.POST('/api/framings/file', {
        params: { query: { target: target.value } },
        ...upload(file),
      }),
    )
    await refresh()
    await change({ framing: found.id })
  }
  const file = (form: 'csv' | 'ecsv' | 'outlines') =>
    answer(
      api.POST('/api/framings/file/{form}', {
        params: { path: { form } },
        body: { ...shape.value, rig: rig.value as number, fewest: false },
      }),
    )

  async function keep() {
    if (target.value === null) return
    const body = { ...shape.value, target: target.value, version: kept.value?.version ?? null }
    const before = kept.value
    const stored = before
      ? await answer(api.PUT('/api/framings/{record_id}', { params: { path: { record_id: before.id } }, body }))
      : await answer(api.POST('/api/framings', { body }))
    untouched = touches()
    await refresh()
    loaded.value = `${target.value} ${stored.id}`
    await change({ framing: stored.id })
    if (!before)
      offerUndo(`Kept the framing of ${stored.name}.`, async () => {
        await answer(api.DELETE('/api/framings/{record_id}', { params: { path: { record_id: stored.id } } }))
        await change({ framing: null })
        await refresh()
      })
  }
  return {
    subject,
    kept,
    held,
    fieldDeg,
    middle,
    wanted,
    avoided,
    grid,
    shape,
    columns,
    rows,
    overlapPercent,
    sky,
    laid,
    refusal,
    compose,
    fewest,
    drop,
    want,
    avoid,
    keep,
    take,
    file,
    keyOf,
  }
}

export type Composing = ReturnType<typeof useFraming>
const HELD: InjectionKey<Composing> = Symbol('framing')
/** One composition for all sides of the workspace: what is not kept yet goes with whoever turns from one to another. */
export function provideFraming(): Composing {
  const made = useFraming()
  provide(HELD, made)
  return made
}
export function theFraming(): Composing {
  const found = inject(HELD)
  if (!found) throw new Error('theFraming is used within the workspace Framing')
  return found
}
