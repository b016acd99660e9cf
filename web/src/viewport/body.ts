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
  type Object3D,
  type Plane,
  type Ray,
  Raycaster,
  Vector3,
} from 'three'
import { LineMaterial } from 'three/addons/lines/LineMaterial.js'
import { LineSegments2 } from 'three/addons/lines/LineSegments2.js'
import { LineSegmentsGeometry } from 'three/addons/lines/LineSegmentsGeometry.js'
import { acceleratedRaycast, type MeshBVH } from 'three-mesh-bvh'
import { colour } from '../ui/theme'
import { type FieldKind, type FieldMap } from './fields'
import { type FaceMap, mapColours, type MapKind } from './maps'
import { type BodyMesh, type PickKind, rangeOf } from './mesh'
import { cutAway } from './sections'
import { SHADED } from './shade'
import { edgePairs, faceGeometry, Shape } from './shape'
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
  /** What it is made of: a solid, without; `surface` and the like have nothing to cut open. */
  form?: string
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

/** Lines a few pixels wide. */
export function fatLines(pairs: Float32Array, css: string, width: number, more: object = {}): LineSegments2 {
  return new LineSegments2(new LineSegmentsGeometry().setPositions(pairs), fatMaterial(css, width, more))
}

const fatMaterial = (css: string, width: number, more: object): LineMaterial =>
  new LineMaterial({ color: new Color(css).getHex(), linewidth: width, ...more })

export function thinLines(pairs: Float32Array, css: string, more: object = {}): LineSegments {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(pairs, 3))
  return new LineSegments(geometry, new LineBasicMaterial({ color: css, ...more }))
}

export class Body {
  readonly group = new Group()
  readonly faces: Mesh
  readonly shape: Shape
  /** A geometry of its own where its vertices have colours; the shape's, without. */
  private readonly coloured: BufferGeometry | null
  private readonly lines: Object3D[] = []
  private readonly skinned: boolean
  private readonly marks = new Map<string, Group>()
  readonly inverse = new Matrix4()

  constructor(
    readonly spec: BodySpec,
    look: Look,
  ) {
    const { mesh } = spec
    this.shape = Shape.of(mesh).hold()
    const tint = spec.tint ?? (look.map && !spec.ghost ? mapColours(mesh, look.map) : painted(spec))
    this.coloured = tint ? faceGeometry(mesh) : null
    if (tint) this.coloured!.setAttribute('color', new BufferAttribute(tint, 3))
    this.faces = new Mesh(this.coloured ?? this.shape.faces, faceMaterial(spec, look, tint !== null))
    this.faces.renderOrder = 0
    if (!spec.ghost && !spec.tint && (spec.opacity ?? 1) >= 1) this.faces.layers.enable(SHADED)
    this.group.add(this.faces)
    const skin = spec.ghost ? undefined : look.skins?.get(spec.id)
    this.skinned = skin !== undefined
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
    if (!this.shape.borders().length) return
    const ink = this.spec.ghost ? colour('ink-3') : colour('ink')
    const fade = this.spec.ghost ? { transparent: true, opacity: 0.35 } : {}
    const more = { ...fade, ...clipping(look) }
    const lines = look.fat
      ? new LineSegments2(this.shape.fatBorders(), fatMaterial(ink, 1.4, more))
      : new LineSegments(this.shape.thinBorders(), new LineBasicMaterial({ color: ink, ...more }))
    lines.renderOrder = 2
    this.lines.push(lines)
    this.group.add(lines)
    if (look.style === 'hidden') {
      // Behind faces, dashed; drawn before the visible edges so that it does not speckle them.
      const dashed = fatLines(this.shape.borders(), colour('ink-3'), 1, {
        dashed: true,
        dashSize: 1.6,
        gapSize: 1.2,
        depthFunc: 6 /* GreaterDepth */,
        depthWrite: false,
        ...clipping(look),
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

  /** Whether it may be drawn together with others of its mesh: nothing but its place and its colour
   * is its own. */
  plain(look: Look): boolean {
    const own = this.spec.ghost || this.spec.lifted || this.coloured || this.skinned || (this.spec.opacity ?? 1) < 1
    return !own && look.style !== 'seethrough'
  }

  /** What of it is drawn elsewhere, in one go with others. */
  stands(elsewhere: 'none' | 'faces' | 'all'): void {
    this.faces.visible = elsewhere === 'none' && !this.skinned
    for (const line of this.lines) line.visible = elsewhere !== 'all'
  }

  /** The nearest face on a ray, unless the section cut it away. */
  hitFace(ray: Ray, look: Look): Hit | null {
    // Trees are of the shape, whatever colours its vertices have here.
    ;(this.faces.geometry as BufferGeometry & { boundsTree?: MeshBVH }).boundsTree = this.shape.tree()
    this.faces.raycast = acceleratedRaycast
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
    const seen = limit + 3 * reach
    const world = this.group.matrixWorld
    const cut = (p: Vector3): boolean => cutAway(p.clone().applyMatrix4(world), look.planes, look.corner)
    if (vertices) {
      let best: Hit | null = null
      let least = reach
      for (const i of this.shape.corners()) {
        const p = new Vector3(...this.spec.mesh.topology.vertices[i].at)
        const depth = p.clone().sub(local.origin).dot(local.direction)
        const away = Math.sqrt(local.distanceSqToPoint(p))
        if (away < least * 1.4 && depth <= seen && !cut(p)) {
          least = away
          best = { body: this.spec.id, kind: 'vertex', index: i, point: p.applyMatrix4(world), depth }
        }
      }
      if (best) return best
    }
    const near = this.shape.nearEdge(local, reach, seen, cut)
    return near && { body: this.spec.id, kind: 'edge', index: near.edge, point: near.point.applyMatrix4(world), depth: near.depth }
  }

  dispose(): void {
    // Buffers of the shape are others' too: it gives them back itself.
    for (const thing of [this.faces, ...this.lines] as Mesh[]) {
      this.group.remove(thing)
      for (const m of [thing.material].flat()) m.dispose()
    }
    dispose(this.group)
    this.coloured?.dispose()
    this.shape.release()
  }
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

export function faceMaterial(spec: BodySpec, look: Look, coloured: boolean): MeshLambertMaterial {
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
