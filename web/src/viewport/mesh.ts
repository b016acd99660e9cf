// The view buffer of a body: typed arrays on the fetched bytes, no copies. Layout: core/viewmesh.py.
import type { Schemas } from '../api/client'
import { refusalOf } from '../api/client'

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
}
export interface VertexInfo {
  at: Triple
  faces: number[]
}
export interface Topology {
  faces: FaceInfo[]
  edges: EdgeInfo[]
  vertices: VertexInfo[]
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
  const head = new Uint32Array(buffer, 0, 12)
  if (head[0] !== MAGIC) throw new Error('this is not a body')
  const [, , vertices, triangles, faces, edges, points, words] = head
  let at = 48
  const take = <T>(make: (offset: number) => T, bytes: number): T => {
    const made = make(at)
    at += bytes
    return made
  }
  const positions = take((o) => new Float32Array(buffer, o, vertices * 3), vertices * 12)
  const normals = take((o) => new Int8Array(buffer, o, vertices * 4), vertices * 4)
  const index = take((o) => new Uint32Array(buffer, o, triangles * 3), triangles * 12)
  const faceStarts = take((o) => new Uint32Array(buffer, o, faces + 1), (faces + 1) * 4)
  const edgeStarts = take((o) => new Uint32Array(buffer, o, edges + 1), (edges + 1) * 4)
  const edgePoints = take((o) => new Float32Array(buffer, o, points * 3), points * 12)
  const topology = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, at, words))) as Topology
  return { key, positions, normals, triangles: index, faceStarts, edgeStarts, edgePoints, topology }
}

const kept = new Map<string, Promise<BodyMesh>>()

/** The mesh of a body by its content key, fetched once. */
export function fetchMesh(key: string): Promise<BodyMesh> {
  let found = kept.get(key)
  if (!found) {
    found = fetch(`/api/meshes/${key}`).then(async (response) => {
      if (!response.ok) throw await refusalOf(response)
      return decode(key, await response.arrayBuffer())
    })
    found.catch(() => kept.delete(key))
    kept.set(key, found)
    if (kept.size > 200) kept.delete(kept.keys().next().value as string)
  }
  return found
}

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

const sorted = (names: string[]): string[] => [...names].sort()

function nameOf(t: Topology, kind: PickKind, i: number): string[] {
  if (kind === 'face') return [t.faces[i].name]
  const faces = kind === 'edge' ? t.edges[i].faces : t.vertices[i].faces
  return sorted(faces.map((f) => t.faces[f].name))
}

/** The pick to store for a face, edge or vertex: the same rule as naming.make_pick. */
export function makePick(t: Topology, body: string, kind: PickKind, i: number): StoredPick {
  const name = nameOf(t, kind, i)
  const same = JSON.stringify(name)
  const group = kind === 'face' ? t.faces : kind === 'edge' ? t.edges : t.vertices
  let alike = 0
  for (let k = 0; k < group.length; k++) if (JSON.stringify(nameOf(t, kind, k)) === same) alike++
  let around: string[][] = []
  if (kind === 'face') around = sorted(t.faces[i].neighbours.map((n) => t.faces[n].name)).map((n) => [n])
  if (kind === 'edge') {
    around = t.edges[i].ends.map((v) => nameOf(t, 'vertex', v))
    around.sort((a, b) => (JSON.stringify(a) < JSON.stringify(b) ? -1 : 1))
  }
  const form = kind === 'face' ? t.faces[i].kind : kind === 'edge' ? t.edges[i].kind : 'point'
  const size = kind === 'face' ? t.faces[i].area : kind === 'edge' ? t.edges[i].length : 0
  return {
    body,
    kind,
    name,
    witness: { kind: form, at: group[i].at, size, around, alone: alike === 1 },
  } as StoredPick
}

/** Index of what a stored pick names in a topology, or -1. Only for showing; the server decides. */
export function findPick(t: Topology, pick: StoredPick): number {
  const kind = pick.kind as PickKind
  const same = JSON.stringify(pick.name)
  const group = kind === 'face' ? t.faces : kind === 'edge' ? t.edges : t.vertices
  const at = pick.witness?.at as Triple | undefined
  let best = -1
  let least = Infinity
  for (let k = 0; k < group.length; k++) {
    if (JSON.stringify(nameOf(t, kind, k)) !== same) continue
    const p = group[k].at
    const away = at ? Math.hypot(p[0] - at[0], p[1] - at[1], p[2] - at[2]) : 0
    if (away < least) [best, least] = [k, away]
  }
  return best
}
