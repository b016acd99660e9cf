// Edges of the model that lie in the plane of a sketch: they catch the pointer while drawing.
import type { Schemas } from '../api/client'
import type { BodySpec } from '../viewport/body'
import { pickAt, type StoredPick } from '../viewport/mesh'
import type { Pair } from './model'

export interface ModelEdge {
  pick: () => StoredPick
  /** In the plane of the sketch, mm. */
  run: Pair[]
}

type Frame = Schemas['FrameView']
/** How far (mm) an edge may stand off the plane. */
const FLAT = 1e-4

export function edgesInPlane(bodies: BodySpec[], frame: Frame): ModelEdge[] {
  const { origin: o, x, y, z } = frame
  const dot = (a: number[], p: ArrayLike<number>, k: number): number =>
    a[0] * (p[k] - o[0]) + a[1] * (p[k + 1] - o[1]) + a[2] * (p[k + 2] - o[2])
  const found: ModelEdge[] = []
  for (const { id, mesh } of bodies)
    for (let e = 0; e + 1 < mesh.edgeStarts.length; e++) {
      const places = Array.from({ length: mesh.edgeStarts[e + 1] - mesh.edgeStarts[e] }, (_, i) => 3 * (mesh.edgeStarts[e] + i))
      if (places.length < 2 || places.some((k) => Math.abs(dot(z, mesh.edgePoints, k)) > FLAT)) continue
      found.push({
        run: places.map((k) => [dot(x, mesh.edgePoints, k), dot(y, mesh.edgePoints, k)]),
        pick: () => pickAt(mesh.topology, id, 'edge', e),
      })
    }
  return found
}
