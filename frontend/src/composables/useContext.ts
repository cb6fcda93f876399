/** With what, where, when, at what, and how: carried by the address, shared by every workspace. */
import { computed } from 'vue'
import { useRoute, useRouter, type Router } from 'vue-router'

import { answer, api } from '@/api/client'

import { choicesIn, choicesOut, shiftedNight, type Choices } from './choices'

export interface Context {
  rig: number
  spot: number
  night: string
  target: number
  /** Of the target; none: its own middle. */
  framing?: number
}
type Change = Partial<Omit<Context, 'framing'>> & { framing?: number | null }

const whole = (text: unknown) => (typeof text === 'string' && /^\d+$/.test(text) ? Number(text) : null)

const GLANCE_MS = 10

/** What work comes to, told once nobody is on the way to another page: who changes the address meanwhile would call them back. */
async function afterWays<T>(router: Router, work: Promise<T>): Promise<T> {
  let on: unknown = null
  const ended = (way: unknown) => {
    if (way === on) on = null
  }
  const deaf = [
    router.beforeEach((to) => void (on = to)),
    router.afterEach(ended),
    router.onError((_, to) => ended(to)),
  ]
  try {
    const told = await work
    do await new Promise((done) => setTimeout(done, GLANCE_MS))
    while (on)
    return told
  } finally {
    for (const one of deaf) one()
  }
}

export function useContext() {
  const route = useRoute()
  const router = useRouter()

  const rig = computed(() => whole(route.query.rig))
  const spot = computed(() => whole(route.query.spot))
  const target = computed(() => whole(route.query.target))
  const night = computed(() => (typeof route.query.night === 'string' ? route.query.night : null))
  const framing = computed(() => whole(route.query.framing))
  const plan = computed(() => whole(route.query.plan))
  const choices = computed(() => choicesIn(route.query))
  const context = computed<Context | null>(() =>
    rig.value && spot.value && target.value && night.value
      ? {
          rig: rig.value,
          spot: spot.value,
          night: night.value,
          target: target.value,
          ...(framing.value === null ? {} : { framing: framing.value }),
        }
      : null,
  )

  /** Change part of the context; the back key undoes it. A framing goes with its target. */
  function change(part: Change) {
    const kept = { ...route.query }
    delete kept.framing
    const next: Change = part.target === undefined ? { framing: framing.value, ...part } : part
    const words = Object.fromEntries(
      Object.entries(next).flatMap(([name, value]) => (value == null ? [] : [[name, String(value)]])),
    )
    return router.push({ path: route.path, query: { ...kept, ...words } })
  }

  function shiftNight(days: number) {
    if (night.value) void change({ night: shiftedNight(night.value, days) })
  }

  /** Replace the choices as a whole. */
  function choose(next: Partial<Choices>) {
    const kept: Record<string, string> = {}
    for (const name of ['rig', 'spot', 'night', 'target', 'framing', 'plan']) {
      const value = route.query[name]
      if (typeof value === 'string') kept[name] = value
    }
    return router.push({ path: route.path, query: { ...kept, ...choicesOut(next) } })
  }

  /** Where nothing is chosen yet, begin where the server says; what is chosen stays, and so does the way to another page. */
  async function begin() {
    if (context.value) return
    const start = await afterWays(router, answer(api.GET('/api/tonight/start')))
    if (context.value) return
    const query: Record<string, string> = {}
    // A plan is only taken up whole; once part of the context is chosen, what is missing is filled in and no more.
    const fresh = !rig.value && !spot.value && !target.value && !night.value
    for (const name of ['rig', 'spot', 'night', 'target', 'framing', 'plan'] as const) {
      if ((name === 'plan' || name === 'framing') && !fresh) continue
      if (start[name] !== null && start[name] !== undefined) query[name] = String(start[name])
    }
    await router.replace({
      path: route.path,
      query: { ...query, ...(fresh ? choicesOut(start.choices ?? {}) : {}), ...route.query },
    })
  }

  return { rig, spot, night, target, framing, plan, choices, context, change, choose, shiftNight, begin }
}
