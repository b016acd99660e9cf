// What the pointer means while drawing: near points, middles, curves, level lines, tangents.
import type { Drawing } from '../api/client'
import type { ModelEdge } from './beneath'
import { entities, type Pair, pointAt, roundOf, type Spot } from './model'
import { nearestOf, type Runs } from './paths'

const away = (a: Pair, b: Pair): number => Math.hypot(a[0] - b[0], a[1] - b[1])

/** The point of a segment nearest to p. */
export function onSegment(p: Pair, a: Pair, b: Pair): Pair {
  const dx = b[0] - a[0]
  const dy = b[1] - a[1]
  const length = dx * dx + dy * dy
  const t = length > 0 ? Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / length)) : 0
  return [a[0] + t * dx, a[1] + t * dy]
}

/** Where a line from `p` touches a circle: two points, or none from inside. */
export function tangents(p: Pair, centre: Pair, radius: number): Pair[] {
  const d = away(p, centre)
  if (d <= radius * 1.0001) return []
  const base = Math.atan2(p[1] - centre[1], p[0] - centre[0])
  const turn = Math.acos(radius / d)
  return [base + turn, base - turn].map((t) => [centre[0] + radius * Math.cos(t), centre[1] + radius * Math.sin(t)])
}

export interface Inferred extends Spot {
  /** What to say beside the pointer. */
  hint: string
  /** An edge of the model, to be linked before the place is taken. */
  edge?: ModelEdge
}

/** Snap a place. `reach` is the snapping distance in mm; `from` the spot before it; `free` how free curves run;
 * `catches` are places of what lies underneath, `model` edges of the model in the plane. */
export function infer(
  d: Drawing,
  at: Pair,
  reach: number,
  from: Spot | null,
  free: Runs = new Map(),
  catches: Pair[] = [],
  model: ModelEdge[] = [],
): Inferred {
  let best: Inferred | null = null
  let least = reach
  const take = (to: Pair, make: Omit<Inferred, 'at'>, reachBy = 1): void => {
    const gap = away(to, at)
    if (gap < least * reachBy) {
      least = gap
      best = { at: to, ...make }
    }
  }
  take([0, 0], { snap: { kind: 'point', id: 'origin' }, hint: 'origin' })
  for (const e of entities(d)) if (e.type === 'point') take([e.x, e.y], { snap: { kind: 'point', id: e.id }, hint: 'coincident' })
  if (best) return withLevel(best, from, reach)
  for (const edge of model) for (const end of [edge.run[0], edge.run.at(-1)!]) take(end, { hint: 'corner of the model, links it', edge })
  if (best) return best
  for (const p of catches) take(p, { hint: 'on the layout' })
  if (best) return best
  for (const e of entities(d)) {
    if (e.type !== 'line') continue
    const a = pointAt(d, e.a)
    const b = pointAt(d, e.b)
    take([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], { snap: { kind: 'midpoint', id: e.id }, hint: 'midpoint' })
  }
  if (best) return best
  if (from)
    for (const e of entities(d)) {
      if (e.type === 'point' || e.type === 'line') continue
      const round = roundOf(d, e.id)
      if (round)
        for (const t of tangents(from.at, round.centre, round.radius)) take(t, { snap: { kind: 'tangent', id: e.id }, hint: 'tangent' })
    }
  if (best) return best
  for (const e of entities(d)) {
    if (e.type === 'line') take(onSegment(at, pointAt(d, e.a), pointAt(d, e.b)), { snap: { kind: 'curve', id: e.id }, hint: 'on line' })
    else if (e.type !== 'point') {
      const round = roundOf(d, e.id)
      if (!round) {
        if (e.type === 'text' || e.type === 'parallel') continue
        const spot = nearestOf(free.get(e.id) ?? [], at)
        if (spot.gap < Infinity) take(spot.at, { snap: { kind: 'curve', id: e.id }, hint: 'on curve' })
        continue
      }
      const gap = away(at, round.centre) || 1e-9
      const k = round.radius / gap
      take([round.centre[0] + (at[0] - round.centre[0]) * k, round.centre[1] + (at[1] - round.centre[1]) * k], {
        snap: { kind: 'curve', id: e.id },
        hint: 'on curve',
      })
    }
  }
  if (best) return best
  for (const edge of model) {
    const spot = nearestOf([edge.run], at)
    if (spot.gap < Infinity) take(spot.at, { hint: 'edge of the model, links it', edge })
  }
  if (best) return best
  take([at[0], 0], { hint: 'on X axis', snap: { kind: 'curve', id: 'x_axis' } }, 0.7)
  take([0, at[1]], { hint: 'on Y axis', snap: { kind: 'curve', id: 'y_axis' } }, 0.7)
  if (best) return best
  return withLevel({ at, hint: '' }, from, reach)
}

/** Level with the spot before: the free coordinate follows, the other is taken over. */
function withLevel(spot: Inferred, from: Spot | null, reach: number): Inferred {
  if (!from) return spot
  const dx = Math.abs(spot.at[0] - from.at[0])
  const dy = Math.abs(spot.at[1] - from.at[1])
  const join = (word: string): string => (spot.hint ? `${spot.hint}, ${word}` : word)
  if (spot.snap) {
    if (dy < 1e-9 && dx > 0) return { ...spot, level: 'horizontal', hint: join('horizontal') }
    if (dx < 1e-9 && dy > 0) return { ...spot, level: 'vertical', hint: join('vertical') }
    return spot
  }
  if (dy < Math.max(reach * 0.6, dx * 0.03) && dx > reach)
    return { ...spot, at: [spot.at[0], from.at[1]], level: 'horizontal', hint: 'horizontal' }
  if (dx < Math.max(reach * 0.6, dy * 0.03) && dy > reach)
    return { ...spot, at: [from.at[0], spot.at[1]], level: 'vertical', hint: 'vertical' }
  return spot
}
