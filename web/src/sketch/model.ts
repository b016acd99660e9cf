// A drawing as plain data: looking things up, taking things out, carrying pieces over.
// What adds geometry are the tools, and those live on the server.
import type { Constraint, Drawing } from '../api/client'

export type Pair = [number, number]
export type Entity = NonNullable<Drawing['entities']>[number]
export type PointEntity = Extract<Entity, { type: 'point' }>
export type Snap = { kind: 'point' | 'midpoint' | 'curve' | 'tangent'; id: string }

/** A place clicked: where, what it was snapped to, whether it is level with the one before. */
export interface Spot {
  at: Pair
  snap?: Snap | null
  level?: 'horizontal' | 'vertical' | null
}

export const empty = (): Drawing => ({ entities: [], constraints: [], links: [] })
export const entities = (d: Drawing): Entity[] => d.entities ?? []
export const constraints = (d: Drawing): Constraint[] => d.constraints ?? []

/** Something worked out once per drawing: drawings are never changed in place. */
export function perDrawing<T>(make: (d: Drawing) => T): (d: Drawing) => T {
  const known = new WeakMap<Drawing, T>()
  return (d) => {
    if (!known.has(d)) known.set(d, make(d))
    return known.get(d)!
  }
}
const byId = perDrawing((d) => new Map(entities(d).map((e) => [e.id, e])))
export const entity = (d: Drawing, id: string): Entity | undefined => byId(d).get(id)

/** A constraint with everything that is usually left out. */
export const constraint = (id: string, type: string, on: string[], more: Partial<Constraint> = {}): Constraint => ({
  id,
  type,
  on,
  formula: null,
  reference: false,
  sense: [],
  at: null,
  linked: null,
  ...more,
})

/** Hands out ids that are not in the drawing yet. */
export class Ids {
  private readonly used: Set<string>
  constructor(d: Drawing) {
    this.used = new Set([...entities(d).map((e) => e.id), ...constraints(d).map((c) => c.id), ...(d.links ?? []).map((k) => k.id)])
  }
  next(prefix: string): string {
    for (let n = 1; ; n++) {
      const id = `${prefix}${n}`
      if (!this.used.has(id)) {
        this.used.add(id)
        return id
      }
    }
  }
}

export function pointAt(d: Drawing, id: string): Pair {
  if (id === 'origin') return [0, 0]
  const found = entity(d, id)
  return found?.type === 'point' ? [found.x, found.y] : [0, 0]
}

/** Fields of an entity that are no references to points. */
const PLAIN = new Set(['id', 'type', 'construction', 'source', 'text', 'font'])

/** The points an entity is made of. */
export function standsOn(e: Entity): string[] {
  if (e.type === 'point') return []
  return Object.entries(e)
    .flatMap(([key, value]) => (PLAIN.has(key) ? [] : Array.isArray(value) ? value.flat() : [value]))
    .filter((v): v is string => typeof v === 'string')
}

export function usedPoints(list: Entity[]): Set<string> {
  return new Set(list.flatMap(standsOn))
}

/** Without some entities and constraints, and without everything that needs them. */
export function remove(d: Drawing, ids: Set<string>): Drawing {
  const gone = new Set(ids)
  let grew = true
  while (grew) {
    grew = false
    for (const e of entities(d)) {
      if (gone.has(e.id) || !standsOn(e).some((n) => gone.has(n))) continue
      gone.add(e.id)
      grew = true
    }
  }
  const left = entities(d).filter((e) => !gone.has(e.id))
  // Points that only served what is gone go too.
  const before = usedPoints(entities(d))
  const after = usedPoints(left)
  const kept = left.filter((e) => e.type !== 'point' || after.has(e.id) || !before.has(e.id))
  const known = new Set([...kept.map((e) => e.id), 'origin', 'x_axis', 'y_axis'])
  return {
    entities: kept,
    constraints: constraints(d).filter((c) => !gone.has(c.id) && c.on.every((i) => known.has(i))),
    links: (d.links ?? []).filter((k) => k.on.every((i) => known.has(i)) && known.has(k.about)),
  }
}

/** What is selected, with the points it stands on and what holds within it. */
export function fragment(d: Drawing, selected: string[]): Drawing {
  const own = new Set(selected)
  for (const e of entities(d)) if (own.has(e.id)) standsOn(e).forEach((p) => own.add(p))
  return {
    entities: entities(d).filter((e) => own.has(e.id)),
    constraints: constraints(d).filter((c) => !c.linked && c.on.every((i) => own.has(i))),
    links: [],
  }
}

/** A fragment put into a drawing under new ids, shifted; and what is new. */
export function paste(d: Drawing, piece: Drawing, by: Pair): { drawing: Drawing; added: string[] } {
  const ids = new Ids(d)
  const names = new Map<string, string>([['origin', 'origin']])
  for (const e of entities(piece)) names.set(e.id, ids.next(e.id[0]))
  const to = (v: unknown): unknown => (typeof v === 'string' ? (names.get(v) ?? v) : Array.isArray(v) ? v.map(to) : v)
  const made = entities(piece).map((e) => {
    const copy = Object.fromEntries(
      Object.entries(e).map(([k, v]) => [k, k === 'source' ? null : k !== 'id' && PLAIN.has(k) ? v : to(v)]),
    ) as Entity
    return copy.type === 'point' ? { ...copy, x: copy.x + by[0], y: copy.y + by[1] } : copy
  })
  const held = constraints(piece).map((c) => ({ ...c, id: ids.next(c.id[0]), on: c.on.map((i) => names.get(i) ?? i), at: null }))
  return {
    drawing: { entities: [...entities(d), ...made], constraints: [...constraints(d), ...held], links: d.links ?? [] },
    added: made.filter((e) => e.type !== 'point').map((e) => e.id),
  }
}

const FORMS: Record<Entity['type'], Form> = {
  point: 'point',
  line: 'line',
  circle: 'circle',
  arc: 'circle',
  ellipse: 'ellipse',
  elliptic_arc: 'ellipse',
  spline: 'spline',
  control_spline: 'spline',
  conic: 'spline',
  text: 'text',
  parallel: 'parallel',
}
export type Form = 'point' | 'line' | 'circle' | 'ellipse' | 'spline' | 'text' | 'parallel'
/** What constraints see an entity as. */
export const formOf = (d: Drawing, id: string): Form => {
  if (id === 'origin') return 'point'
  if (id === 'x_axis' || id === 'y_axis') return 'line'
  const e = entity(d, id)
  return e ? FORMS[e.type] : 'circle'
}

export function lineEnds(d: Drawing, id: string): [Pair, Pair] | null {
  if (id === 'x_axis')
    return [
      [0, 0],
      [1, 0],
    ]
  if (id === 'y_axis')
    return [
      [0, 0],
      [0, 1],
    ]
  const e = entity(d, id)
  return e?.type === 'line' ? [pointAt(d, e.a), pointAt(d, e.b)] : null
}

export function roundOf(d: Drawing, id: string): { centre: Pair; radius: number } | null {
  const e = entity(d, id)
  if (e?.type === 'circle') return { centre: pointAt(d, e.centre), radius: e.radius }
  if (e?.type === 'arc') {
    const c = pointAt(d, e.centre)
    const s = pointAt(d, e.start)
    return { centre: c, radius: Math.hypot(s[0] - c[0], s[1] - c[1]) }
  }
  return null
}

/** First and last angle of an arc, counter-clockwise. */
export function span(d: Drawing, e: Extract<Entity, { type: 'arc' }>): [number, number] {
  const [c, s, t] = [e.centre, e.start, e.end].map((p) => pointAt(d, p))
  const first = Math.atan2(s[1] - c[1], s[0] - c[0])
  const last = Math.atan2(t[1] - c[1], t[0] - c[0])
  return [first, last <= first + 1e-9 ? last + 2 * Math.PI : last]
}

/** The dimension one would mean by these entities. */
export function dimensionFor(d: Drawing, on: string[]): string | null {
  const forms = on
    .map((i) => formOf(d, i))
    .sort()
    .join(' ')
  if (forms === 'line' || forms === 'point point' || forms === 'line point') return 'distance'
  if (forms === 'circle') return entity(d, on[0])?.type === 'arc' ? 'radius' : 'diameter'
  if (forms === 'ellipse') return 'width'
  if (forms === 'text') return 'text_height'
  if (forms === 'spline') return 'least_radius'
  if (forms === 'line line') {
    const a = lineEnds(d, on[0])!
    const b = lineEnds(d, on[1])!
    const u = [a[1][0] - a[0][0], a[1][1] - a[0][1]]
    const v = [b[1][0] - b[0][0], b[1][1] - b[0][1]]
    const sine = (u[0] * v[1] - u[1] * v[0]) / (Math.hypot(u[0], u[1]) * Math.hypot(v[0], v[1]))
    return Math.abs(sine) < 1e-4 ? 'distance' : 'angle'
  }
  return null
}

/** Curves that hang together with one, end to end. */
export function chainOf(d: Drawing, id: string): string[] {
  const same = constraints(d)
    .filter((c) => c.type === 'coincident')
    .map((c) => c.on)
  const ends = new Map<string, string[]>()
  // Edges linked from a body have ends of their own that stand in one place.
  const linked = new Set(
    entities(d)
      .filter((e) => e.source)
      .map((e) => e.id),
  )
  const place = (p: string): string =>
    linked.has(p)
      ? pointAt(d, p)
          .map((v) => v.toFixed(6))
          .join()
      : p
  const curves = entities(d).filter((e) => e.type !== 'point' && e.type !== 'circle' && e.type !== 'ellipse')
  const ofCurve = (e: Entity): string[] => {
    if (e.type === 'line') return [e.a, e.b]
    if (e.type === 'spline') return e.closed ? [] : [e.through[0], e.through[e.through.length - 1]]
    if (e.type === 'control_spline') return [e.poles[0], e.poles[e.poles.length - 1]]
    return 'start' in e && e.type !== 'text' && e.start && e.end ? [e.start, e.end] : []
  }
  for (const e of curves)
    for (const p of ofCurve(e).map(place))
      for (const q of [p, ...same.filter((o) => o.includes(p)).flat()]) ends.set(q, [...(ends.get(q) ?? []), e.id])
  const found = new Set([id])
  const front = [id]
  while (front.length) {
    const here = front.pop()
    const e = curves.find((c) => c.id === here)
    if (!e) continue
    for (const p of ofCurve(e).map(place))
      for (const next of ends.get(p) ?? [])
        if (!found.has(next)) {
          found.add(next)
          front.push(next)
        }
  }
  return [...found]
}

/** Middle and largest side of everything drawn, or null when nothing has a size yet. */
export function extent(d: Drawing): { middle: Pair; size: number } | null {
  const xs: number[] = []
  const ys: number[] = []
  for (const e of entities(d)) {
    if (e.type === 'point') {
      xs.push(e.x)
      ys.push(e.y)
    }
    const round = roundOf(d, e.id)
    if (round) {
      xs.push(round.centre[0] - round.radius, round.centre[0] + round.radius)
      ys.push(round.centre[1] - round.radius, round.centre[1] + round.radius)
    }
  }
  const size = Math.max(Math.max(...xs) - Math.min(...xs), Math.max(...ys) - Math.min(...ys))
  if (!(size > 1e-6) || !Number.isFinite(size)) return null
  return { middle: [(Math.max(...xs) + Math.min(...xs)) / 2, (Math.max(...ys) + Math.min(...ys)) / 2], size }
}
