// The result field of a study: surface nodes with displacement and stress. Layout: work/tasks/study.py.
import { bytesAt, Sections } from '../api/buffer'
import { linear, scale } from '../ui/scale'
import type { BodyMesh } from '../viewport/mesh'

export interface ResultField {
  points: Float32Array
  displacement: Float32Array
  mises: Float32Array
  triangles: Uint32Array
  face: Uint32Array
}

const MAGIC = 0x4c4656

export const fetchField = async (key: string): Promise<ResultField> => decodeField(await bytesAt(`/api/fields/${key}`))

export function decodeField(buffer: ArrayBuffer): ResultField {
  const read = new Sections(buffer, 8, MAGIC, 'a result field')
  const [, , nodes, triangles] = read.head
  return {
    points: read.floats(3 * nodes),
    displacement: read.floats(3 * nodes),
    mises: read.floats(nodes),
    triangles: read.uints(3 * triangles),
    face: read.uints(triangles),
  }
}

/** Colours per node for values between 0 and `top`. */
export function tint(values: Float32Array, top: number): Float32Array {
  const out = new Float32Array(values.length * 3)
  for (let i = 0; i < values.length; i++) {
    const c = scale(top > 0 ? values[i] / top : 0)
    for (let k = 0; k < 3; k++) out[3 * i + k] = linear(c[k])
  }
  return out
}

export function lengths(vectors: Float32Array): Float32Array {
  const out = new Float32Array(vectors.length / 3)
  for (let i = 0; i < out.length; i++) out[i] = Math.hypot(vectors[3 * i], vectors[3 * i + 1], vectors[3 * i + 2])
  return out
}

/** Node positions moved along the displacement, `factor` times. */
export function moved(field: ResultField, factor: number): Float32Array {
  const out = new Float32Array(field.points.length)
  for (let i = 0; i < out.length; i++) out[i] = field.points[i] + factor * field.displacement[i]
  return out
}

/** The field's surface in the shape the view takes. */
export function asMesh(field: ResultField, key: string, positions: Float32Array): BodyMesh {
  const normals = new Float32Array(positions.length)
  const t = field.triangles
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]]
    const u = [0, 1, 2].map((k) => positions[b + k] - positions[a + k])
    const v = [0, 1, 2].map((k) => positions[c + k] - positions[a + k])
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
    for (const at of [a, b, c]) for (let k = 0; k < 3; k++) normals[at + k] += n[k]
  }
  const small = new Int8Array((normals.length / 3) * 4)
  for (let i = 0; i < normals.length / 3; i++) {
    const length = Math.hypot(normals[3 * i], normals[3 * i + 1], normals[3 * i + 2]) || 1
    for (let k = 0; k < 3; k++) small[4 * i + k] = Math.round((normals[3 * i + k] / length) * 127)
  }
  return {
    key,
    positions,
    normals: small,
    triangles: t,
    faceStarts: new Uint32Array([0, t.length / 3]),
    edgeStarts: new Uint32Array([0]),
    edgePoints: new Float32Array(0),
    topology: { faces: [], edges: [], vertices: [], picks: { names: [], face: [], edge: [], vertex: [] } },
  }
}
