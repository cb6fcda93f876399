/** What lies on this phone: packs, events, and the name of this device. Every press is on the disk before it counts. */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'

import type { Schemas } from '@/api/client'

import type { FieldEvent } from './fold'

export type Pack = Schemas['Pack']
export interface KeptPack {
  pack: Pack
  takenAt: number
}
/** sent: the server has it. refused: why it does not take it; empty while it may. */
export interface KeptEvent {
  night: number
  event: FieldEvent
  sent: boolean
  refused: string
}
interface Shelves extends DBSchema {
  packs: { key: number; value: KeptPack }
  events: { key: string; value: KeptEvent; indexes: { night: number } }
  self: { key: string; value: string | number }
}

let opened: Promise<IDBPDatabase<Shelves>> | null = null
function shelves() {
  opened ??= openDB<Shelves>('wide-dusk-field', 1, {
    upgrade(database) {
      database.createObjectStore('packs')
      database.createObjectStore('events').createIndex('night', 'night')
      database.createObjectStore('self')
    },
  })
  return opened
}

/** Strict: written through to the disk, so that an empty battery takes nothing. */
const STRICT = { durability: 'strict' } as const

export async function packs(): Promise<KeptPack[]> {
  return (await shelves()).getAll('packs')
}

export async function keepPack(kept: KeptPack): Promise<void> {
  const writing = (await shelves()).transaction('packs', 'readwrite', STRICT)
  await Promise.all([writing.store.put(kept, kept.pack.night), writing.done])
}

export async function eventsOf(night: number): Promise<KeptEvent[]> {
  return (await shelves()).getAllFromIndex('events', 'night', night)
}

export async function keepEvents(kept: KeptEvent[]): Promise<void> {
  const writing = (await shelves()).transaction('events', 'readwrite', STRICT)
  await Promise.all([...kept.map((one) => writing.store.put(one, one.event.id)), writing.done])
}

/** An event of this device together with its number, so that none is ever given twice. */
export async function keepOwnEvent(kept: KeptEvent): Promise<void> {
  const writing = (await shelves()).transaction(['events', 'self'], 'readwrite', STRICT)
  const event = writing.objectStore('events').put(kept, kept.event.id)
  const number = writing.objectStore('self').put(kept.event.number, 'number')
  await Promise.all([event, number, writing.done])
}

export async function own(name: string): Promise<string | number | undefined> {
  return (await shelves()).get('self', name)
}

export async function keepOwn(name: string, value: string | number): Promise<void> {
  const writing = (await shelves()).transaction('self', 'readwrite', STRICT)
  await Promise.all([writing.store.put(value, name), writing.done])
}

/** The name of this device, made up once; crypto.randomUUID is not there without HTTPS. */
export async function deviceName(): Promise<string> {
  const kept = await own('device')
  if (kept) return String(kept)
  const made = newId()
  await keepOwn('device', made)
  return made
}

export function newId(): string {
  return [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** Ask the browser not to throw away what is kept when room gets short. */
export function stay(): void {
  void navigator.storage?.persist?.().catch(() => false)
}
