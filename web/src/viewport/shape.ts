// What is drawn and picked of a mesh, made once however many bodies show it: buffers for the
// graphics, trees that find what a ray meets, which edges and corners anybody looks for.
import { type Box3, BufferAttribute, BufferGeometry, type Ray, Vector3 } from 'three'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { LineSegmentsBVH, MeshBVH } from 'three-mesh-bvh'
import type { BodyMesh, FaceInfo } from './mesh'

/** Facets of a mesh that bend less than this (cosine) show one surface. */
const BEND = Math.cos((25 * Math.PI) / 180)
function runsOn(a: FaceInfo, b: FaceInfo): boolean {
  if (!a.name.includes('/facet') || !b.name.includes('/facet') || !a.direction || !b.direction) return false
  return a.direction[0] * b.direction[0] + a.direction[1] * b.direction[1] + a.direction[2] * b.direction[2] > BEND
}

/** Segments of some edges: pairs of points, one after the other. */
export function edgePairs(mesh: BodyMesh, edges: Iterable<number>): Float32Array {
  const out: number[] = []
  const p = mesh.edgePoints
  for (const e of edges)
    for (let i = mesh.edgeStarts[e]; i + 1 < mesh.edgeStarts[e + 1]; i++)
      out.push(p[3 * i], p[3 * i + 1], p[3 * i + 2], p[3 * i + 3], p[3 * i + 4], p[3 * i + 5])
  return new Float32Array(out)
}

export function faceGeometry(mesh: BodyMesh, positions: Float32Array = mesh.positions): BufferGeometry {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions, 3))
  geometry.setAttribute('normal', new BufferAttribute(normalsOf(mesh), 3, true))
  geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
  return geometry
}

function normalsOf(mesh: BodyMesh): Int8Array {
  const out = new Int8Array((mesh.normals.length / 4) * 3)
  for (let i = 0, j = 0; i < mesh.normals.length; i += 4, j += 3) {
    out[j] = mesh.normals[i]
    out[j + 1] = mesh.normals[i + 1]
    out[j + 2] = mesh.normals[i + 2]
  }
  return out
}

/** Where a line at right angles to two others passes an edge: how far, and which point. */
export interface NearEdge {
  edge: number
  point: Vector3
  away: number
  depth: number
}

export class Shape {
  private static readonly known = new WeakMap<BodyMesh, Shape>()
  /** The one shape of a mesh. */
  static of(mesh: BodyMesh): Shape {
    let found = Shape.known.get(mesh)
    if (!found) Shape.known.set(mesh, (found = new Shape(mesh)))
    return found
  }

  readonly faces: BufferGeometry
  private users = 0
  private thin: BufferGeometry | null = null
  private fat: LineSegmentsGeometry | null = null
  private drawn: Float32Array | null = null
  private lines: { tree: LineSegmentsBVH; edges: Uint32Array } | null = null
  private meant: number[] | null = null

  private constructor(readonly mesh: BodyMesh) {
    this.faces = faceGeometry(mesh)
  }

  hold(): this {
    this.users++
    return this
  }

  /** Nobody shows it any more: the graphics' memory is given back. Trees stay with the mesh. */
  release(): void {
    if (--this.users > 0) return
    this.faces.dispose()
    this.thin?.dispose()
    this.fat?.dispose()
    this.thin = this.fat = null
  }

  /** The segments of the edges drawn: not the seam a round face closes itself with, nor those
   * between the facets of a mesh that runs on. */
  borders(): Float32Array {
    const { edges, faces } = this.mesh.topology
    return (this.drawn ??= edgePairs(
      this.mesh,
      [...edges.entries()].flatMap(([i, e]) => {
        const inside = e.faces.length > 1 && runsOn(faces[e.faces[0]], faces[e.faces[1]])
        return e.seam || inside ? [] : [i]
      }),
    ))
  }

  thinBorders(): BufferGeometry {
    if (this.thin) return this.thin
    this.thin = new BufferGeometry()
    this.thin.setAttribute('position', new BufferAttribute(this.borders(), 3))
    return this.thin
  }

  fatBorders(): LineSegmentsGeometry {
    return (this.fat ??= new LineSegmentsGeometry().setPositions(this.borders()))
  }

  /** The tree of the triangles, made when first asked for. */
  tree(): MeshBVH {
    const held = this.faces as BufferGeometry & { boundsTree?: MeshBVH }
    return (held.boundsTree ??= new MeshBVH(this.faces, { indirect: true }))
  }

  /** Corners anybody means: not where round edges begin and end by themselves. */
  corners(): number[] {
    if (this.meant) return this.meant
    const { edges, vertices } = this.mesh.topology
    const alone = new Set<number>()
    for (const e of edges) if (e.ends.length === 1) alone.add(e.ends[0])
    for (const e of edges) if (e.ends.length > 1 && !e.seam) for (const v of e.ends) alone.delete(v)
    return (this.meant = [...vertices.keys()].filter((v) => !alone.has(v)))
  }

  private segments(): { tree: LineSegmentsBVH; edges: Uint32Array } {
    if (this.lines) return this.lines
    const { edgeStarts: starts, topology } = this.mesh
    const pickable = Array.from({ length: Math.max(starts.length - 1, 0) }, (_, e) => e).filter((e) => !topology.edges[e]?.seam)
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(edgePairs(this.mesh, pickable), 3))
    const edges = new Uint32Array(pickable.flatMap((e) => Array<number>(Math.max(starts[e + 1] - starts[e] - 1, 0)).fill(e)))
    return (this.lines = { tree: new LineSegmentsBVH(geometry, { indirect: true }), edges })
  }

  /** The edge nearest to a line of sight, within `reach` of it and no deeper than `seen`; `cut`
   * says what a section took away. Coordinates of the mesh. */
  nearEdge(ray: Ray, reach: number, seen: number, cut: (point: Vector3) => boolean): NearEdge | null {
    if (!this.mesh.edgePoints.length) return null
    const { tree, edges } = this.segments()
    const { origin: o, direction: d } = ray
    // Across the line only two coordinates matter: distances in the plane at right angles to it.
    const u = new Vector3(1, 0, 0)
    if (Math.abs(d.x) > 0.9) u.set(0, 1, 0)
    u.cross(d).normalize()
    const w = new Vector3().crossVectors(d, u)
    const [a, b, middle] = [new Vector3(), new Vector3(), new Vector3()]
    let best: NearEdge | null = null
    let least = reach
    // Left out of what the library declares.
    const at = (n: number): number => (tree as unknown as { resolvePrimitiveIndex(n: number): number }).resolvePrimitiveIndex(n)
    tree.shapecast({
      intersectsBounds: (box: Box3) => {
        box.getCenter(middle).sub(o)
        const half = box.max.distanceTo(box.min) / 2
        return middle.dot(d) - half <= seen && Math.hypot(middle.dot(u), middle.dot(w)) <= least + half
      },
      intersectsLine: (line: { start: Vector3; end: Vector3 } | number, index: unknown) => {
        const segment = line as { start: Vector3; end: Vector3 }
        a.copy(segment.start).sub(o)
        b.copy(segment.end).sub(o)
        const [x1, y1] = [a.dot(u), a.dot(w)]
        const [dx, dy] = [b.dot(u) - x1, b.dot(w) - y1]
        const length = dx * dx + dy * dy
        const t = length > 0 ? Math.min(1, Math.max(0, -(x1 * dx + y1 * dy) / length)) : 0
        const away = Math.hypot(x1 + t * dx, y1 + t * dy)
        if (away >= least) return false
        const point = new Vector3().lerpVectors(segment.start, segment.end, t)
        const depth = point.clone().sub(o).dot(d)
        if (depth > seen || cut(point)) return false
        least = away
        best = { edge: edges[at(index as number)], point, away, depth }
        return false
      },
    } as unknown as Parameters<LineSegmentsBVH['shapecast']>[0])
    return best
  }
}
