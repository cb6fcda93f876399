/**
 * The phone as a sight: which way its long edge points and how steep, many times a second, from the sensors that a browser may read.
 * Where it has none, or may not read them, it says so.
 */
import { computed, onUnmounted, ref } from 'vue'

import type { Point } from '@/instruments/profile'

interface WithHeading extends DeviceOrientationEvent {
  webkitCompassHeading?: number
}
type Asks = typeof DeviceOrientationEvent & { requestPermission?: () => Promise<'granted' | 'denied'> }

const EVERY_MS = 100
const MAX_READINGS = 3_000
const PATIENCE_MS = 3_000
const BIN_DEG = 5

export const NO_SENSOR =
  'This device has no compass and tilt that a browser may read. Draw the horizon by hand, or type it.'
export const NOT_SECURE =
  'Browsers give the compass only to a page over HTTPS: open the address that ./wide-dusk start --lan tells.'

const turned = (degrees: number) => ((degrees % 360) + 360) % 360

/**
 * Magnetic bearing and slope of the long edge, from the three angles of the DeviceOrientation specification: turned by alpha about the
 * vertical, then by beta about the short edge; gamma, about the long edge itself, moves neither.
 */
export function sighted(event: WithHeading): Point | null {
  if (event.beta === null || event.beta === undefined) return null
  const heading = event.webkitCompassHeading ?? (event.absolute && event.alpha !== null ? 360 - event.alpha : undefined)
  if (heading === undefined) return null
  const over = Math.abs(event.beta) > 90 // tipped over the zenith: the edge points the other way
  const slope = over ? Math.sign(event.beta) * 180 - event.beta : event.beta
  return { azimuth_deg: turned(heading + (over ? 180 : 0)), altitude_deg: slope }
}

export function useSweep() {
  const now = ref<Point | null>(null)
  const readings = ref<Point[]>([])
  const recording = ref(false)
  const trouble = ref('')
  let last = 0
  let waiting: ReturnType<typeof setTimeout> | null = null

  function read(event: Event) {
    const at = sighted(event as WithHeading)
    if (!at) return
    if (waiting) clearTimeout(waiting)
    waiting = null
    trouble.value = ''
    now.value = at
    if (!recording.value || performance.now() - last < EVERY_MS || readings.value.length >= MAX_READINGS) return
    last = performance.now()
    readings.value = [...readings.value, at]
  }
  async function begin() {
    stop()
    trouble.value = ''
    if (!window.isSecureContext) {
      trouble.value = NOT_SECURE
      return
    }
    const sensor = (window as { DeviceOrientationEvent?: Asks }).DeviceOrientationEvent
    if (!sensor) {
      trouble.value = NO_SENSOR
      return
    }
    if (sensor.requestPermission && (await sensor.requestPermission().catch(() => 'denied')) !== 'granted') {
      trouble.value = 'The browser was not allowed to read compass and tilt. Allow it for this page, then try again.'
      return
    }
    window.addEventListener('deviceorientationabsolute', read)
    window.addEventListener('deviceorientation', read)
    waiting = setTimeout(() => (trouble.value = NO_SENSOR), PATIENCE_MS)
  }
  function stop() {
    if (waiting) clearTimeout(waiting)
    waiting = null
    window.removeEventListener('deviceorientationabsolute', read)
    window.removeEventListener('deviceorientation', read)
    recording.value = false
    now.value = null
  }
  function anew() {
    readings.value = []
  }
  /** How much of the round was swept. */
  const covered = computed(
    () => new Set(readings.value.map((one) => Math.floor(one.azimuth_deg / BIN_DEG))).size * BIN_DEG,
  )
  onUnmounted(stop)
  return { now, readings, recording, trouble, covered, begin, stop, anew }
}
