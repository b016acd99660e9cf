// Maps the server makes of a body: a value at every place of its skin. Layout: core/maps/kind.py.
import { Color } from 'three'
import { bytesAt, Sections } from '../api/buffer'
import { Fetched } from '../api/newest'
import { linear, scale } from '../ui/scale'
import type { Band } from './maps'
import type { Triple } from './mesh'
import { length } from '../ui/units'

export type FieldKind = 'thickness' | 'undercut' | 'curvature' | 'stripes'

export interface Place {
  value: number
  at: Triple
  to: Triple | null
}
export interface FieldMap {
  points: Float32Array
  normals: Float32Array
  /** `per` values for each point. */
  values: Float32Array
  per: number
  triangles: Uint32Array
  told: {
    places: Place[]
    unit: string
    spacing?: number
    least?: number | null
    most?: number | null
    area?: number
    least_hollow?: number | null
    least_bulge?: number | null
  }
}

const MAGIC = 0x4d4150

export function decodeMap(buffer: ArrayBuffer): FieldMap {
  const read = new Sections(buffer, 8, MAGIC, 'a map of a body')
  const [, , points, triangles, per, words] = read.head
  const [p, n, v] = [read.floats(3 * points), read.floats(3 * points), read.floats(per * points)]
  return { points: p, normals: n, values: v, per, triangles: read.uints(3 * triangles), told: read.json<FieldMap['told']>(words) }
}

const maps = new Fetched(async (path) => decodeMap(await bytesAt(path)), 40)

/** The map of a body by its content key, fetched once. */
export function fetchMap(key: string, kind: FieldKind, way: Triple): Promise<FieldMap> {
  // Stripes are drawn from the same directions and bends.
  const made = kind === 'stripes' ? 'curvature' : kind
  const towards = kind === 'undercut' ? `?way=${way.map((v) => +v.toFixed(9)).join(',')}` : ''
  return maps.get(`/api/meshes/${key}/maps/${made}${towards}`)
}

export const BAD = '#b5483b'
const PALE = '#dcdcd2'
const SAFFRON = '#e0b33c'

/** What the colours of a map with bands mean. */
export function fieldBands(kind: FieldKind, threshold: number): Band[] {
  if (kind === 'undercut')
    return [
      { tone: BAD, words: 'neither half lets go' },
      { tone: '#4f9d78', words: 'formed by the pulled half' },
      { tone: '#5b7fa6', words: 'formed by the other half' },
      { tone: PALE, words: 'upright: either half' },
    ]
  if (kind === 'curvature')
    return [
      { tone: BAD, words: `hollow, tighter than R ${length(threshold)}` },
      { tone: SAFFRON, words: `bulging, tighter than R ${length(threshold)}` },
      { tone: PALE, words: 'rounder or flat' },
    ]
  if (kind === 'thickness')
    return [
      { tone: BAD, words: `thinner than ${length(threshold)}` },
      { tone: PALE, words: 'no wall across' },
    ]
  return []
}

/** The thickness at the far end of the scale: walls beyond look alike. */
export const topOf = (threshold: number): number => 4 * threshold

/** Colour of a wall thicker than the threshold: sand at the threshold, deep green far above. */
export function wallTone(value: number, threshold: number): [number, number, number] {
  return scale(0.5 - 0.5 * Math.min(1, (value - threshold) / (topOf(threshold) - threshold)))
}

/** Colours of the points of a map (linear, three a point); null where the stripes are drawn. */
export function fieldColours(map: FieldMap, kind: FieldKind, threshold: number): Float32Array | null {
  if (kind === 'stripes') return null
  const tones = fieldBands(kind, threshold).map((b) => new Color(b.tone).toArray())
  const out = new Float32Array(map.points.length)
  for (let i = 0; i < map.points.length / 3; i++) {
    const v = map.values[map.per * i]
    let tone: number[]
    if (kind === 'undercut') tone = tones[v]
    else if (kind === 'curvature') {
      // Just as tight as the threshold is not tighter.
      const limit = (1 + 1e-6) / threshold
      tone = -map.values[map.per * i + 1] > limit ? tones[0] : v > limit ? tones[1] : tones[2]
    } else tone = Number.isNaN(v) ? tones[1] : v < threshold * (1 - 1e-6) ? tones[0] : wallTone(v, threshold).map(linear)
    out.set(tone, 3 * i)
  }
  return out
}

/** Share of the skin that is thinner than the threshold, from 0 to 1. */
export function thinShare(maps: FieldMap[], threshold: number): number {
  let thin = 0
  let all = 0
  for (const m of maps) {
    const [p, t] = [m.points, m.triangles]
    for (let i = 0; i < t.length; i += 3) {
      const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]]
      const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
      const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
      const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
      all += area
      for (let k = 0; k < 3; k++) if (m.values[t[i + k]] < threshold * (1 - 1e-6)) thin += area / 3
    }
  }
  return all > 0 ? thin / all : 0
}
