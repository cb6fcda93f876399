/** What every editor does: keep or delete one record, put a refusal at its fields, and say what came of it. */
import { ref, watch } from 'vue'

import { useFaults } from './useFaults'

export function useEditor<In, Out extends { id: number; name: string; version: number }>(
  keeping: {
    keep: (id: number | null, body: In, version: number | null) => Promise<Out>
    remove: (record: Out) => Promise<void>
  },
  record: () => Out | null,
  open: () => boolean,
  done: { kept: (record: Out) => void; close: () => void },
) {
  const { faults, busy, attempt } = useFaults()

  /** As it was when the form was opened: what is saved elsewhere from then on is not saved over unseen. */
  const version = ref<number | null>(null)
  watch([open, () => record()?.id], () => (version.value = record()?.version ?? null), { immediate: true })

  async function save(body: In) {
    let kept: Out | null = null
    if ((await attempt(async () => (kept = await keeping.keep(record()?.id ?? null, body, version.value)))) && kept) {
      done.kept(kept)
      done.close()
    }
  }
  async function drop() {
    const now = record()
    if (now && (await attempt(() => keeping.remove(now)))) done.close()
  }
  return { faults, busy, attempt, save, drop }
}
