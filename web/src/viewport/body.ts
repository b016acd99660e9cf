// One body in the scene: faces, edges, what is hovered and selected, and finding what a ray hits.
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Group,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type Plane,
  type Ray,
  Raycaster,
  type Side,
  Vector3,
} from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { acceleratedRaycast, MeshBVH } from 'three-mesh-bvh'
import { colour } from '../ui/theme'
import { type FieldKind, type FieldMap } from './fields'
import { type FaceMap, mapColours, type MapKind } from './maps'
import { type BodyMesh, type FaceInfo, type PickKind, rangeOf } from './mesh'
import { cutAway } from './sections'
import { SHADED } from './shade'
import { stripes } from './stripes'

export interface BodySpec {
  id: string
  mesh: BodyMesh
  colour: string
  matrix?: number[]
  /** Drawn faint: context while something else is edited. */
  ghost?: boolean
  opacity?: number
  /** Drawn in front of faces it shares with others. */
  lifted?: boolean
  /** Faces with a colour of their own. */
  paints?: { face: number; colour: string }[]
  /** One value per mesh vertex, shown as colours (results). */
  tint?: Float32Array
  /** Moved mesh positions (a deflected shape). */
  moved?: Float32Array
}
export type Style = 'shaded' | 'seethrough' | 'hidden' | 'edges' | MapKind | FieldKind

/** A map of a body with its colours; without, its stripes are drawn. */
export interface Skin {
  field: FieldMap
  colours: Float32Array | null
  density: number
}

export interface Look {
  style: Style
  fat: boolean
  planes: Plane[]
  /** Only what lies beyond all planes is cut away. */
  corner: boolean
  map: FaceMap | null
  /** Maps by body. */
  skins: Map<string, Skin> | null
}

export const clipping = (look: Look): { clippingPlanes: Plane[]; clipIntersection: boolean } => ({
  clippingPlanes: look.planes,
  clipIntersection: look.corner,
})

export interface Hit {
  body: string
  kind: PickKind
  index: number
  point: Vector3
  depth: number
}

const edgePairs = (mesh: BodyMesh, edges: Iterable<number>): Float32Array => {
  const out: number[] = []
  const p = mesh.edgePoints
  for (const e of edges)
    for (let i = mesh.edgeStarts[e]; i + 1 < mesh.edgeStarts[e + 1]; i++)
      out.push(p[3 * i], p[3 * i + 1], p[3 * i + 2], p[3 * i + 3], p[3 * i + 4], p[3 * i + 5])
  return new Float32Array(out)
}

/** Facets of a mesh that bend less than this (cosine) show one surface. */
const BEND = Math.cos((25 * Math.PI) / 180)
function runsOn(a: FaceInfo, b: FaceInfo): boolean {
  if (!a.name.includes('/facet') || !b.name.includes('/facet') || !a.direction || !b.direction) return false
  return a.direction[0] * b.direction[0] + a.direction[1] * b.direction[1] + a.direction[2] * b.direction[2] > BEND
}

/** Lines a few pixels wide. */
export function fatLines(pairs: Float32Array, css: string, width: number, more: object = {}): LineSegments2 {
  const geometry = new LineSegmentsGeometry()
  geometry.setPositions(pairs)
  const material = new LineMaterial({ color: new Color(css).getHex(), linewidth: width, ...more })
  return new LineSegments2(geometry, material)
}

export function thinLines(pairs: Float32Array, css: string, more: object = {}): LineSegments {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(pairs, 3))
  return new LineSegments(geometry, new LineBasicMaterial({ color: css, ...more }))
}

export class Body {
  readonly group = new Group()
  readonly faces: Mesh
  private readonly geometry = new BufferGeometry()
  private readonly marks = new Map<string, Group>()
  private bvh: MeshBVH | null = null
  private spheres: Float32Array | null = null
  private begins: Set<number> | null = null
  readonly inverse = new Matrix4()

  constructor(
    readonly spec: BodySpec,
    look: Look,
  ) {
    const { mesh } = spec
    this.geometry.setAttribute('position', new BufferAttribute(spec.moved ?? mesh.positions, 3))
    this.geometry.setAttribute('normal', new BufferAttribute(normalsOf(mesh), 3, true))
    this.geometry.setIndex(new BufferAttribute(mesh.triangles, 1))
    const tint = spec.tint ?? (look.map && !spec.ghost ? mapColours(mesh, look.map) : painted(spec))
    if (tint) this.geometry.setAttribute('color', new BufferAttribute(tint, 3))
    this.faces = new Mesh(this.geometry, faceMaterial(spec, look, tint !== null))
    this.faces.renderOrder = 0
    if (!spec.ghost && !spec.tint && (spec.opacity ?? 1) >= 1) this.faces.layers.enable(SHADED)
    this.group.add(this.faces)
    const skin = spec.ghost ? undefined : look.skins?.get(spec.id)
    if (skin) this.addSkin(skin, look)
    this.addEdges(look)
    if (spec.matrix) this.group.matrix.fromArray(spec.matrix)
    this.group.matrixAutoUpdate = false
    this.group.updateMatrixWorld(true)
    this.inverse.copy(this.group.matrixWorld).invert()
  }

  /** A map stands in for the faces; these are still what is picked and cut. */
  private addSkin(skin: Skin, look: Look): void {
    this.faces.visible = false
    const geometry = new BufferGeometry()
    geometry.setAttribute('position', new BufferAttribute(skin.field.points, 3))
    geometry.setAttribute('normal', new BufferAttribute(skin.field.normals, 3))
    geometry.setIndex(new BufferAttribute(skin.field.triangles, 1))
    if (skin.colours) geometry.setAttribute('color', new BufferAttribute(skin.colours, 3))
    const offset = { side: DoubleSide, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1, ...clipping(look) }
    this.group.add(
      new Mesh(geometry, skin.colours ? new MeshLambertMaterial({ vertexColors: true, ...offset }) : stripes(skin.density, offset)),
    )
  }

  private addEdges(look: Look): void {
    const { mesh } = this.spec
    const pairs = edgePairs(mesh, this.borders())
    if (!pairs.length || this.spec.moved) return
    const ink = this.spec.ghost ? colour('ink-3') : colour('ink')
    const fade = this.spec.ghost ? { transparent: true, opacity: 0.35 } : {}
    const clip = clipping(look)
    const lines = look.fat ? fatLines(pairs, ink, 1.4, { ...fade, ...clip }) : thinLines(pairs, ink, { ...fade, ...clip })
    lines.renderOrder = 2
    this.group.add(lines)
    if (look.style === 'hidden') {
      // Behind faces, dashed; drawn before the visible edges so that it does not speckle them.
      const dashed = fatLines(pairs, colour('ink-3'), 1, {
        dashed: true,
        dashSize: 1.6,
        gapSize: 1.2,
        depthFunc: 6 /* GreaterDepth */,
        depthWrite: false,
        ...clip,
      })
      dashed.computeLineDistances()
      dashed.renderOrder = 1
      this.group.add(dashed)
    }
  }

  /** Show some faces, edges and vertices in a state; replaces what that state showed. */
  mark(state: 'hover' | 'pick' | 'error' | 'contact', kinds: Partial<Record<PickKind, number[]>>, look: Look): void {
    const old = this.marks.get(state)
    if (old) {
      this.group.remove(old)
      dispose(old)
    }
    const tone = { hover: colour('hover'), pick: colour('pick'), error: colour('bad'), contact: colour('bad') }[state]
    const group = new Group()
    const { mesh } = this.spec
    const faces = kinds.face ?? []
    if (faces.length) {
      // Own points: disposing a mark must not take the body's buffers with it.
      const points: number[] = []
      for (const f of faces)
        for (let i = mesh.faceStarts[f] * 3; i < mesh.faceStarts[f + 1] * 3; i++) {
          const v = 3 * mesh.triangles[i]
          points.push(mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2])
        }
      const geometry = new BufferGeometry()
      geometry.setAttribute('position', new BufferAttribute(new Float32Array(points), 3))
      const opacity = state === 'hover' ? 0.16 : state === 'pick' ? 0.3 : 0.4
      const tint = new Mesh(
        geometry,
        new MeshBasicMaterial({
          color: tone,
          transparent: true,
          opacity,
          depthWrite: false,
          side: DoubleSide,
          polygonOffset: true,
          polygonOffsetFactor: -1,
          polygonOffsetUnits: -1,
          ...clipping(look),
        }),
      )
      tint.renderOrder = 3
      group.add(tint)
    }
    const around = new Set<number>()
    for (const f of faces) for (const [i, e] of mesh.topology.edges.entries()) if (e.faces.includes(f)) around.add(i)
    // Picked edges show through, so that none is forgotten behind; borders of faces do not.
    for (const [edges, through] of [
      [around, false],
      [new Set(kinds.edge ?? []), true],
    ] as const) {
      if (!edges.size) continue
      const width = state === 'hover' ? 2 : 2.6
      const lines = fatLines(edgePairs(mesh, edges), tone, width, { ...clipping(look), depthTest: !through })
      lines.renderOrder = 4
      group.add(lines)
    }
    for (const v of kinds.vertex ?? []) {
      const [x, y, z] = mesh.topology.vertices[v].at
      const dot = fatLines(new Float32Array([x, y, z, x, y, z + 1e-4]), tone, 9, { depthTest: false })
      dot.renderOrder = 5
      group.add(dot)
    }
    this.marks.set(state, group)
    this.group.add(group)
  }

  private tree(): MeshBVH {
    if (!this.bvh) {
      this.bvh = new MeshBVH(this.geometry, { indirect: true })
      ;(this.geometry as unknown as { boundsTree: MeshBVH }).boundsTree = this.bvh
      this.faces.raycast = acceleratedRaycast
      ;(this.faces.material as { side: Side }).side = DoubleSide
    }
    return this.bvh
  }

  /** Edges between two faces: the seam a round face closes itself with is none anybody looks for,
   * nor are those between the facets of a mesh that runs on. */
  private borders(): number[] {
    const { edges, faces } = this.spec.mesh.topology
    return [...edges.entries()].filter(([, e]) => e.faces.length > 1 && !runsOn(faces[e.faces[0]], faces[e.faces[1]])).map(([i]) => i)
  }

  /** Where round edges begin and end by themselves: no corners anybody means. */
  private seams(): Set<number> {
    if (this.begins) return this.begins
    const found = new Set<number>()
    const edges = this.spec.mesh.topology.edges
    for (const e of edges) if (e.ends.length === 1) found.add(e.ends[0])
    for (const e of edges) if (e.ends.length > 1 && e.faces.length > 1) for (const v of e.ends) found.delete(v)
    return (this.begins = found)
  }

  /** Middle and radius of each edge: most edges are passed over by them alone. */
  private edgeSpheres(): Float32Array {
    if (this.spheres) return this.spheres
    const { edgeStarts, edgePoints: p } = this.spec.mesh
    const out = new Float32Array(Math.max(edgeStarts.length - 1, 0) * 4)
    for (let e = 0; e + 1 < edgeStarts.length; e++) {
      const [first, last] = [edgeStarts[e], edgeStarts[e + 1]]
      let x = 0,
        y = 0,
        z = 0
      for (let i = 3 * first; i < 3 * last; i += 3) {
        x += p[i]
        y += p[i + 1]
        z += p[i + 2]
      }
      const n = Math.max(last - first, 1)
      x /= n
      y /= n
      z /= n
      let r = 0
      for (let i = 3 * first; i < 3 * last; i += 3) r = Math.max(r, Math.hypot(p[i] - x, p[i + 1] - y, p[i + 2] - z))
      out.set([x, y, z, r], 4 * e)
    }
    return (this.spheres = out)
  }

  /** The nearest face on a ray, unless the section cut it away. */
  hitFace(ray: Ray, look: Look): Hit | null {
    this.tree()
    const caster = new Raycaster(ray.origin, ray.direction)
    ;(caster as unknown as { firstHitOnly: boolean }).firstHitOnly = look.planes.length === 0
    for (const found of caster.intersectObject(this.faces, false)) {
      if (cutAway(found.point, look.planes, look.corner)) continue
      const face = rangeOf(this.spec.mesh.faceStarts, found.faceIndex ?? 0)
      return { body: this.spec.id, kind: 'face', index: face, point: found.point, depth: found.distance }
    }
    return null
  }

  /** Edges (or end points) within `reach` world units of a ray, not hidden behind `limit`. */
  hitEdge(ray: Ray, reach: number, limit: number, look: Look, vertices: boolean): Hit | null {
    const local = ray.clone().applyMatrix4(this.inverse)
    const { mesh } = this.spec
    const seen = limit + 3 * reach
    let best: Hit | null = null
    let least = reach
    const o = local.origin
    const d = local.direction
    if (vertices) {
      for (const [i, v] of mesh.topology.vertices.entries()) {
        if (this.seams().has(i)) continue
        const p = new Vector3(...v.at)
        const depth = p.clone().sub(o).dot(d)
        const away = Math.sqrt(local.distanceSqToPoint(p))
        if (away < least * 1.4 && depth <= seen && !cutAway(p.clone().applyMatrix4(this.group.matrixWorld), look.planes, look.corner)) {
          least = away
          best = { body: this.spec.id, kind: 'vertex', index: i, point: p.applyMatrix4(this.group.matrixWorld), depth }
        }
      }
      if (best) return best
    }
    // Across the ray only two coordinates matter: distances in the plane at right angles to it.
    const u = new Vector3(1, 0, 0)
    if (Math.abs(d.x) > 0.9) u.set(0, 1, 0)
    u.cross(d).normalize()
    const w = new Vector3().crossVectors(d, u)
    const p = mesh.edgePoints
    const starts = mesh.edgeStarts
    const spheres = this.edgeSpheres()
    const { edges } = mesh.topology
    for (let e = 0; e + 1 < starts.length; e++) {
      if (edges[e]?.faces.length === 1) continue
      const s = 4 * e
      const sx = spheres[s] - o.x,
        sy = spheres[s + 1] - o.y,
        sz = spheres[s + 2] - o.z
      const over = least + spheres[s + 3]
      const across = sx * u.x + sy * u.y + sz * u.z
      const upward = sx * w.x + sy * w.y + sz * w.z
      if (across * across + upward * upward > over * over) continue
      for (let i = starts[e]; i + 1 < starts[e + 1]; i++) {
        const k = 3 * i
        const ax = p[k] - o.x,
          ay = p[k + 1] - o.y,
          az = p[k + 2] - o.z
        const bx = p[k + 3] - o.x,
          by = p[k + 4] - o.y,
          bz = p[k + 5] - o.z
        const x1 = ax * u.x + ay * u.y + az * u.z,
          y1 = ax * w.x + ay * w.y + az * w.z
        const x2 = bx * u.x + by * u.y + bz * u.z,
          y2 = bx * w.x + by * w.y + bz * w.z
        const dx = x2 - x1,
          dy = y2 - y1
        const length = dx * dx + dy * dy
        const t = length > 0 ? Math.min(1, Math.max(0, -(x1 * dx + y1 * dy) / length)) : 0
        const away = Math.hypot(x1 + t * dx, y1 + t * dy)
        if (away >= least) continue
        const za = ax * d.x + ay * d.y + az * d.z
        const zb = bx * d.x + by * d.y + bz * d.z
        const depth = za + t * (zb - za)
        if (depth > seen) continue
        const point = new Vector3(p[k] + t * (p[k + 3] - p[k]), p[k + 1] + t * (p[k + 4] - p[k + 1]), p[k + 2] + t * (p[k + 5] - p[k + 2]))
        if (cutAway(point.clone().applyMatrix4(this.group.matrixWorld), look.planes, look.corner)) continue
        least = away
        best = { body: this.spec.id, kind: 'edge', index: e, point: point.applyMatrix4(this.group.matrixWorld), depth }
      }
    }
    return best
  }

  dispose(): void {
    dispose(this.group)
    this.geometry.dispose()
  }
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

/** Colours of vertices where faces are painted: vertices are never shared between faces. */
function painted(spec: BodySpec): Float32Array | null {
  if (!spec.paints?.length || spec.ghost) return null
  const { mesh } = spec
  const out = new Float32Array(mesh.positions.length)
  const plain = new Color(spec.colour)
  for (let i = 0; i < out.length; i += 3) plain.toArray(out, i)
  for (const { face, colour: css } of spec.paints) {
    const tone = new Color(css)
    for (let i = mesh.faceStarts[face] * 3; i < mesh.faceStarts[face + 1] * 3; i++) tone.toArray(out, 3 * mesh.triangles[i])
  }
  return out
}

function faceMaterial(spec: BodySpec, look: Look, coloured: boolean): MeshLambertMaterial {
  const own = spec.opacity ?? 1
  const clear = look.style === 'seethrough' || spec.ghost || own < 1
  // Of faces that fall together the ghost's lies behind.
  const back = spec.lifted ? -1 : spec.ghost ? 12 : 1
  return new MeshLambertMaterial({
    color: coloured ? '#ffffff' : spec.colour,
    vertexColors: coloured,
    side: DoubleSide,
    transparent: clear,
    opacity: spec.ghost ? 0.14 : look.style === 'seethrough' ? Math.min(0.34, own) : own,
    depthWrite: !clear && look.style !== 'edges',
    colorWrite: look.style !== 'edges',
    polygonOffset: true,
    polygonOffsetFactor: back,
    polygonOffsetUnits: back,
    ...clipping(look),
  })
}

export function dispose(group: Group): void {
  group.traverse((thing) => {
    const mesh = thing as Mesh
    mesh.geometry?.dispose()
    const material = mesh.material
    for (const m of Array.isArray(material) ? material : material ? [material] : []) m.dispose()
  })
}
