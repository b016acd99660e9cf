// Bodies of one mesh that look alike are drawn in one go: a screw that stands in forty places is one
// call to the graphics, not eighty.
import {
  type BufferGeometry,
  Color,
  Group,
  InstancedBufferAttribute,
  InstancedMesh,
  LineBasicMaterial,
  LineSegments,
  type Matrix4,
  type MeshLambertMaterial,
} from 'three'
import { colour } from '../ui/theme'
import { type Body, clipping, faceMaterial, type Look } from './body'
import { SHADED } from './shade'

/** Lines in many places. The renderer draws whatever says it is instanced; there is no such class. */
class InstancedLines extends LineSegments<BufferGeometry, LineBasicMaterial> {
  readonly isInstancedMesh = true
  readonly instanceMatrix: InstancedBufferAttribute
  readonly instanceColor = null
  readonly morphTexture = null

  constructor(
    geometry: BufferGeometry,
    material: LineBasicMaterial,
    readonly count: number,
  ) {
    super(geometry, material)
    this.instanceMatrix = new InstancedBufferAttribute(new Float32Array(16 * count), 16)
    this.frustumCulled = false
  }

  setMatrixAt(n: number, matrix: Matrix4): void {
    matrix.toArray(this.instanceMatrix.array, 16 * n)
  }
}

class Batch {
  readonly faces: InstancedMesh<BufferGeometry, MeshLambertMaterial>
  readonly lines: InstancedLines | null

  constructor(
    readonly bodies: Body[],
    look: Look,
  ) {
    const [{ spec, shape }] = bodies
    const count = bodies.length
    this.faces = new InstancedMesh(shape.faces, faceMaterial({ ...spec, colour: '#ffffff' }, look, false), count)
    this.faces.frustumCulled = false
    this.faces.layers.enable(SHADED)
    // Wide lines are instances already, of a segment; behind faces they are dashed along each edge.
    const thin = !look.fat && look.style !== 'hidden' && shape.borders().length > 0
    this.lines = thin
      ? new InstancedLines(shape.thinBorders(), new LineBasicMaterial({ color: colour('ink'), ...clipping(look) }), count)
      : null
    if (this.lines) this.lines.renderOrder = 2
    const tone = new Color()
    for (const [n, body] of bodies.entries()) {
      body.stands(this.lines ? 'all' : 'faces')
      this.faces.setColorAt(n, tone.set(body.spec.colour))
      this.move(n)
    }
  }

  move(n: number): void {
    const { matrix } = this.bodies[n].group
    this.faces.setMatrixAt(n, matrix)
    this.lines?.setMatrixAt(n, matrix)
    this.faces.instanceMatrix.needsUpdate = true
    if (this.lines) this.lines.instanceMatrix.needsUpdate = true
  }

  dispose(): void {
    for (const body of this.bodies) body.stands('none')
    this.faces.material.dispose()
    this.faces.dispose()
    this.lines?.material.dispose()
    // Of its places only: the lines themselves belong to the shape.
    ;(this.lines as unknown as InstancedMesh | null)?.dispatchEvent({ type: 'dispose' })
  }
}

/** All batches of a scene. */
export class Batches {
  readonly group = new Group()
  private batches: Batch[] = []
  private places = new Map<string, [batch: Batch, n: number]>()

  /** Draw these bodies, those that stand alone by themselves. */
  lay(bodies: Iterable<Body>, look: Look): void {
    this.clear()
    const alike = new Map<string, Body[]>()
    for (const body of bodies) if (body.plain(look)) alike.set(body.spec.mesh.key, [...(alike.get(body.spec.mesh.key) ?? []), body])
    for (const same of alike.values()) {
      if (same.length < 2) continue
      const batch = new Batch(same, look)
      this.batches.push(batch)
      this.group.add(batch.faces)
      if (batch.lines) this.group.add(batch.lines)
      for (const [n, body] of same.entries()) this.places.set(body.spec.id, [batch, n])
    }
  }

  /** A body stands elsewhere now. */
  move(id: string): void {
    const [batch, n] = this.places.get(id) ?? []
    batch?.move(n!)
  }

  clear(): void {
    for (const batch of this.batches) batch.dispose()
    this.batches = []
    this.places.clear()
    this.group.clear()
  }
}
