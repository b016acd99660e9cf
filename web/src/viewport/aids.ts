// Lines that are no bodies: open sketches, planes, axes, points, frames, ports, drawn threads.
import type { Box3 } from 'three'
import type { BuildView, Report, Schemas } from '../api/client'

type Frame = Schemas['FrameView']
type Vec = number[]
export interface Lines {
  pairs: Float32Array
  tone: string
  width?: number
}

const along = (o: Vec, d: Vec, k: number): Vec => [o[0] + k * d[0], o[1] + k * d[1], o[2] + k * d[2]]
const across = (f: Frame): Vec => [f.z[1] * f.x[2] - f.z[2] * f.x[1], f.z[2] * f.x[0] - f.z[0] * f.x[2], f.z[0] * f.x[1] - f.z[1] * f.x[0]]

export function sketchLines(found: Schemas['SketchView'], into: number[]): void {
  const f = found.frame
  const y = across(f)
  const at = (p: number[]): Vec => along(along(f.origin, f.x, p[0]), y, p[1])
  for (const c of found.curves) for (let i = 0; i + 1 < c.points.length; i++) into.push(...at(c.points[i]), ...at(c.points[i + 1]))
  const r = 1.5
  for (const p of Object.values(found.points))
    into.push(...at([p[0] - r, p[1]]), ...at([p[0] + r, p[1]]), ...at([p[0], p[1] - r]), ...at([p[0], p[1] + r]))
}

/** A square about the middle of what is there. */
function planeLines(f: Frame, box: Box3 | null, into: number[]): void {
  const full = box && !box.isEmpty()
  const r = full ? Math.max(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z) * 0.6 : 40
  const mid = full ? [0, 1, 2].map((k) => 0.5 * (box.max.getComponent(k) + box.min.getComponent(k))) : f.origin
  const y = across(f)
  const rel = [0, 1, 2].map((k) => mid[k] - f.origin[k])
  const [u, v] = [f.x, y].map((w) => rel[0] * w[0] + rel[1] * w[1] + rel[2] * w[2])
  const ring = [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([a, b]) => along(along(f.origin, f.x, u + a * r), y, v + b * r))
  ring.forEach((p, i) => into.push(...p, ...ring[(i + 1) % 4]))
}

/** An axis as a long line, a point as a cross, a frame as three arms, a port as arms with a ring. */
function datumLines(d: Schemas['DatumView'], size: number, into: number[]): void {
  const { origin: o, x, z } = d.frame
  const y = across(d.frame)
  const arm = Math.max(0.16 * size, 3)
  if (d.form === 'axis') into.push(...along(o, z, -0.7 * size), ...along(o, z, 0.7 * size))
  if (d.form === 'point') for (const w of [x, y, z]) into.push(...along(o, w, -0.3 * arm), ...along(o, w, 0.3 * arm))
  if (d.form === 'frame' || d.form === 'port') {
    into.push(...o, ...along(o, x, 0.6 * arm), ...o, ...along(o, y, 0.3 * arm), ...o, ...along(o, z, arm))
    const tip = along(o, z, arm)
    for (const w of [x, y]) for (const s of [-1, 1]) into.push(...tip, ...along(along(o, z, 0.8 * arm), w, s * 0.1 * arm))
  }
  if (d.form === 'port') ring(d.frame, 0.35 * arm, into)
}

function ring(f: Frame, r: number, into: number[]): void {
  const y = across(f)
  const at = (a: number): Vec => along(along(f.origin, f.x, r * Math.cos(a)), y, r * Math.sin(a))
  for (let k = 0; k < 32; k++) into.push(...at((k * Math.PI) / 16), ...at(((k + 1) * Math.PI) / 16))
}

/** A thread as the winding of its crest just off the surface it is cut into. */
function threadLines(m: Schemas['MarkView'], into: number[]): void {
  const y = across(m.frame)
  const turns = m.length / m.pitch
  const steps = Math.min(4000, Math.ceil(turns * 24))
  const at = (k: number): Vec => {
    const a = (m.left ? -1 : 1) * 2 * Math.PI * turns * (k / steps)
    return along(
      along(along(m.frame.origin, m.frame.x, m.radius * Math.cos(a)), y, m.radius * Math.sin(a)),
      m.frame.z,
      m.length * (k / steps),
    )
  }
  for (let k = 0; k < steps; k++) into.push(...at(k), ...at(k + 1))
}

/** All such lines of a build; `hidden` tells sketches that other steps stand for. */
export function aidLines(build: BuildView, box: Box3 | null, hidden: (step: string) => boolean): Lines[] {
  const sketches: number[] = []
  const datums: number[] = []
  const threads: number[] = []
  const size = box && !box.isEmpty() ? Math.max(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z) : 60
  for (const s of build.steps) {
    if (s.datum?.form === 'plane') planeLines(s.datum.frame, box, sketches)
    else if (s.datum) datumLines(s.datum, size, datums)
    else if (s.sketch && !hidden(s.id)) sketchLines(s.sketch, sketches)
  }
  for (const m of build.marks ?? []) threadLines(m, threads)
  return [
    { pairs: new Float32Array(sketches), tone: 'slate', width: 1.8 },
    { pairs: new Float32Array(datums), tone: 'accent', width: 1.8 },
    { pairs: new Float32Array(threads), tone: 'ink-2', width: 1 },
  ].filter((l) => l.pairs.length)
}

/** What a lost pick last stood for, dashed. */
export function ghostLines(lines: number[][][]): Lines[] {
  const pairs: number[] = []
  for (const line of lines) {
    const far = Math.hypot(...[0, 1, 2].map((k) => line[line.length - 1][k] - line[0][k]))
    const pieces =
      line.length > 2
        ? line
        : [
            line[0],
            ...Array.from({ length: 23 }, (_, i) => [0, 1, 2].map((k) => line[0][k] + ((line[1][k] - line[0][k]) * (i + 1)) / 24)),
            line[1],
          ]
    if (!far && line.length < 3) continue
    for (let i = 0; i + 1 < pieces.length; i += 2) pairs.push(...pieces[i], ...pieces[i + 1])
  }
  return pairs.length ? [{ pairs: new Float32Array(pairs), tone: 'bad', width: 2.4 }] : []
}

/** The ways distances were read along. */
export function measureLines(lines: number[][][]): Lines[] {
  const pairs = lines.flatMap((line) => line.slice(1).flatMap((p, i) => [...line[i], ...p]))
  return pairs.length ? [{ pairs: new Float32Array(pairs), tone: 'accent', width: 2.2 }] : []
}

/** Where steps failed: loose edges, borders of faulty faces, what a lost pick looked like. */
export function faultLines(build: BuildView, open: Report | null, box: Box3 | null): Lines[] {
  const pairs: number[] = []
  const arm = box && !box.isEmpty() ? 0.04 * Math.max(box.max.x - box.min.x, box.max.y - box.min.y, box.max.z - box.min.z) : 4
  for (const error of [open, ...build.steps.map((s) => s.error)]) {
    for (const line of error?.lines ?? []) for (let i = 0; i + 1 < line.length; i++) pairs.push(...line[i], ...line[i + 1])
    // A bare place is shown as a cross of the size things have.
    if (!error?.lines?.length && !error?.lost)
      for (const where of error?.where ?? []) {
        if (!where.startsWith('point:')) continue
        const p = where.slice(6).split(',').map(Number)
        for (const k of [0, 1, 2]) pairs.push(...p.map((v, i) => (i === k ? v - arm : v)), ...p.map((v, i) => (i === k ? v + arm : v)))
      }
  }
  return pairs.length ? [{ pairs: new Float32Array(pairs), tone: 'bad', width: 3 }] : []
}
