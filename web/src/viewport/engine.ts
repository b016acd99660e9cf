// The 3D view: scene, camera, picking. Draws only when something changed. Plain class, no Vue.
import {
  Box3,
  DirectionalLight,
  DoubleSide,
  Group,
  HemisphereLight,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  type Plane,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector3,
  WebGLRenderer,
  AlwaysStencilFunc,
  BackSide,
  FrontSide,
  DecrementWrapStencilOp,
  IncrementWrapStencilOp,
  NotEqualStencilFunc,
  ReplaceStencilOp,
  Color,
} from 'three'
import { colour } from '../ui/theme'
import { Body, type BodySpec, clipping, dispose, fatLines, type Hit, type Look, type Skin, type Style, thinLines } from './body'
import { Camera } from './camera'
import { Batches } from './instances'
import type { FaceMap } from './maps'
import type { PickKind } from './mesh'
import { paint } from './picture'
import { asPlane, type Cut, planesOf, slice } from './sections'
import { Shading } from './shade'

export interface Mark {
  body: string
  kind: PickKind
  index: number
}

/** `axis`: faces and edges, what a joint end can be. */
export type Wanted = 'any' | 'axis' | PickKind | 'none'

const REACH = 6 // pixels
/** A camera that has not moved for so long (ms) stands still. */
const STILL = 120

export class Engine {
  readonly scene = new Scene()
  readonly camera = new Camera(() => this.invalidate())
  readonly renderer: WebGLRenderer
  /** True where the graphics are computed by the processor: plain lines, no smoothing. */
  readonly software: boolean
  private bodies = new Map<string, Body>()
  private pickBodies: Map<string, Body> | null = null
  private readonly floor = new Group()
  private readonly extra = new Group()
  private readonly caps = new Group()
  private readonly batches = new Batches()
  private look: Look
  private queued = 0
  private readonly shading: Shading | null
  private shaded = true
  private rest = 0
  /** The move of the camera the shadows were worked out for; -1 when they have to be anew. */
  private shadows = -1
  frames = 0
  onframe: (() => void) | null = null

  constructor(readonly canvas: HTMLCanvasElement) {
    const params = new URLSearchParams(location.search)
    const probe = document.createElement('canvas').getContext('webgl2')
    const info = probe?.getExtension('WEBGL_debug_renderer_info')
    const name = info ? String(probe?.getParameter(info.UNMASKED_RENDERER_WEBGL)) : ''
    this.software = /swiftshader|llvmpipe|software/i.test(name)
    probe?.getExtension('WEBGL_lose_context')?.loseContext()
    const full = !this.software || params.get('quality') === 'full'
    this.renderer = new WebGLRenderer({ canvas, antialias: full, alpha: true, stencil: true, preserveDrawingBuffer: true })
    this.renderer.setPixelRatio(full ? Math.min(devicePixelRatio, 2) : 1)
    this.renderer.localClippingEnabled = true
    this.look = { style: 'shaded', fat: full, planes: [], corner: false, map: null, skins: null }
    const sky = new HemisphereLight(0xffffff, 0xc9c5b8, 2.3)
    sky.position.set(0, 0, 1)
    const key = new DirectionalLight(0xffffff, 1.7)
    key.position.set(-0.6, -1, 1.4)
    const fill = new DirectionalLight(0xffffff, 0.45)
    fill.position.set(1, 0.4, 0.2)
    this.scene.add(sky, key, fill, this.floor, this.extra, this.caps, this.batches.group)
    this.shading = Shading.on(this.renderer)
    if (this.shading) this.scene.add(this.shading.over)
  }

  invalidate(): void {
    if (this.queued) return
    this.queued = requestAnimationFrame(() => {
      this.queued = 0
      this.draw()
    })
  }

  draw(): void {
    this.frames++
    this.shade()
    this.renderer.setClearColor(colour('paper') || '#f5f3ec', 1)
    this.renderer.render(this.scene, this.camera.three)
    this.onframe?.()
  }

  /** Soft shadows, of plain shaded faces only. Where the processor draws, they come once the
   * camera stands still: frames stay smooth while it turns. */
  private shade(): void {
    if (!this.shading) return
    const wanted = this.shaded && this.look.style === 'shaded' && !this.look.map && !this.look.skins
    const tile = Boolean(this.camera.three.view?.enabled)
    const still = tile || !this.software || performance.now() - this.camera.since > STILL
    this.shading.over.visible = wanted && still
    window.clearTimeout(this.rest)
    if (wanted && !still) this.rest = window.setTimeout(() => this.invalidate(), STILL)
    // Marks and lines come and go without changing what the shadows are of.
    if (!wanted || !still || (!tile && this.shadows === this.camera.moved)) return
    this.shading.prepare(this.renderer, this.scene, this.camera.three, clipping(this.look), this.camera.tallness)
    this.shadows = tile ? -1 : this.camera.moved
  }

  setPerspective(on: boolean): void {
    this.camera.perspective = on
  }

  setShading(on: boolean): void {
    this.shaded = on
    this.invalidate()
  }

  resize(width: number, height: number): void {
    this.shadows = -1
    this.renderer.setSize(width, height, false)
    this.camera.resize(width, height)
  }

  setStyle(style: Style, map: FaceMap | null = null, skins: Map<string, Skin> | null = null): void {
    this.look = { ...this.look, style, map, skins }
    this.rebuild()
  }

  /** Cut the picture open; planes that only moved leave the bodies as they are. */
  setCut(cut: Cut | null): void {
    const planes = cut ? planesOf(cut).map(asPlane) : []
    const corner = cut?.kind === 'planes' && cut.corner && planes.length > 1
    if (planes.length === this.look.planes.length && corner === this.look.corner) {
      for (const [i, plane] of planes.entries()) this.look.planes[i].copy(plane)
      this.makeCaps()
      this.shadows = -1
    } else {
      this.look = { ...this.look, planes, corner }
      this.rebuild()
    }
    this.invalidate()
  }

  private rebuild(): void {
    const before = this.bodies
    this.batches.clear()
    // Made before the old ones go: what they share stays with the graphics.
    this.bodies = this.made(
      [...before.values()].map((b) => b.spec),
      true,
    )
    this.clear(before)
    this.batches.lay(this.bodies.values(), this.look)
    this.makeCaps()
    this.shadows = -1
    this.invalidate()
  }

  private made(specs: BodySpec[], shown: boolean): Map<string, Body> {
    const bodies = new Map<string, Body>()
    for (const spec of specs) {
      const body = new Body(spec, this.look)
      bodies.set(spec.id, body)
      if (shown) this.scene.add(body.group)
    }
    return bodies
  }

  private clear(bodies: Map<string, Body>): void {
    for (const body of bodies.values()) {
      this.scene.remove(body.group)
      body.dispose()
    }
  }

  /** What is shown. Unchanged bodies are kept. */
  setBodies(specs: BodySpec[]): void {
    const next = new Map<string, Body>()
    for (const spec of specs) {
      const old = this.bodies.get(spec.id)
      if (old && same(old.spec, spec)) {
        next.set(spec.id, old)
        this.bodies.delete(spec.id)
        continue
      }
      const body = new Body(spec, this.look)
      next.set(spec.id, body)
      this.scene.add(body.group)
    }
    this.batches.clear()
    this.clear(this.bodies)
    this.bodies = next
    this.batches.lay(next.values(), this.look)
    this.setFloor()
    this.makeCaps()
    this.shadows = -1
    this.invalidate()
  }

  /** Move bodies without making them again. */
  place(matrices: Map<string, number[]>): void {
    for (const [id, matrix] of matrices) {
      const body = this.bodies.get(id)
      if (!body) continue
      body.group.matrix.fromArray(matrix)
      body.group.updateMatrixWorld(true)
      body.inverse.copy(body.group.matrixWorld).invert()
      body.spec.matrix = matrix
      this.batches.move(id)
    }
    // Caps stand where their bodies are cut now, not where they were.
    if (this.look.planes.length) this.makeCaps()
    this.shadows = -1
    this.invalidate()
  }

  /** Pick on other bodies than those shown: the state before the step being edited. */
  setPickBodies(specs: BodySpec[] | null): void {
    if (this.pickBodies) this.clear(this.pickBodies)
    this.pickBodies = specs ? this.made(specs, false) : null
    if (this.pickBodies)
      for (const body of this.pickBodies.values()) {
        // Only its marks are seen.
        body.faces.visible = false
        for (const child of body.group.children) child.visible = false
        this.scene.add(body.group)
      }
    this.invalidate()
  }

  /** Equal bodies drawn in one go, or each by itself: the picture is the same. */
  setTogether(on: boolean): void {
    if (on) this.batches.lay(this.bodies.values(), this.look)
    else this.batches.clear()
    this.shadows = -1
  }

  get count(): number {
    return this.bodies.size
  }

  body(id: string): Body | undefined {
    return (this.pickBodies ?? this.bodies).get(id)
  }

  mark(state: 'hover' | 'pick' | 'error' | 'contact', marks: Mark[]): void {
    const target = this.pickBodies ?? this.bodies
    for (const [id, body] of target) {
      const own = marks.filter((m) => m.body === id)
      body.mark(
        state,
        {
          face: own.filter((m) => m.kind === 'face').map((m) => m.index),
          edge: own.filter((m) => m.kind === 'edge').map((m) => m.index),
          vertex: own.filter((m) => m.kind === 'vertex').map((m) => m.index),
        },
        this.look,
      )
    }
    this.invalidate()
  }

  pick(x: number, y: number, wanted: Wanted): Hit | null {
    if (wanted === 'none') return null
    const ray = this.camera.ray(x, y)
    const bodies = [...(this.pickBodies ?? this.bodies).values()].filter((b) => !b.spec.ghost)
    const faces = bodies.map((b) => b.hitFace(ray, this.look)).filter((h): h is Hit => h !== null)
    const nearest = faces.sort((a, b) => a.depth - b.depth)[0] ?? null
    if (wanted === 'face') return nearest
    const limit = nearest?.depth ?? Infinity
    const reach = REACH * this.camera.unitAt(limit)
    let best: Hit | null = null
    for (const body of bodies) {
      const hit = body.hitEdge(ray, reach, limit, this.look, wanted === 'any' || wanted === 'vertex')
      if (hit && (!best || hit.depth < best.depth)) best = hit
    }
    if (wanted === 'vertex') return best?.kind === 'vertex' ? best : null
    if (wanted === 'edge') return best?.kind === 'edge' ? best : null
    return best ?? nearest
  }

  /** Box of everything shown. */
  box(): Box3 {
    const box = new Box3()
    for (const body of this.bodies.values()) box.expandByObject(body.faces)
    return box
  }

  fit(fly = true): void {
    const places = this.places()
    this.camera.fit(places.length ? places : new Box3(new Vector3(-60, -60, -20), new Vector3(60, 60, 40)), fly)
  }

  /** Places all over the bodies, of large and of many ones every so many: what fills the pane is not
   * their box. */
  private places(): Vector3[] {
    const found: Vector3[] = []
    const most = Math.min(3000, Math.max(60, 60_000 / Math.max(this.bodies.size, 1)))
    for (const body of this.bodies.values()) {
      body.faces.updateWorldMatrix(true, true)
      body.faces.traverse((thing) => {
        const positions = (thing as Mesh).geometry?.getAttribute('position')
        if (!positions) return
        const step = Math.max(1, Math.floor(positions.count / most))
        for (let i = 0; i < positions.count; i += step)
          found.push(new Vector3().fromBufferAttribute(positions, i).applyMatrix4(thing.matrixWorld))
      })
    }
    return found
  }

  private setFloor(): void {
    dispose(this.floor)
    this.floor.clear()
    const box = this.box()
    const empty = box.isEmpty()
    const size = empty ? 120 : box.getSize(new Vector3()).length()
    const step = 10 ** Math.max(0, Math.round(Math.log10(size / 12)))
    const z = empty ? 0 : Math.min(0, box.min.z)
    const c = empty ? new Vector3() : box.getCenter(new Vector3())
    const n = Math.min(60, Math.ceil((size * 1.1) / step))
    const x0 = Math.round(c.x / step) * step
    const y0 = Math.round(c.y / step) * step
    const minor: number[] = []
    const major: number[] = []
    for (let i = -n; i <= n; i++) {
      const x = x0 + i * step
      const y = y0 + i * step
      ;(Math.round(x / step) % 5 === 0 ? major : minor).push(x, y0 - n * step, z, x, y0 + n * step, z)
      ;(Math.round(y / step) % 5 === 0 ? major : minor).push(x0 - n * step, y, z, x0 + n * step, y, z)
    }
    for (const [pairs, tone] of [
      [minor, 'grid'],
      [major, 'grid-2'],
    ] as const) {
      const lines = thinLines(new Float32Array(pairs), colour(tone), { depthWrite: false })
      lines.renderOrder = -1
      this.floor.add(lines)
    }
  }

  setFloorVisible(on: boolean): void {
    this.floor.visible = on
    this.invalidate()
  }

  /** Colours of the theme changed. */
  retint(): void {
    this.rebuild()
    this.setFloor()
  }

  /** Other lines in the scene: sketches, axes, arrows. */
  setLines(groups: { pairs: Float32Array; tone: string; width?: number; front?: boolean }[]): void {
    dispose(this.extra)
    this.extra.clear()
    for (const g of groups) {
      if (!g.pairs.length) continue
      const lines = this.look.fat ? fatLines(g.pairs, colour(g.tone), g.width ?? 1.6) : thinLines(g.pairs, colour(g.tone))
      lines.renderOrder = 6
      if (g.front) for (const m of [lines.material].flat()) m.depthTest = false
      this.extra.add(lines)
    }
    this.invalidate()
  }

  /** Where planes cut bodies: a hatched face with its outline. */
  private makeCaps(): void {
    // The counting passes share the bodies' own buffers, which stay.
    this.caps.traverse((thing) => {
      const mesh = thing as Mesh
      if (!mesh.userData.shared) mesh.geometry?.dispose()
      for (const m of [mesh.material].flat()) m?.dispose()
    })
    this.caps.clear()
    const { planes, corner } = this.look
    if (!planes.length) return
    const box = this.box()
    const size = box.getSize(new Vector3()).length() * 2 + 10
    const centre = box.getCenter(new Vector3())
    let order = 10
    for (const body of this.bodies.values()) {
      if (body.spec.ghost) continue
      for (const [i, plane] of planes.entries()) {
        // On a corner the cut shows only where the other planes take away too.
        const others = planes.filter((_, k) => k !== i).map((p) => (corner ? p.clone().negate() : p))
        // Only what has an inside is filled where it is cut.
        if (!body.spec.form || body.spec.form === 'solid') {
          for (const [side, op] of [
            [BackSide, IncrementWrapStencilOp],
            [FrontSide, DecrementWrapStencilOp],
          ] as const) {
            const count = new Mesh(
              body.faces.geometry,
              new MeshBasicMaterial({
                colorWrite: false,
                depthWrite: false,
                depthTest: false,
                side,
                stencilWrite: true,
                stencilFunc: AlwaysStencilFunc,
                stencilFail: op,
                stencilZFail: op,
                stencilZPass: op,
                clippingPlanes: [plane],
              }),
            )
            count.userData.shared = true
            count.matrixAutoUpdate = false
            count.matrix.copy(body.group.matrix)
            count.renderOrder = order
            this.caps.add(count)
          }
          const cap = new Mesh(new PlaneGeometry(size, size), hatch(body.spec.colour, order, others))
          cap.position.copy(plane.projectPoint(centre, new Vector3()))
          cap.lookAt(cap.position.clone().sub(plane.normal))
          cap.renderOrder = order + 1
          cap.onAfterRender = (renderer) => renderer.clearStencil()
          this.caps.add(cap)
        }
        const outline = slice(body.spec.mesh, body.group.matrixWorld, plane)
        if (outline.length) {
          const clip = { clippingPlanes: others, polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1 }
          const lines = this.look.fat ? fatLines(outline, colour('ink'), 2, clip) : thinLines(outline, colour('ink'), clip)
          lines.renderOrder = order + 2
          this.caps.add(lines)
        }
        order += 3
      }
    }
  }

  /** The picture as a PNG of a size in pixels, drawn anew. Raises RangeError beyond what a file
   * can sensibly hold. */
  picture(width: number, height: number): Promise<Blob> {
    return paint(this, width, height)
  }

  matrixOf(id: string): Matrix4 {
    return this.bodies.get(id)?.group.matrixWorld ?? new Matrix4()
  }

  dispose(): void {
    cancelAnimationFrame(this.queued)
    this.batches.clear()
    this.clear(this.bodies)
    if (this.pickBodies) this.clear(this.pickBodies)
    dispose(this.floor)
    dispose(this.extra)
    dispose(this.caps)
    window.clearTimeout(this.rest)
    this.shading?.dispose()
    this.renderer.dispose()
    this.renderer.forceContextLoss()
  }
}

function same(a: BodySpec, b: BodySpec): boolean {
  return (
    a.mesh === b.mesh &&
    a.colour === b.colour &&
    a.ghost === b.ghost &&
    a.opacity === b.opacity &&
    JSON.stringify(a.paints) === JSON.stringify(b.paints) &&
    a.tint === b.tint &&
    JSON.stringify(a.matrix) === JSON.stringify(b.matrix)
  )
}

/** The cut face: the body's colour, lightly hatched; neighbours lean the other way. */
function hatch(css: string, order: number, others: Plane[]): ShaderMaterial {
  const lean = order % 2 ? 1 : -1
  return new ShaderMaterial({
    side: DoubleSide,
    clipping: true,
    clippingPlanes: others,
    uniforms: { base: { value: new Color(css) }, ink: { value: new Color(colour('ink-2')) } },
    vertexShader: `#include <clipping_planes_pars_vertex>
    void main() {
      vec4 mvPosition = modelViewMatrix * vec4(position, 1.0);
      gl_Position = projectionMatrix * mvPosition;
      #include <clipping_planes_vertex>
    }`,
    fragmentShader: `#include <clipping_planes_pars_fragment>
    uniform vec3 base; uniform vec3 ink; void main() {
      #include <clipping_planes_fragment>
      float s = mod(gl_FragCoord.x + ${lean.toFixed(1)} * gl_FragCoord.y, 9.0);
      gl_FragColor = vec4(mix(base * 1.12, ink, s < 1.2 ? 0.75 : 0.0), 1.0);
      #include <colorspace_fragment>
    }`,
    stencilWrite: true,
    stencilRef: 0,
    stencilFunc: NotEqualStencilFunc,
    stencilFail: ReplaceStencilOp,
    stencilZFail: ReplaceStencilOp,
    stencilZPass: ReplaceStencilOp,
  })
}
