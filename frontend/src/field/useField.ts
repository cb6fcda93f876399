/** One night on this phone: its pack, what was taken down, the clock put right, and the way to the server when there is one. */
import { computed, ref, shallowRef } from 'vue'

import { answer, api, Refusal, type Schemas } from '@/api/client'

import { fold, type FieldEvent } from './fold'
import * as store from './store'
import type { KeptEvent, KeptPack, Pack } from './store'

type Data = FieldEvent['data']
export type FrameAlarm = Schemas['FrameAlarm'] & { since: number }
/** How the server was when it was last spoken to. */
export type Link = 'unknown' | 'reached' | 'away' | 'signed out' | 'refused'

const AT_ONCE = 200
const [TICK_MS, SYNC_MS] = [500, 15_000]
const CLOCK_SET_MS = 5000 // that two clocks may run apart within one answer
const RENEW_MS = 10 * 60_000
const SOON_MS = 10_000 // where the server is still working on a part of it
const LATE_MS = 3000 // that a press may take to the disk before it counts all the same, and that is said
const LATE = 'This phone is slow to keep what you press. Leave this page open.'

const kept = shallowRef<KeptPack[]>([])
const night = ref<number | null>(null)
const events = shallowRef<KeptEvent[]>([])
const link = ref<Link>('unknown')
const told = ref('') // what went wrong, in words
const offset = ref(0) // seconds that this phone's clock is ahead of the server's
const ticking = ref(Date.now())
const single = ref(false) // this page is one file by itself: there is no server
let device = ''
let number = 0

const pack = computed<Pack | null>(() => kept.value.find((one) => one.pack.night === night.value)?.pack ?? null)
const takenAt = computed(() => kept.value.find((one) => one.pack.night === night.value)?.takenAt ?? 0)
const state = computed(() => fold(events.value.map((one) => one.event)))
/** Now, by the server's clock. */
const now = computed(() => ticking.value - offset.value * 1000)
const waiting = computed(() => events.value.filter((one) => !one.sent && !one.refused).length)
const refused = computed(() => events.value.filter((one) => one.refused))

function clock(moment: number | string | null): string {
  if (moment === null || !pack.value) return ''
  const zone = { timeZone: pack.value.time_zone, hour: '2-digit', minute: '2-digit', hour12: false } as const
  return new Intl.DateTimeFormat('en-GB', zone).format(new Date(moment))
}

/** A moment that is planned, to the nearest minute, as every page of the desk tells it; what happened is told by `clock`. */
function planned(moment: number | string): string {
  return clock(Math.round(new Date(moment).getTime() / 60_000) * 60_000)
}

async function begin(given: Pack | null): Promise<void> {
  const tick = () => (ticking.value = Date.now())
  tick()
  setInterval(tick, TICK_MS)
  document.addEventListener('visibilitychange', tick) // a phone taken out of the pocket tells the hour at once
  setInterval(() => void sync(), SYNC_MS)
  window.addEventListener('online', () => void sync())
  try {
    if (given) {
      single.value = true
      await store.keepPack({ pack: given, takenAt: Date.parse(given.made_at) })
    }
    device = await store.deviceName()
    number = Number((await store.own('number')) ?? 0)
    offset.value = Number((await store.own('offset')) ?? 0)
    kept.value = await store.packs()
  } catch (failed) {
    told.value = storageWords(failed)
    if (given) kept.value = [{ pack: given, takenAt: Date.now() }]
  }
  store.stay()
  if (given) await open(given.night)
}

async function open(chosen: number): Promise<void> {
  night.value = chosen
  alarms.value = []
  events.value = await store.eventsOf(chosen).catch(() => [])
  if (!pack.value && !single.value) await take(chosen)
  void sync()
}

function storageWords(failed: unknown): string {
  const name = failed instanceof Error ? failed.name : ''
  if (name === 'QuotaExceededError')
    return 'This phone has no room left: what you press now is kept only while this page stays open. Make room, then press again.'
  return 'This browser keeps nothing for this page: what you press is kept only while it stays open. Open it in a usual window.'
}

/** Take something down. It is on the disk before it counts, or it is said that it is not. */
async function record(kind: string, subject: string, data: Data = {}): Promise<FieldEvent> {
  number += 1
  const event: FieldEvent = {
    id: store.newId(),
    device: device || 'unnamed-device',
    number,
    at: new Date().toISOString(),
    offset_s: Math.round(offset.value * 10) / 10,
    kind,
    subject,
    data,
  }
  const one: KeptEvent = { night: night.value ?? 0, event, sent: false, refused: '' }
  await keptOrLate(one)
  const here = one.night === (night.value ?? 0) && !events.value.some((other) => other.event.id === event.id)
  if (here) events.value = [...events.value, one]
  void sync()
  return event
}

const unkept = new Set<KeptEvent>()

/** Until an event is on the disk, or cannot be, or is late; the last two are said. */
function keptOrLate(one: KeptEvent): Promise<void> {
  return new Promise((done) => {
    const late = setTimeout(() => {
      unkept.add(one)
      told.value = LATE
      done()
    }, LATE_MS)
    const kept = () => {
      if (unkept.delete(one) && !unkept.size && told.value === LATE) told.value = ''
    }
    const lost = (failed: unknown) => {
      unkept.delete(one)
      told.value = storageWords(failed)
    }
    void store
      .keepOwnEvent(one)
      .then(kept, lost)
      .finally(() => {
        clearTimeout(late)
        done()
      })
  })
}

async function takeBack(event: FieldEvent): Promise<void> {
  await record('taken back', event.id, { event: event.id })
}

/** By this phone's clock and by one that nobody sets. */
const reading = () => ({ clock: Date.now(), since: performance.now() })

/** What the server's clock says, unless this phone's was set while the answer was on its way. */
async function setOffset(serverNow: string, asked: ReturnType<typeof reading>): Promise<void> {
  const here = reading()
  if (Math.abs(here.clock - asked.clock - (here.since - asked.since)) > CLOCK_SET_MS) return
  offset.value = (Date.now() - Date.parse(serverNow)) / 1000
  await store.keepOwn('offset', offset.value).catch(() => undefined)
}

function failedLink(failed: unknown): void {
  if (!(failed instanceof Refusal)) throw failed
  link.value = failed.status === 0 ? 'away' : failed.status === 401 ? 'signed out' : 'refused'
  if (link.value === 'refused') told.value = failed.message
}

/** Fetch the pack of a night, in place of an older one. True when it is here. */
async function take(chosen: number): Promise<boolean> {
  if (single.value) return false
  try {
    const fresh = await answer(api.GET('/api/nights/{record_id}/pack', { params: { path: { record_id: chosen } } }))
    link.value = 'reached'
    if (fresh.format !== 1) {
      told.value = 'The server packs for a newer field than this one. Reload this page while you are connected.'
      return false
    }
    const one = { pack: fresh, takenAt: Date.now() }
    await store.keepPack(one).catch((failed: unknown) => (told.value = storageWords(failed)))
    kept.value = [...kept.value.filter((other) => other.pack.night !== chosen), one]
    return true
  } catch (failed) {
    failedLink(failed)
    return false
  }
}

let busy = false
/** Send what waits, fetch what other devices sent, renew an old pack; quietly when there is no connection. */
async function sync(): Promise<void> {
  const chosen = night.value
  if (busy || chosen === null || single.value) return
  busy = true
  const path = { record_id: chosen }
  try {
    for (;;) {
      const some = events.value.filter((one) => !one.sent && !one.refused).slice(0, AT_ONCE)
      if (!some.length) break
      const body = { sent_at: new Date().toISOString(), events: some.map((one) => one.event) }
      const asked = reading()
      const back = await answer(api.POST('/api/nights/{record_id}/events', { params: { path }, body }))
      link.value = 'reached'
      await setOffset(back.now, asked)
      const taken = new Set(back.accepted)
      const said = new Map(back.refused.map((one) => [one.id, one.faults.map((fault) => fault.message).join(' ')]))
      await merge(
        chosen,
        some.map((one) => ({ ...one, sent: taken.has(one.event.id), refused: said.get(one.event.id) ?? '' })),
      )
    }
    await fetchOthers(chosen)
    await fetchAlarms(chosen)
    const age = Date.now() - takenAt.value
    if (age > RENEW_MS || (pack.value?.more_to_come && age > SOON_MS)) await take(chosen)
  } catch (failed) {
    failedLink(failed)
  } finally {
    busy = false
  }
}

/** What frames say while there is a connection; since: when this phone first heard of it. */
const alarms = shallowRef<FrameAlarm[]>([])

async function fetchAlarms(chosen: number): Promise<void> {
  const query = { night: chosen, limit: 20, offset: 0 }
  const page = await answer(api.GET('/api/frames/alarms', { params: { query } }))
  if (night.value !== chosen) return
  const heard = new Map(alarms.value.map((one) => [one.key, one.since]))
  alarms.value = page.items.map((one) => ({ ...one, since: heard.get(one.key) ?? now.value }))
}

const fetched = new Map<number, number>() // how many of a night's events were fetched: they are only ever added

async function fetchOthers(chosen: number): Promise<void> {
  const path = { record_id: chosen }
  const here = new Set(events.value.map((one) => one.event.id))
  for (;;) {
    const query = { limit: AT_ONCE, offset: fetched.get(chosen) ?? 0 }
    const asked = reading()
    const page = await answer(api.GET('/api/nights/{record_id}/events', { params: { path, query } }))
    link.value = 'reached'
    await setOffset(page.now, asked)
    const fresh = page.items.filter((one) => !here.has(one.id))
    await merge(
      chosen,
      fresh.map((one) => ({ night: chosen, event: one as FieldEvent, sent: true, refused: '' })),
    )
    fetched.set(chosen, query.offset + page.items.length)
    if (query.offset + page.items.length >= page.count || !page.items.length) return
  }
}

async function merge(chosen: number, changed: KeptEvent[]): Promise<void> {
  if (!changed.length) return
  await store.keepEvents(changed).catch((failed: unknown) => (told.value = storageWords(failed)))
  if (night.value !== chosen) return
  const by = new Map(events.value.map((one) => [one.event.id, one]))
  for (const one of changed) by.set(one.event.id, one)
  events.value = [...by.values()]
}

export function useField() {
  return {
    kept,
    night,
    pack,
    takenAt,
    events,
    state,
    now,
    clock,
    planned,
    link,
    told,
    offset,
    alarms,
    waiting,
    refused,
    single,
    begin,
    open,
    record,
    take,
    takeBack,
    sync,
  }
}
