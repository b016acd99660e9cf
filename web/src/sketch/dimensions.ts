// Where the lines and label of a dimension stand. Pure: works in plane coordinates (mm).
import type { Constraint, Drawing } from '../api/client'
import { entities, entity, formOf, lineEnds, type Pair, perDrawing, pointAt, roundOf } from './model'
import type { Runs } from './paths'

export interface DimensionShape {
  lines: [Pair, Pair][]
  arrows: { at: Pair; way: Pair }[]
  label: Pair
}

const mid = (a: Pair, b: Pair): Pair => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]
const sub = (a: Pair, b: Pair): Pair => [a[0] - b[0], a[1] - b[1]]
const add = (a: Pair, b: Pair, k = 1): Pair => [a[0] + b[0] * k, a[1] + b[1] * k]
const dot = (a: Pair, b: Pair): number => a[0] * b[0] + a[1] * b[1]
const unit = (v: Pair): Pair => {
  const n = Math.hypot(v[0], v[1]) || 1
  return [v[0] / n, v[1] / n]
}

/** The middle of everything drawn: labels are put on the far side of it. */
export const middle = perDrawing((d): Pair => {
  const points = entities(d)
    .filter((e) => e.type === 'point')
    .map((e) => pointAt(d, e.id))
  if (!points.length) return [0, 0]
  const xs = points.map((p) => p[0])
  const ys = points.map((p) => p[1])
  return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2]
})

/** A place on an entity where something about it can be written. */
function anchor(d: Drawing, id: string, free: Runs): Pair | null {
  const ends = lineEnds(d, id)
  if (ends) return mid(...ends)
  const round = roundOf(d, id)
  if (round) return add(round.centre, [0.707, 0.707], round.radius)
  const e = entity(d, id)
  if (e && (e.type === 'ellipse' || e.type === 'elliptic_arc')) return pointAt(d, e.major)
  if (e?.type === 'text') return pointAt(d, e.end)
  const run = free.get(id)?.[0]
  return run?.[Math.floor(run.length / 2)] ?? null
}

/** The two points a distance is taken between and its direction. */
function span(d: Drawing, c: Constraint): { a: Pair; b: Pair; along: Pair } | null {
  const points = c.on.filter((i) => formOf(d, i) === 'point').map((i) => pointAt(d, i))
  if (c.type === 'along') {
    const start = c.on.map((i) => lineEnds(d, i)).find(Boolean)?.[0]
    return start ? { a: start, b: points[0], along: unit(sub(points[0], start)) } : null
  }
  const lines = c.on.filter((i) => formOf(d, i) === 'line')
  let a: Pair
  let b: Pair
  if (points.length === 2) [a, b] = points
  else if (lines.length === 1 && !points.length) {
    const ends = lineEnds(d, lines[0])
    if (!ends) return null
    ;[a, b] = ends
  } else {
    const ends = lineEnds(d, lines[0])
    const other = points[0] ?? lineEnds(d, lines[1])?.[0]
    if (!ends || !other) return null
    const u = unit(sub(ends[1], ends[0]))
    const p = points[0] ? other : mid(...(lineEnds(d, lines[1]) as [Pair, Pair]))
    a = add(ends[0], u, dot(sub(p, ends[0]), u))
    b = p
  }
  if (c.type === 'distance_x') return { a, b, along: [1, 0] }
  if (c.type === 'distance_y') return { a, b, along: [0, 1] }
  return { a, b, along: unit(sub(b, a)) }
}

/** `gap` is the usual distance of a label from its geometry, in mm; `slot` spreads labels apart. */
export function shapeOf(d: Drawing, c: Constraint, gap: number, slot = 0, free: Runs = new Map()): DimensionShape | null {
  if (c.type === 'radius' || c.type === 'diameter') {
    const round = roundOf(d, c.on[0])
    if (!round) return null
    const label: Pair = (c.at as Pair | null | undefined) ?? add(round.centre, unit([1, 0.8 + slot * 0.5]), round.radius + gap)
    const way = unit(sub(label, round.centre))
    const rim = add(round.centre, way, round.radius)
    const start = c.type === 'diameter' ? add(round.centre, way, -round.radius) : round.centre
    const arrows = [{ at: rim, way }]
    if (c.type === 'diameter') arrows.push({ at: start, way: [-way[0], -way[1]] })
    return { lines: [[start, label]], arrows, label }
  }
  if (
    c.type === 'width' ||
    c.type === 'height' ||
    c.type === 'arc_length' ||
    c.type === 'ratio' ||
    c.type === 'text_height' ||
    c.type === 'least_radius' ||
    (c.type === 'along' && !span(d, c))
  ) {
    const at = anchor(d, c.on[0], free)
    if (!at) return null
    const label: Pair = (c.at as Pair | null | undefined) ?? add(at, [0.7, 0.7], gap * (0.8 + slot * 0.7))
    return { lines: [[at, label]], arrows: [], label }
  }
  if (c.type === 'offset') {
    const one = anchor(d, c.on[0], free)
    const two = anchor(d, c.on[1], free)
    if (!one || !two) return null
    const label: Pair = (c.at as Pair | null | undefined) ?? add(mid(one, two), unit(sub(two, one)), gap * (1 + slot * 0.7))
    return {
      lines: [
        [one, two],
        [two, label],
      ],
      arrows: [{ at: two, way: unit(sub(two, one)) }],
      label,
    }
  }
  if (c.type === 'angle') {
    const one = lineEnds(d, c.on[0])
    const two = lineEnds(d, c.on[1])
    if (!one || !two) return null
    const [, f = 1, g = 1] = c.sense ?? []
    const u = f > 0 ? sub(one[1], one[0]) : sub(one[0], one[1])
    const v = g > 0 ? sub(two[1], two[0]) : sub(two[0], two[1])
    const cross = u[0] * v[1] - u[1] * v[0]
    const t = Math.abs(cross) > 1e-12 ? ((two[0][0] - one[0][0]) * v[1] - (two[0][1] - one[0][1]) * v[0]) / cross : 0.5
    const corner = add(one[0], u, t)
    const between = unit(add(unit(u), unit(v)))
    const label: Pair = (c.at as Pair | null | undefined) ?? add(corner, between, gap * 2.2)
    const r = Math.hypot(label[0] - corner[0], label[1] - corner[1])
    const a = Math.atan2(u[1], u[0])
    let turn = Math.atan2(v[1], v[0]) - a
    turn -= Math.round(turn / (2 * Math.PI)) * 2 * Math.PI
    const arc: Pair[] = Array.from({ length: 13 }, (_, i) => {
      const s = a + (turn * i) / 12
      return [corner[0] + r * Math.cos(s), corner[1] + r * Math.sin(s)]
    })
    return { lines: arc.slice(1).map((p, i) => [arc[i], p]), arrows: [], label }
  }
  const s = span(d, c)
  if (!s) return null
  let across: Pair = [-s.along[1], s.along[0]]
  const centre = mid(s.a, s.b)
  // Away from the middle of the sketch, so that labels stand outside.
  if (dot(sub(middle(d), centre), across) > 1e-9) across = [-across[0], -across[1]]
  const label: Pair = (c.at as Pair | null | undefined) ?? add(centre, across, gap * (1 + slot * 0.9))
  const height = dot(sub(label, s.a), across)
  const foot = (p: Pair): Pair => add(p, across, height - dot(sub(p, s.a), across))
  const [fa, fb] = [foot(s.a), foot(s.b)]
  const way = unit(sub(fb, fa))
  const beyond = 0.15 * gap * Math.sign(height || 1)
  return {
    lines: [
      [s.a, add(fa, across, beyond)],
      [s.b, add(fb, across, beyond)],
      [fa, fb],
    ],
    arrows: [
      { at: fa, way: [-way[0], -way[1]] },
      { at: fb, way },
    ],
    label: add(fa, way, dot(sub(label, fa), way)),
  }
}
