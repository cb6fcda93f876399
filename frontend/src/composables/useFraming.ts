/** One target composed: the frame as it is held, what shall be in it, its panels; kept when the person says so. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refDebounced } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'
import type { Held } from '@/instruments/skychart'

import { everyPage } from './pages'
import { useContext } from './useContext'
import { useTargets } from './useRecords'
import { offerUndo } from './useUndo'

export type Subject = Schemas['SubjectShape'] & { key: string }
type Kept = Schemas['FramingOut']

const SETTLE_MS = 160
/** Chart data are asked for around a grid of places, so that a small move asks for nothing. */
const STEPS = 6

export function useFramings() {
  return useQuery({
    queryKey: ['framings'],
    queryFn: () => everyPage((query) => answer(api.GET('/api/framings', { params: { query } }))),
  })
}

const keyOf = (one: { ra_deg: number; dec_deg: number; name: string }) => `${one.name} ${one.ra_deg.toFixed(3)}`

export function useFraming() {
  const { rig, target } = useContext()
  const { data: targets } = useTargets()
  const { data: framings } = useFramings()
  const queries = useQueryClient()
  const subject = computed(() => targets.value?.items.find((one) => one.id === target.value) ?? null)
  const kept = computed<Kept | null>(() => framings.value?.items.find((one) => one.target_id === target.value) ?? null)

  const held = ref<Held>({ ra: 0, dec: 0, angle: 0 })
  const fieldDeg = ref(20)
  const wanted = ref<Subject[]>([])
  const columns = ref<number | string | null>(1)
  const rows = ref<number | string | null>(1)
  const overlapPercent = ref<number | string | null>(20)
  const dropped = ref<Schemas['OnGrid'][]>([])
  const loaded = ref<number | null>(null)

  function load() {
    const one = subject.value
    if (!one || !framings.value) return
    const stored = kept.value
    held.value = stored
      ? { ra: stored.ra_deg, dec: stored.dec_deg, angle: stored.angle_deg ?? 0 }
      : { ra: one.ra_deg, dec: one.dec_deg, angle: 0 }
    const itself = {
      key: keyOf(one),
      name: one.name,
      ra_deg: one.ra_deg,
      dec_deg: one.dec_deg,
      long_deg: one.extent_deg,
      short_deg: one.width_deg ?? null,
      angle_deg: one.angle_deg ?? 0,
    }
    wanted.value = stored?.wanted?.length ? stored.wanted.map((each) => ({ ...each, key: keyOf(each) })) : [itself]
    columns.value = stored?.columns ?? 1
    rows.value = stored?.rows ?? 1
    overlapPercent.value = Math.round((stored?.overlap ?? 0.2) * 1000) / 10
    dropped.value = [...(stored?.dropped ?? [])]
    loaded.value = one.id
  }
  /** As it was loaded: a framing kept elsewhere meanwhile shows as long as nothing was touched here. */
  let untouched = ''
  const touches = () =>
    JSON.stringify([held.value, wanted.value, columns.value, rows.value, overlapPercent.value, dropped.value])
  watch(
    [subject, framings],
    () => {
      const same = loaded.value === subject.value?.id
      if (!subject.value || (same && touches() !== untouched)) return
      load()
      untouched = touches()
    },
    { immediate: true },
  )

  const sought = computed(() => {
    const grid = fieldDeg.value / STEPS
    const dec = Math.min(Math.max(Math.round(held.value.dec / grid) * grid, -90), 90)
    const wide = grid / Math.max(Math.cos((dec * Math.PI) / 180), 0.05)
    return {
      ra_deg: (Math.round(held.value.ra / wide) * wide) % 360,
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
    grid: 'turned' as const,
    dropped: dropped.value,
    wanted: wanted.value.map(({ name, ra_deg, dec_deg, long_deg, short_deg, angle_deg }) => ({
      name,
      ra_deg,
      dec_deg,
      long_deg,
      short_deg,
      angle_deg,
    })),
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
      api.POST('/api/framings/compose', { body: { rig: rig.value, subjects: shape.value.wanted, turn, hold } }),
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
  function want(one: Omit<Subject, 'key'>) {
    const key = keyOf(one)
    wanted.value = wanted.value.some((each) => each.key === key)
      ? wanted.value.filter((each) => each.key !== key)
      : [...wanted.value, { ...one, key }]
  }

  async function keep() {
    if (target.value === null) return
    const body = { ...shape.value, target: target.value, version: kept.value?.version ?? null }
    const before = kept.value
    const stored = before
      ? await answer(api.PUT('/api/framings/{record_id}', { params: { path: { record_id: before.id } }, body }))
      : await answer(api.POST('/api/framings', { body }))
    untouched = touches()
    await queries.invalidateQueries({ queryKey: ['framings'] })
    if (!before)
      offerUndo(`Kept the framing of ${stored.name}.`, async () => {
        await answer(api.DELETE('/api/framings/{record_id}', { params: { path: { record_id: stored.id } } }))
        await queries.invalidateQueries({ queryKey: ['framings'] })
      })
  }
  return {
    subject,
    kept,
    held,
    fieldDeg,
    wanted,
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
    keep,
    keyOf,
  }
}
