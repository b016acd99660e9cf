// A drawing as plain data and the ways to add to it. Pure: every function gives a new drawing.
import type { Constraint, Drawing } from '../api/client'

export type Pair = [number, number]
export type Entity = NonNullable<Drawing['entities']>[number]
export type PointEntity = Extract<Entity, { type: 'point' }>
export type Snap = { kind: 'point' | 'midpoint' | 'curve' | 'tangent'; id: string }

/** A place clicked: where, and what it was snapped to. */
export interface Spot {
  at: Pair
  snap?: Snap
  /** Level with the spot before it. */
  level?: 'horizontal' | 'vertical'
}

export interface Plan {
  entities: Entity[]
  constraints: Constraint[]
}

export const empty = (): Drawing => ({ entities: [], constraints: [] })
export const entities = (d: Drawing): Entity[] => d.entities ?? []
export const constraints = (d: Drawing): Constraint[] => d.constraints ?? []

/** Hands out ids that are not in the drawing yet. */
export class Ids {
  private readonly used: Set<string>
  constructor(d: Drawing) {
    this.used = new Set([...entities(d).map((e) => e.id), ...constraints(d).map((c) => c.id)])
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
  const found = entities(d).find((e): e is PointEntity => e.id === id && e.type === 'point')
  return found ? [found.x, found.y] : [0, 0]
}

/** Builds up entities and constraints for one action. */
export class Adding {
  readonly entities: Entity[] = []
  readonly constraints: Constraint[] = []
  readonly ids: Ids
  constructor(
    private readonly base: Drawing,
    readonly construction = false,
  ) {
    this.ids = new Ids(base)
  }

  /** The point for a spot: an existing one when it was snapped to, else a new one. */
  point(spot: Spot): string {
    if (spot.snap?.kind === 'point') return spot.snap.id
    const id = this.ids.next('p')
    this.entities.push({ id, type: 'point', x: spot.at[0], y: spot.at[1], construction: false })
    if (spot.snap?.kind === 'midpoint') this.constrain('midpoint', [id, spot.snap.id])
    if (spot.snap?.kind === 'curve' || spot.snap?.kind === 'tangent') this.constrain('on_curve', [id, spot.snap.id])
    return id
  }
  line(a: string, b: string): string {
    const id = this.ids.next('l')
    this.entities.push({ id, type: 'line', a, b, construction: this.construction })
    return id
  }
  circle(centre: string, radius: number): string {
    const id = this.ids.next('c')
    this.entities.push({ id, type: 'circle', centre, radius, construction: this.construction })
    return id
  }
  arc(centre: string, start: string, end: string): string {
    const id = this.ids.next('a')
    this.entities.push({ id, type: 'arc', centre, start, end, construction: this.construction })
    return id
  }
  constrain(type: string, on: string[]): void {
    this.constraints.push({ id: this.ids.next('k'), type, on, formula: null, reference: false, sense: [], at: null } as Constraint)
  }
  dimension(type: string, on: string[], formula: string): void {
    this.constraints.push({ id: this.ids.next('d'), type, on, formula, reference: false, sense: [], at: null } as Constraint)
  }
  done(): Drawing {
    return {
      entities: [...entities(this.base), ...this.entities],
      constraints: [...constraints(this.base), ...this.constraints],
    }
  }
}

export function addLine(d: Drawing, from: Spot, to: Spot, length: string, construction: boolean): { drawing: Drawing; end: string } {
  const add = new Adding(d, construction)
  const a = add.point(from)
  const b = add.point(to)
  const line = add.line(a, b)
  if (to.level && !(from.snap?.kind === 'point' && to.snap?.kind === 'point')) add.constrain(to.level, [line])
  if (to.snap?.kind === 'tangent') add.constrain('tangent', [line, to.snap.id])
  if (length) add.dimension('distance', [line], length)
  return { drawing: add.done(), end: b }
}

export function addRectangle(d: Drawing, from: Spot, to: Spot, width: string, height: string, construction: boolean, centred: boolean): Drawing {
  const add = new Adding(d, construction)
  const [cx, cy] = from.at
  const corner: Pair = centred ? [2 * cx - to.at[0], 2 * cy - to.at[1]] : from.at
  const low: Pair = [Math.min(corner[0], to.at[0]), Math.min(corner[1], to.at[1])]
  const high: Pair = [Math.max(corner[0], to.at[0]), Math.max(corner[1], to.at[1])]
  const corners: Pair[] = [low, [high[0], low[1]], high, [low[0], high[1]]]
  const near = (p: Pair, q: Pair): boolean => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-9
  const points = corners.map((at) => {
    if (!centred && near(at, from.at)) return add.point({ ...from, level: undefined })
    if (near(at, to.at)) return add.point({ ...to, level: undefined })
    return add.point({ at })
  })
  const lines = points.map((p, i) => add.line(p, points[(i + 1) % 4]))
  lines.forEach((l, i) => add.constrain(i % 2 ? 'vertical' : 'horizontal', [l]))
  if (centred) {
    const centre = add.point(from)
    const id = add.ids.next('l')
    add.entities.push({ id, type: 'line', a: points[0], b: points[2], construction: true })
    add.constrain('midpoint', [centre, id])
  }
  if (width) add.dimension('distance', [lines[0]], width)
  if (height) add.dimension('distance', [lines[1]], height)
  return add.done()
}

export function addCircle(d: Drawing, centre: Spot, rim: Spot, diameter: string, construction: boolean): Drawing {
  const add = new Adding(d, construction)
  const c = add.point(centre)
  const radius = Math.hypot(rim.at[0] - centre.at[0], rim.at[1] - centre.at[1])
  const circle = add.circle(c, Math.max(radius, 1e-3))
  if (rim.snap?.kind === 'point') add.constrain('on_curve', [rim.snap.id, circle])
  if (rim.snap?.kind === 'tangent' || rim.snap?.kind === 'curve') add.constrain('tangent', [circle, rim.snap.id])
  if (diameter) add.dimension('diameter', [circle], diameter)
  return add.done()
}

/** Counter-clockwise when the drawn turn goes that way, else the other way round. */
export function addArc(d: Drawing, centre: Spot, start: Spot, end: Spot, turn: number, radius: string, construction: boolean): Drawing {
  const add = new Adding(d, construction)
  const c = add.point(centre)
  const s = add.point(start)
  const r = Math.hypot(start.at[0] - centre.at[0], start.at[1] - centre.at[1])
  const angle = Math.atan2(end.at[1] - centre.at[1], end.at[0] - centre.at[0])
  const on: Spot = end.snap ? end : { at: [centre.at[0] + r * Math.cos(angle), centre.at[1] + r * Math.sin(angle)] }
  const e = add.point(on)
  const arc = turn >= 0 ? add.arc(c, s, e) : add.arc(c, e, s)
  if (radius) add.dimension('radius', [arc], radius)
  return add.done()
}

/** Centre of the circle through three points, or null when they are in line. */
export function centreOf(a: Pair, b: Pair, c: Pair): Pair | null {
  const d = 2 * (a[0] * (b[1] - c[1]) + b[0] * (c[1] - a[1]) + c[0] * (a[1] - b[1]))
  if (Math.abs(d) < 1e-9) return null
  const sq = (p: Pair): number => p[0] * p[0] + p[1] * p[1]
  return [
    (sq(a) * (b[1] - c[1]) + sq(b) * (c[1] - a[1]) + sq(c) * (a[1] - b[1])) / d,
    (sq(a) * (c[0] - b[0]) + sq(b) * (a[0] - c[0]) + sq(c) * (b[0] - a[0])) / d,
  ]
}

export function addArc3(d: Drawing, start: Spot, end: Spot, through: Spot, radius: string, construction: boolean): Drawing {
  const centre = centreOf(start.at, end.at, through.at)
  if (!centre) return d
  const cross = (end.at[0] - start.at[0]) * (through.at[1] - start.at[1]) - (end.at[1] - start.at[1]) * (through.at[0] - start.at[0])
  return addArc(d, { at: centre }, start, end, cross < 0 ? 1 : -1, radius, construction)
}

export function addPoint(d: Drawing, spot: Spot): Drawing {
  const add = new Adding(d)
  if (spot.snap?.kind === 'point') return d
  add.point(spot)
  return add.done()
}

/** Without some entities and constraints, and without everything that needs them. */
export function remove(d: Drawing, ids: Set<string>): Drawing {
  const gone = new Set(ids)
  let grew = true
  while (grew) {
    grew = false
    for (const e of entities(d)) {
      if (gone.has(e.id) || e.type === 'point') continue
      const needs = e.type === 'line' ? [e.a, e.b] : e.type === 'circle' ? [e.centre] : [e.centre, e.start, e.end]
      if (needs.some((n) => gone.has(n))) {
        gone.add(e.id)
        grew = true
      }
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
  }
}

export function usedPoints(list: Entity[]): Set<string> {
  const used = new Set<string>()
  for (const e of list) {
    if (e.type === 'line') used.add(e.a).add(e.b)
    else if (e.type === 'circle') used.add(e.centre)
    else if (e.type === 'arc') used.add(e.centre).add(e.start).add(e.end)
  }
  return used
}

export const formOf = (d: Drawing, id: string): 'point' | 'line' | 'circle' => {
  if (id === 'origin') return 'point'
  if (id === 'x_axis' || id === 'y_axis') return 'line'
  const e = entities(d).find((x) => x.id === id)
  return e?.type === 'point' ? 'point' : e?.type === 'line' ? 'line' : 'circle'
}

export function lineEnds(d: Drawing, id: string): [Pair, Pair] | null {
  if (id === 'x_axis') return [[0, 0], [1, 0]]
  if (id === 'y_axis') return [[0, 0], [0, 1]]
  const e = entities(d).find((x) => x.id === id)
  return e?.type === 'line' ? [pointAt(d, e.a), pointAt(d, e.b)] : null
}

export function roundOf(d: Drawing, id: string): { centre: Pair; radius: number } | null {
  const e = entities(d).find((x) => x.id === id)
  if (e?.type === 'circle') return { centre: pointAt(d, e.centre), radius: e.radius }
  if (e?.type === 'arc') {
    const c = pointAt(d, e.centre)
    const s = pointAt(d, e.start)
    return { centre: c, radius: Math.hypot(s[0] - c[0], s[1] - c[1]) }
  }
  return null
}

/** The dimension one would mean by these entities. */
export function dimensionFor(d: Drawing, on: string[]): string | null {
  const forms = on.map((i) => formOf(d, i)).sort().join(' ')
  if (forms === 'line' || forms === 'point point' || forms === 'line point') return 'distance'
  if (forms === 'circle') return entities(d).find((e) => e.id === on[0])?.type === 'arc' ? 'radius' : 'diameter'
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
