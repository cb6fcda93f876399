/** The rig in hand: what the page shows is a draft; each finished change is kept at once and can be undone. */
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { refThrottled } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import { useContext } from './useContext'
import { useFaults } from './useFaults'
import { useKeepRig, useRigs, type Rig, type RigIn } from './useRecords'
import { offerUndo, withdrawUndo } from './useUndo'

export type Bench = Schemas['BenchOut']
export type Drawing = Schemas['Drawing']
export type Piece = Schemas['Piece']
export type PlacedIn = Schemas['PlacedIn']

/** What the server takes, out of what it gave. */
export function draftOf(rig: Rig): RigIn {
  return {
    name: rig.name,
    star_fwhm_px: rig.star_fwhm_px,
    focal_mm: rig.focal_mm,
    placed: rig.placed.map(({ part, arm_mm, along_mm, carried, fed_by }) => ({
      part,
      arm_mm,
      along_mm,
      carried,
      fed_by,
    })),
  }
}

export function useBench() {
  const { rig: id, spot, night, target, framing, choices } = useContext()
  const { data: rigs } = useRigs()
  const { keep } = useKeepRig()
  const queries = useQueryClient()
  const { faults, busy, attempt } = useFaults()

  const record = computed(() => rigs.value?.items.find((one) => one.id === id.value) ?? null)
  const draft = ref<RigIn | null>(null)
  const dragging = ref(false)
  /** The rig as last sent to the server, so that undo goes back one step even while a step is still on its way. */
  let sent: RigIn | null = null
  let version: number | null = null
  let pending = 0
  let queue: Promise<unknown> = Promise.resolve()
  watch(
    record,
    (now, before) => {
      if ((dragging.value || pending > 0) && now?.id === before?.id) return
      sent = now ? draftOf(now) : null
      version = now?.version ?? null
      faults.value = {}
      draft.value = now ? draftOf(now) : null
    },
    { immediate: true },
  )

  /** Which counterweight moves; the first unless another was touched. */
  const weight = ref<string | null>(null)
  watch(id, () => (weight.value = null))
  const body = computed(
    () =>
      draft.value && {
        rig: draft.value,
        spot: spot.value,
        night: night.value,
        target: target.value,
        framing: framing.value,
        choices: choices.value,
        weight: weight.value,
        kept: id.value,
      },
  )
  const asked = refThrottled(
    computed(() => JSON.stringify(body.value)),
    80,
  )
  const { data, error, refetch } = useQuery({
    queryKey: ['bench', asked],
    queryFn: () => answer(api.POST('/api/bench', { body: JSON.parse(asked.value) as Schemas['BenchIn'] })),
    enabled: computed(() => asked.value !== 'null'),
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    refetchInterval: (query) =>
      query.state.error instanceof Refusal && query.state.error.status === 0 ? 5_000 : false,
  })
  // A refusal leaves the last good answer of this rig in view, so that one sees what one is changing.
  // It is kept by its rig, since a drag asks for many and none of those is worth keeping.
  const kept = () => ['bench', 'last', id.value]
  const last = shallowRef<Bench | undefined>(queries.getQueryData<Bench>(kept()))
  watch(id, () => (last.value = queries.getQueryData<Bench>(kept())))
  watch(
    data,
    (now) => {
      if (!now) return
      last.value = now
      queries.setQueryData(kept(), now)
    },
    { immediate: true },
  )
  const refusal = computed(() => (error.value instanceof Refusal ? error.value : null))
  async function settled() {
    if (!body.value) return true
    const now = JSON.stringify(body.value)
    const work = () => answer(api.POST('/api/bench', { body: JSON.parse(now) as Schemas['BenchIn'] }))
    return queries.fetchQuery({ queryKey: ['bench', now], queryFn: work, staleTime: 30_000 }).then(
      () => true,
      () => false,
    )
  }

  /** Keep a changed rig, one change after the other. A refusal is told at its field and the change stays in hand. */
  async function change(next: RigIn, said: string) {
    const now = record.value
    if (!now) return false
    const before = sent ?? draftOf(now)
    draft.value = next
    sent = next
    pending += 1
    withdrawUndo()
    const work = queue.then(() =>
      attempt(async () => {
        version = (await keep(now.id, next, version)).version
        if (sent === next)
          offerUndo(said, async () => {
            await queue
            version = (await keep(now.id, before, version)).version
          })
      }),
    )
    queue = work
    const done = await work
    pending -= 1
    if (!done) sent = before
    else if (pending === 0 && !dragging.value && record.value?.id === now.id) draft.value = draftOf(record.value)
    return done
  }
  const changePlaced = (part: number, values: Partial<PlacedIn>, said: string) =>
    draft.value &&
    change(
      { ...draft.value, placed: draft.value.placed?.map((one) => (one.part === part ? { ...one, ...values } : one)) },
      said,
    )

  /** While a part is dragged: only the draft moves; letting go keeps it. */
  function drag(part: number, arm: number) {
    dragging.value = true
    const one = draft.value?.placed?.find((placed) => placed.part === part)
    if (one) one.arm_mm = arm
  }
  async function letGo(name: string) {
    dragging.value = false
    if (draft.value) await change({ ...draft.value }, `Moved ${name}.`)
  }

  return {
    record,
    draft,
    bench: last,
    refusal,
    faults,
    busy,
    weight,
    refetch,
    settled,
    change,
    changePlaced,
    drag,
    letGo,
  }
}
