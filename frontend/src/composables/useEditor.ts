/** What every editor does: keep or delete one record, put a refusal at its fields, and say what came of it. */
import { useFaults } from './useFaults'

export function useEditor<In, Out extends { id: number; name: string }>(
  keeping: { keep: (id: number | null, body: In) => Promise<Out>; remove: (record: Out) => Promise<void> },
  record: () => Out | null,
  done: { kept: (record: Out) => void; close: () => void },
) {
  const { faults, busy, attempt } = useFaults()

  async function save(body: In) {
    let kept: Out | null = null
    if ((await attempt(async () => (kept = await keeping.keep(record()?.id ?? null, body)))) && kept) {
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
