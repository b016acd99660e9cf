// The view buffer of a body: typed arrays on the fetched bytes, no copies. Layout: core/viewmesh.py.
import type { Schemas } from '../api/client'
import { bytesAt, Sections } from '../api/buffer'
import { Fetched } from '../api/newest'

export type Triple = [number, number, number]

export interface FaceInfo {
  name: string
  kind: string
  area: number
  at: Triple
  origin: Triple
  direction?: Triple
  radius?: number
  hollow?: boolean
  neighbours: number[]
}
export interface EdgeInfo {
  kind: string
  faces: number[]
  ends: number[]
  at: Triple
  length: number
  direction?: Triple
  centre?: Triple
  radius?: number
  closed?: boolean
  /** Where a face closes upon itself. */
  seam?: boolean
}
export interface VertexInfo {
  at: Triple
  faces: number[]
}
/** What picks are called: names by their place in `names`, those around, whether nothing else is so called. */
type Called = [name: number[], around: number[][], alone: boolean]
export interface Topology {
  faces: FaceInfo[]
  edges: EdgeInfo[]
  vertices: VertexInfo[]
  picks: { names: string[]; face: Called[]; edge: Called[]; vertex: Called[] }
}

export interface BodyMesh {
  key: string
  positions: Float32Array
  normals: Int8Array
  triangles: Uint32Array
  faceStarts: Uint32Array
  edgeStarts: Uint32Array
  edgePoints: Float32Array
  topology: Topology
}

const MAGIC = 0x4d5246

export function decode(key: string, buffer: ArrayBuffer): BodyMesh {
  const read = new Sections(buffer, 12, MAGIC, 'a body')
  const [, , vertices, triangles, faces, edges, points, words] = read.head
  return {
    key,
    positions: read.floats(vertices * 3),
    normals: read.bytes(vertices * 4),
    triangles: read.uints(triangles * 3),
    faceStarts: read.uints(faces + 1),
    edgeStarts: read.uints(edges + 1),
    edgePoints: read.floats(points * 3),
    topology: read.json<Topology>(words),
  }
}

/** Of the layout: browsers keep buffers for good by their address. */
const VERSION = 2
const meshes = new Fetched(async (key) => decode(key, await bytesAt(`/api/meshes/${key}?v=${VERSION}`)), 200)

/** The mesh of a body by its content key, fetched once. */
export const fetchMesh = (key: string): Promise<BodyMesh> => meshes.get(key)

/** Index of the range that holds `value` in ascending starts. */
export function rangeOf(starts: Uint32Array, value: number): number {
  let low = 0
  let high = starts.length - 2
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (starts[middle] <= value) low = middle
    else high = middle - 1
  }
  return low
}

export type PickKind = 'face' | 'edge' | 'vertex'
export type StoredPick = Schemas['Pick']

/** The pick to store for a face, edge or vertex: what the server tells of it, put together. */
export function pickAt(t: Topology, body: string, kind: PickKind, i: number): StoredPick {
  const [name, around, alone] = t.picks[kind][i]
  const told = (places: number[]): string[] => places.map((n) => t.picks.names[n])
  const item = kind === 'face' ? t.faces[i] : kind === 'edge' ? t.edges[i] : t.vertices[i]
  const form = kind === 'vertex' ? 'point' : (item as FaceInfo | EdgeInfo).kind
  const size = kind === 'face' ? t.faces[i].area : kind === 'edge' ? t.edges[i].length : 0
  return { body, kind, name: told(name), witness: { kind: form, at: item.at, size, around: around.map(told), alone } } as StoredPick
}

/** Index of what a stored pick names in a topology, or -1. Only for showing; the server decides. */
export function findPick(t: Topology, pick: StoredPick): number {
  const kind = pick.kind as PickKind
  const places = pick.name.map((n) => t.picks.names.indexOf(n))
  const same = (name: number[]): boolean => name.length === places.length && name.every((n, k) => n === places[k])
  const group = kind === 'face' ? t.faces : kind === 'edge' ? t.edges : t.vertices
  const at = pick.witness?.at as Triple | undefined
  let best = -1
  let least = Infinity
  for (let k = 0; k < group.length; k++) {
    if (!same(t.picks[kind][k][0])) continue
    const p = group[k].at
    const away = at ? Math.hypot(p[0] - at[0], p[1] - at[1], p[2] - at[2]) : 0
    if (away < least) [best, least] = [k, away]
  }
  return best
}
