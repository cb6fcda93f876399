/**
 * The assembled rig seen from the side: the polar axis tipped by the latitude, the arm across it.
 *
 *          camera side  u
 *                    \        a → to the pole
 *                     \    .·
 *                      \.·
 *                    .· \
 *                        \  weight side
 *
 * Screen points, y down. `u` is where arms are positive, `a` where the axis points, away from the ground.
 */
import type { Schemas } from '@/api/client'

type Drawing = Schemas['Drawing']

export interface Point {
  x: number
  y: number
}
export interface View {
  pivot: Point
  scale: number
  u: Point
  a: Point
  width: number
  height: number
}

const PAD = 40
export const LABELS = 176
const STEP = 20
/** What is always in view, arm and along in mm: enough to drag into. */
const LEAST = [
  [-150, 0],
  [100, 0],
  [0, -60],
  [0, 90],
] as const

const outwards = (value: number) => (value < 0 ? Math.floor(value / STEP) : Math.ceil(value / STEP)) * STEP

/** Scale and pivot that show everything; extents go in steps, so that a small drag does not shake the view. */
export function viewOf(drawing: Drawing, width: number, height: number): View {
  const tilt = (Math.abs(drawing.latitude_deg) * Math.PI) / 180
  const u = { x: -Math.sin(tilt), y: -Math.cos(tilt) }
  const a = { x: Math.cos(tilt), y: -Math.sin(tilt) }
  const places: [number, number][] = LEAST.map(([arm, along]) => [arm, along])
  for (const { arm_mm, along_mm, length_mm } of drawing.pieces)
    places.push([arm_mm - length_mm / 2, along_mm], [arm_mm + length_mm / 2, along_mm])
  const xs = places.map(([arm, along]) => outwards(arm) * u.x + outwards(along) * a.x)
  const ys = places.map(([arm, along]) => outwards(arm) * u.y + outwards(along) * a.y)
  const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const room = { width: width - LABELS - PAD, height: height - 2 * PAD }
  const scale = Math.min(room.width / (right - left), room.height / (bottom - top), 1.2)
  return {
    pivot: {
      x: LABELS + (room.width - (right + left) * scale) / 2,
      y: PAD + (room.height - (bottom + top) * scale) / 2,
    },
    scale,
    u,
    a,
    width,
    height,
  }
}

export function pointAt(view: View, arm: number, along = 0): Point {
  return {
    x: view.pivot.x + (arm * view.u.x + along * view.a.x) * view.scale,
    y: view.pivot.y + (arm * view.u.y + along * view.a.y) * view.scale,
  }
}

/** Arm, mm, under a point of the screen. */
export function armAt(view: View, point: Point): number {
  return ((point.x - view.pivot.x) * view.u.x + (point.y - view.pivot.y) * view.u.y) / view.scale
}

/** Radius whose circle has an area in proportion to the mass, px. */
export function radiusOf(mass: number, heaviest: number): number {
  return Math.max(29 * Math.sqrt(mass / Math.max(heaviest, 1000)), 4)
}

/** How long a kind of part is along the axis, against its breadth; what is not told is drawn round. */
const ASPECT: Record<string, number> = {
  camera: 0.8,
  lens: 2.1,
  counterweight: 1.7,
  heater: 0.4,
  'lens ring': 0.45,
  bracket: 0.5,
  adapter: 0.3,
  filter: 0.25,
  'step-down ring': 0.25,
  guider: 2.6,
  plate: 2.4,
}

/** A box of the same area as the circle, px: along the axis and across it. */
export function boxOf(kind: string, radius: number): { long: number; broad: number; corner: number } {
  const aspect = ASPECT[kind] ?? 1
  const area = Math.PI * radius * radius
  const broad = Math.sqrt(area / aspect)
  return { long: area / broad, broad, corner: kind in ASPECT ? 3 : radius }
}

/** Heights for labels in the order of what they name, apart by at least `gap`, within the drawing. */
export function spread(wanted: number[], gap: number, top: number, bottom: number): number[] {
  const order = wanted.map((y, index) => ({ y, index })).sort((first, second) => first.y - second.y)
  let last = top - gap
  const placed = order.map(({ y, index }) => {
    last = Math.max(y, last + gap)
    return { y: last, index }
  })
  let roof = bottom
  for (const one of [...placed].reverse()) {
    one.y = Math.min(one.y, roof)
    roof = one.y - gap
  }
  const heights = new Array<number>(wanted.length)
  for (const one of placed) heights[one.index] = one.y
  return heights
}
