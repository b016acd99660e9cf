// Curves of a drawing as places in the plane, and as paths on the screen.
import type { Drawing } from '../api/client'
import { type Entity, type Pair, pointAt, roundOf, span } from './model'

export type ToPane = (p: Pair) => Pair

export function arcPoints(c: Pair, r: number, first: number, last: number): Pair[] {
  const n = Math.max(8, Math.ceil((Math.abs(last - first) / (2 * Math.PI)) * 72))
  return Array.from({ length: n + 1 }, (_, i) => {
    const t = first + ((last - first) * i) / n
    return [c[0] + r * Math.cos(t), c[1] + r * Math.sin(t)] as Pair
  })
}

/** Runs of places by entity: most have one, text has one for each outline. */
export type Runs = Map<string, Pair[][]>

/** Curves as the server draws them, by the entity they belong to. */
export function runsOf(curves: { id: string; points: unknown }[]): Runs {
  const found: Runs = new Map()
  for (const c of curves) {
    const id = c.id.split('.')[0]
    found.set(id, [...(found.get(id) ?? []), c.points as Pair[]])
  }
  return found
}

/** Places along a curve; `free` holds those of curves only the server knows how to draw. */
export function placesOf(d: Drawing, e: Entity, free: Runs): Pair[][] {
  if (e.type === 'line') return [[pointAt(d, e.a), pointAt(d, e.b)]]
  const round = roundOf(d, e.id)
  if (round) return [arcPoints(round.centre, round.radius, ...(e.type === 'arc' ? span(d, e) : ([0, 2 * Math.PI] as Pair)))]
  return free.get(e.id) ?? []
}

export const polyline = (points: Pair[], toPane: ToPane, close = false): string =>
  points
    .map((p, i) => {
      const [x, y] = toPane(p)
      return `${i ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}`
    })
    .join('') + (close ? 'Z' : '')

export const drawnRuns = (runs: Pair[][], toPane: ToPane): string => runs.map((r) => polyline(r, toPane)).join('')

/** Nearest place of several polylines to a place. */
export function nearestOf(runs: Pair[][], at: Pair): { at: Pair; gap: number } {
  return runs.map((r) => nearest(r, at)).reduce((a, b) => (b.gap < a.gap ? b : a), { at, gap: Infinity })
}

/** Nearest place of a polyline to a place, and how far it is. */
export function nearest(points: Pair[], at: Pair): { at: Pair; gap: number } {
  let best: { at: Pair; gap: number } = { at, gap: Infinity }
  for (let i = 0; i + 1 < points.length; i++) {
    const [a, b] = [points[i], points[i + 1]]
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]]
    const t = Math.min(1, Math.max(0, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)))
    const p: Pair = [a[0] + t * dx, a[1] + t * dy]
    const gap = Math.hypot(at[0] - p[0], at[1] - p[1])
    if (gap < best.gap) best = { at: p, gap }
  }
  return best
}

/** Curvature comb of a polyline: teeth out of the curve, and where it bends most. */
export function comb(points: Pair[]): { teeth: [Pair, Pair][]; least: { at: Pair; radius: number } | null } {
  const size = Math.max(...points.map((p) => Math.hypot(p[0] - points[0][0], p[1] - points[0][1])), 1e-9)
  const bends: { at: Pair; k: number; n: Pair }[] = []
  for (let i = 1; i + 1 < points.length; i++) {
    const [a, b, c] = [points[i - 1], points[i], points[i + 1]]
    const [u, v] = [
      [b[0] - a[0], b[1] - a[1]],
      [c[0] - b[0], c[1] - b[1]],
    ]
    const [lu, lv, lw] = [Math.hypot(u[0], u[1]), Math.hypot(v[0], v[1]), Math.hypot(c[0] - a[0], c[1] - a[1])]
    if (lu * lv * lw === 0) continue
    bends.push({ at: b, k: (2 * (u[0] * v[1] - u[1] * v[0])) / (lu * lv * lw), n: [-(c[1] - a[1]) / lw, (c[0] - a[0]) / lw] })
  }
  const most = bends.reduce((m, b) => (Math.abs(b.k) > Math.abs(m?.k ?? 0) ? b : m), bends[0])
  if (!most || Math.abs(most.k) * size < 1e-3) return { teeth: [], least: null }
  const scale = (0.18 * size) / Math.abs(most.k)
  return {
    teeth: bends.map((b) => [b.at, [b.at[0] - b.n[0] * b.k * scale, b.at[1] - b.n[1] * b.k * scale]]),
    least: { at: most.at, radius: 1 / Math.abs(most.k) },
  }
}
