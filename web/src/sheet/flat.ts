// A blank as it is drawn: paths of its outline and patches, what a place on it is on the body.
import type { Schemas } from '../api/client'
import type { BodySpec } from '../viewport/body'
import type { Mark } from '../viewport/engine'
import type { Topology } from '../viewport/mesh'

export type Flat = Schemas['FlatView']
export type FlatBend = Schemas['FlatBendView']
type Pair = [number, number]

/** A strike at a share of its angle: outlines of the sheet and the tools, y up from the tip of the punch. */
export interface Seen {
  share: number
  punch: Pair[]
  die: Pair[]
  patches: { id: string; points: Pair[] }[]
}
export interface Strike {
  bend: string
  name: string
  punch: string
  over: boolean
  round: boolean
  pressed: boolean
  seen: Seen[]
}
export interface Struck {
  whole: boolean
  in_time: boolean
  strikes: Strike[]
  stops: { bend: string; name: string; meets: string; panel: string; tool: string; punch: string; share: number; seen: Seen }[]
}
/** What a strike is looked at in: all of the sheet, and of the tools what is near it. */
export function seenBox(seen: Seen): string {
  const points = seen.patches.flatMap((p) => p.points)
  const x = points.map((p) => p[0])
  const y = points.map((p) => p[1])
  const [x0, x1] = [Math.min(...x, -35), Math.max(...x, 35)]
  const [y0, y1] = [Math.min(...y, -30), Math.max(...y, 45)]
  const pad = 0.05 * Math.max(x1 - x0, y1 - y0)
  return `${x0 - pad} ${-y1 - pad} ${x1 - x0 + 2 * pad} ${y1 - y0 + 2 * pad}`
}

/** Blanks laid on stock sheets. */
export interface Lying {
  id: string
  turn: number
  at: Pair
}
export interface Nested {
  size: Pair
  sheets: { pieces: Lying[]; used: number }[]
  outlines: Record<string, Pair[][]>
  names: Record<string, string>
  dxf: string
}
/** How a piece lies, with y up. */
export const laid = (p: Lying): string => `translate(${p.at[0]} ${-p.at[1]}) rotate(${-p.turn})`

/** An SVG path with y up. */
export const path = (loops: Pair[][]): string => loops.map((l) => `M${l.map(([x, y]) => `${x} ${-y}`).join('L')}Z`).join('')
export const open = (points: Pair[]): string => `M${points.map(([x, y]) => `${x} ${-y}`).join('L')}`

/** The face of a body by its name. */
export function faceNamed(t: Topology, name: string): number {
  return t.faces.findIndex((f) => f.name === name)
}

/** The face of a patch that is on the side kept up. */
export function faceOf(flat: Flat, spec: BodySpec, patch: string): Mark | null {
  const index = faceNamed(spec.mesh.topology, `${patch}/${flat.side}`)
  return index < 0 ? null : { body: spec.id, kind: 'face', index }
}

/** A face of a form: the first that is called behind it. */
export function formFace(spec: BodySpec, form: string): number {
  return spec.mesh.topology.faces.findIndex((f) => f.name.startsWith(`${form}/`))
}

/** A small upright cross at a place. */
export const cross = ([x, y]: Pair, size: number): string => `M${x - size} ${-y}H${x + size}M${x} ${-y - size}V${-y + size}`

/** A double arrow in the middle of a blank. */
export function arrow([w, h]: Pair, turn: number): string {
  const size = 0.12 * Math.max(w, h)
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  const tip = (way: number): string => {
    const [x, y] = [w / 2 + (way * size * c) / 2, h / 2 + (way * size * s) / 2]
    const barb = (by: number): string =>
      `M${x} ${-y}L${x - way * 0.2 * size * Math.cos(turn + by)} ${-(y - way * 0.2 * size * Math.sin(turn + by))}`
    return barb(0.4) + barb(-0.4)
  }
  return `M${w / 2 - (size * c) / 2} ${-(h / 2 - (size * s) / 2)}L${w / 2 + (size * c) / 2} ${-(h / 2 + (size * s) / 2)}${tip(1)}${tip(-1)}`
}

/** The edge a wall has with the side of its patch that is kept up. */
export function edgeOf(flat: Flat, spec: BodySpec, patch: string, wall: string): Mark | null {
  const t = spec.mesh.topology
  const wanted = new Set([faceNamed(t, wall), faceNamed(t, `${patch}/${flat.side}`)])
  if (wanted.has(-1)) return null
  const index = t.edges.findIndex((e) => e.faces.length === 2 && e.faces.every((f) => wanted.has(f)))
  return index < 0 ? null : { body: spec.id, kind: 'edge', index }
}

/** What marks light up: patches by their tops and bottoms, walls by their names. */
export function lit(marks: Mark[], spec: BodySpec): { patches: Set<string>; walls: Set<string>; forms: Set<string> } {
  const patches = new Set<string>()
  const forms = new Set<string>()
  const walls = new Set<string>()
  for (const mark of marks.filter((m) => m.body === spec.id)) {
    const t = spec.mesh.topology
    const faces = mark.kind === 'face' ? [mark.index] : mark.kind === 'edge' ? t.edges[mark.index].faces : []
    for (const f of faces) {
      const name = t.faces[f]?.name ?? ''
      const form = /^(.*)\/(?:slit)?\d+\/(foot|head|over|under|cap|rim|lip|mid|front)\b/.exec(name)
      if (form) forms.add(form[1])
      else if (name.includes('/side/')) walls.add(name)
      else if (mark.kind === 'face') patches.add(name.replace(/\/(top|bottom)(\.\d+)?$/, ''))
    }
  }
  return { patches, walls, forms }
}

/** Where the words of a bend stand: over the middle of its longest line, read from below or the right. */
export function wordsOf(bend: FlatBend): { x: number; y: number; turn: number; long: number } | null {
  const long = [...bend.lines].sort((p, q) => size(q) - size(p))[0]
  if (!long) return null
  const [a, b] = long
  let turn = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI
  if (turn <= -89.99 || turn > 90.01) turn += turn < 0 ? 180 : -180
  return { x: (a[0] + b[0]) / 2, y: (a[1] + b[1]) / 2, turn, long: size(long) }
}
const size = ([a, b]: [Pair, Pair]): number => Math.hypot(b[0] - a[0], b[1] - a[1])
