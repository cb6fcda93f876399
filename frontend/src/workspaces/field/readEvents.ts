/** A file of events, as a phone saves it, into the record of its night. */
import { answer, api, Refusal, type Schemas } from '@/api/client'

const MOST_BYTES = 5_000_000
const AT_ONCE = 500

function refuse(file: File, message: string): Refusal {
  return new Refusal(422, [{ field: 'file', value: file.name, message }])
}

/** What a file holds, as far as it is one of ours. Throws a Refusal that says what is wrong with it. */
export async function eventsIn(file: File): Promise<{ night: number; events: Schemas['EventShape'][] }> {
  if (file.size > MOST_BYTES)
    throw refuse(file, `“${file.name}” is larger than 5 MB; a night’s events are far smaller.`)
  let told: { format?: unknown; night?: unknown; events?: unknown }
  try {
    told = JSON.parse(await file.text()) as typeof told
  } catch {
    throw refuse(file, `“${file.name}” is no file of events. On the phone: Taken down, Save as a file.`)
  }
  if (told.format !== 1 || typeof told.night !== 'number' || !Array.isArray(told.events))
    throw refuse(file, `“${file.name}” is no file of events. On the phone: Taken down, Save as a file.`)
  return { night: told.night, events: told.events as Schemas['EventShape'][] }
}

/** Add the events of a file to a night; in words what came of it. */
export async function readEvents(night: number, file: File): Promise<string> {
  const told = await eventsIn(file)
  if (told.night !== night)
    throw refuse(file, `“${file.name}” is of another night than the one that is chosen here. Choose that night first.`)
  let taken = 0
  const refused: string[] = []
  for (let at = 0; at < told.events.length; at += AT_ONCE) {
    const body = { sent_at: new Date().toISOString(), events: told.events.slice(at, at + AT_ONCE) }
    const back = await answer(
      api.POST('/api/nights/{record_id}/events', { params: { path: { record_id: night } }, body }),
    )
    taken += back.accepted.length
    refused.push(...back.refused.map((one) => one.faults.map((fault) => fault.message).join(' ')))
  }
  const not = refused.length ? ` ${refused.length} were not taken: ${refused[0]}` : ''
  return `${taken} events are in the record of this night.${not}`
}
