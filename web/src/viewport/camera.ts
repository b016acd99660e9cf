// The camera: parallel or perspective, turning about the model with Z up, zoom at the pointer.
import { Box3, Matrix4, OrthographicCamera, PerspectiveCamera, Quaternion, Ray, Vector3 } from 'three'

export type ViewName = 'front' | 'back' | 'left' | 'right' | 'top' | 'under' | 'iso'

/** Where one looks from, and what is up, for each named view. */
const VIEWS: Record<ViewName, [Vector3, Vector3]> = {
  front: [new Vector3(0, -1, 0), new Vector3(0, 0, 1)],
  back: [new Vector3(0, 1, 0), new Vector3(0, 0, 1)],
  left: [new Vector3(-1, 0, 0), new Vector3(0, 0, 1)],
  right: [new Vector3(1, 0, 0), new Vector3(0, 0, 1)],
  top: [new Vector3(0, 0, 1), new Vector3(0, 1, 0)],
  under: [new Vector3(0, 0, -1), new Vector3(0, 1, 0)],
  iso: [new Vector3(0.58, -1, 0.66).normalize(), new Vector3(0, 0, 1)],
}

/** How much a perspective view takes in from top to bottom (degrees): about what a screen fills. */
const ANGLE = 26
const SLOPE = Math.tan((ANGLE * Math.PI) / 360)
/** Where a perspective view begins to draw, as a share of the way to what it looks at. */
const NEAR = 0.02
/** Room a fitted box leaves around it. */
const MARGIN = 1.1
/** A rest longer than this (ms) makes the place one that can be gone back to. */
const REST = 700

/** Where a camera stands. */
export interface Stand {
  from: [number, number, number]
  up: [number, number, number]
  target: [number, number, number]
  height: number
  perspective: boolean
}

/** Counts the moves of all cameras, so that linked ones know who moved last. */
let moves = 0

function corners(box: Box3): Vector3[] {
  return Array.from(
    { length: 8 },
    (_, i) => new Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z),
  )
}

export class Camera {
  private readonly parallel = new OrthographicCamera(-1, 1, 1, -1, -1e5, 1e5)
  private readonly conical = new PerspectiveCamera(ANGLE, 1, 1, 1e5)
  private _perspective = false
  private readonly past: Stand[] = []
  private lastMove = 0
  readonly target = new Vector3()
  /** When it moved last; a copy keeps the moment of what it copied. */
  moved = 0
  /** The same by the clock (ms). */
  since = 0
  /** World units across the height of the pane. */
  height = 200
  private width = 1
  private tall = 1
  private from = VIEWS.iso[0].clone()
  private up = VIEWS.iso[1].clone()
  private flight = 0
  /** Whether it is on its way to a named view. */
  flying = false

  /** Height of the whole picture in pixels. */
  get tallness(): number {
    return this.tall
  }

  constructor(private readonly changed: () => void) {
    this.look(VIEWS.iso[0], VIEWS.iso[1], false)
  }

  resize(width: number, height: number): void {
    this.width = Math.max(width, 1)
    this.tall = Math.max(height, 1)
    const [when, since] = [this.moved, this.since]
    this.apply()
    this.moved = when
    this.since = since
  }

  /** World units per CSS pixel. */
  get unit(): number {
    return this.height / this.tall
  }

  get three(): OrthographicCamera | PerspectiveCamera {
    return this._perspective ? this.conical : this.parallel
  }

  get perspective(): boolean {
    return this._perspective
  }
  set perspective(on: boolean) {
    this._perspective = on
    this.apply()
  }

  /** How far the eye of a perspective view is from what it looks at. */
  private get distance(): number {
    return this.height / 2 / SLOPE
  }

  private apply(): void {
    this.moved = ++moves
    this.since = performance.now()
    const h = this.height / 2
    const c = this.three
    if (c instanceof OrthographicCamera) {
      const w = (h * this.width) / this.tall
      c.left = -w
      c.right = w
      c.top = h
      c.bottom = -h
      const reach = 5e4
      c.near = -reach
      c.far = reach
      c.position.copy(this.target).addScaledVector(this.from, 1000)
    } else {
      const away = this.distance
      c.aspect = this.width / this.tall
      c.near = away * NEAR
      c.far = away + 2e4
      c.position.copy(this.target).addScaledVector(this.from, away)
    }
    c.up.copy(this.up)
    c.lookAt(this.target)
    c.updateProjectionMatrix()
    c.updateMatrixWorld()
    this.changed()
  }

  /** Make the place the camera rests in one to go back to, before it moves on. */
  private leave(): void {
    const now = performance.now()
    if (now - this.lastMove > REST) {
      this.past.push(this.stand())
      if (this.past.length > 30) this.past.shift()
    }
    this.lastMove = now
  }

  stand(): Stand {
    const { from, up, target, height, perspective } = this
    return { from: from.toArray(), up: up.toArray(), target: target.toArray(), height, perspective }
  }

  /** Go where a camera stood. */
  go(stand: Stand, fly = true): void {
    this._perspective = stand.perspective
    this.look(new Vector3(...stand.from), new Vector3(...stand.up), fly, new Vector3(...stand.target), stand.height)
  }

  get hasPrevious(): boolean {
    return this.past.length > 0
  }

  /** Back to where it rested before. */
  previous(): void {
    const stand = this.past.pop()
    if (stand) this.go(stand)
  }

  private look(from: Vector3, up: Vector3, fly: boolean, target?: Vector3, height?: number): void {
    cancelAnimationFrame(this.flight)
    const start = { from: this.from.clone(), up: this.up.clone(), target: this.target.clone(), height: this.height }
    const end = { from: from.clone().normalize(), up: up.clone(), target: target ?? start.target, height: height ?? start.height }
    const place = (t: number): void => {
      const a = frameOf(start.from, start.up)
      const b = frameOf(end.from, end.up)
      const q = a.slerp(b, t)
      this.from.set(0, 0, 1).applyQuaternion(q)
      this.up.set(0, 1, 0).applyQuaternion(q)
      this.target.lerpVectors(start.target, end.target, t)
      this.height = start.height + (end.height - start.height) * t
      this.apply()
    }
    this.flying = false
    if (!fly || matchMedia('(prefers-reduced-motion: reduce)').matches) {
      place(1)
      return
    }
    this.flying = true
    const began = performance.now()
    const step = (now: number): void => {
      const t = Math.min(1, (now - began) / 220)
      place(t < 1 ? t * t * (3 - 2 * t) : 1)
      if (t < 1) this.flight = requestAnimationFrame(step)
      else this.flying = false
    }
    this.flight = requestAnimationFrame(step)
  }

  /** The named view it stands in, if any. */
  named(): ViewName | null {
    for (const name of Object.keys(VIEWS) as ViewName[])
      if (this.from.dot(VIEWS[name][0]) > 1 - 1e-6 && this.up.angleTo(uprightTo(...VIEWS[name])) < 1e-3) return name
    return null
  }

  view(name: ViewName, fly = true): void {
    if (fly) this.leave()
    this.look(...VIEWS[name], fly)
  }

  /** Stand where another camera stands. */
  copy(other: Camera): void {
    cancelAnimationFrame(this.flight)
    this.flying = false
    this.from.copy(other.from)
    this.up.copy(other.up)
    this.target.copy(other.target)
    this.height = other.height
    this._perspective = other._perspective
    this.apply()
    this.moved = other.moved
  }

  /** Look straight at a plane from its front. */
  face(normal: Vector3, up: Vector3, centre: Vector3, height: number, fly = true): void {
    if (fly) this.leave()
    this.look(normal, up, fly, centre, height)
  }

  /** Look straight at a face, its upper side up where it has one. */
  faceOn(normal: Vector3, centre: Vector3, height = this.height): void {
    const up = Math.abs(normal.z) > 1 - 1e-6 ? new Vector3(0, 1, 0) : new Vector3(0, 0, 1)
    this.face(normal, up, centre, height)
  }

  /** Brings a box, or just these places, into the pane as large as they go. */
  fit(what: Box3 | Vector3[], fly = true): void {
    const box = what instanceof Box3 ? what : new Box3().setFromPoints(what)
    if (box.isEmpty()) return
    if (fly) this.leave()
    const places = what instanceof Box3 ? corners(what) : what
    const [right, above, towards] = this.axes()
    const centre = box.getCenter(new Vector3())
    // The middle of what is seen is not the middle of the box.
    for (const way of [right, above]) {
      let least = Infinity
      let most = -Infinity
      for (const p of places) {
        const d = way.dot(p) - way.dot(centre)
        least = Math.min(least, d)
        most = Math.max(most, d)
      }
      centre.addScaledVector(way, 0.5 * (least + most))
    }
    const aspect = this.width / this.tall
    const off = new Vector3()
    let height = 1e-3
    for (const p of places) {
      off.subVectors(p, centre)
      const reach = Math.max(Math.abs(off.dot(above)), Math.abs(off.dot(right)) / aspect)
      // In perspective what is nearer takes more of the pane: the eye steps back for it.
      const nearer = this._perspective ? Math.max(off.dot(towards), 0) * 2 * SLOPE : 0
      height = Math.max(height, reach * 2 * MARGIN + nearer, nearer * (1 + 2 * NEAR))
    }
    this.look(this.from, this.up, fly, centre, height)
  }

  turn(dx: number, dy: number): void {
    this.leave()
    cancelAnimationFrame(this.flight)
    this.flying = false
    const spin = new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), -dx * 0.008)
    this.from.applyQuaternion(spin)
    this.up.applyQuaternion(spin)
    const right = new Vector3().crossVectors(this.up, this.from).normalize()
    const tilt = new Quaternion().setFromAxisAngle(right, -dy * 0.008)
    const up = this.up.clone().applyQuaternion(tilt)
    if (up.z >= -0.02) {
      this.from.applyQuaternion(tilt)
      this.up.copy(up)
    }
    this.apply()
  }

  shift(dx: number, dy: number): void {
    this.leave()
    cancelAnimationFrame(this.flight)
    this.flying = false
    const right = new Vector3().crossVectors(this.up, this.from).normalize()
    const above = new Vector3().crossVectors(this.from, right).normalize()
    this.target.addScaledVector(right, -dx * this.unit).addScaledVector(above, dy * this.unit)
    this.apply()
  }

  /** Zoom by a factor, keeping the point under (x, y) where it is. */
  zoom(factor: number, x: number, y: number): void {
    const height = Math.min(Math.max(this.height * factor, 1e-3), 1e6)
    const grown = height / this.height
    const dx = x - this.width / 2
    const dy = y - this.tall / 2
    this.shift(dx * (grown - 1), dy * (grown - 1))
    this.height = height
    this.apply()
  }

  /** Directions of the screen in the world: right, up, towards the eye. */
  axes(): [Vector3, Vector3, Vector3] {
    const right = new Vector3().crossVectors(this.up, this.from).normalize()
    return [right, new Vector3().crossVectors(this.from, right).normalize(), this.from.clone()]
  }

  /** CSS pixels of a world point. */
  project(p: Vector3): [number, number] {
    const [right, above, towards] = this.axes()
    const d = p.clone().sub(this.target)
    const away = this.distance
    const near = this._perspective ? away / Math.max(away - d.dot(towards), 1e-6) : 1
    return [this.width / 2 + (d.dot(right) * near) / this.unit, this.tall / 2 - (d.dot(above) * near) / this.unit]
  }

  /** The ray under a point of the pane (CSS pixels). */
  ray(x: number, y: number): Ray {
    const [right, above, towards] = this.axes()
    const through = this.target
      .clone()
      .addScaledVector(right, (x - this.width / 2) * this.unit)
      .addScaledVector(above, (this.tall / 2 - y) * this.unit)
    if (!this._perspective) return new Ray(through.addScaledVector(towards, 2e4), towards.negate())
    const eye = this.target.clone().addScaledVector(towards, this.distance)
    return new Ray(eye, through.sub(eye).normalize())
  }

  /** World units per CSS pixel at a depth along a ray. */
  unitAt(depth: number): number {
    return this._perspective && Number.isFinite(depth) ? (this.unit * depth) / this.distance : this.unit
  }
}

/** The upward direction of the screen, at right angles to the line of sight. */
function uprightTo(from: Vector3, up: Vector3): Vector3 {
  return up.clone().addScaledVector(from, -up.dot(from)).normalize()
}

/** The turn whose axes are the right, the upward direction and the way to the eye. */
function frameOf(from: Vector3, up: Vector3): Quaternion {
  const right = new Vector3().crossVectors(up, from).normalize()
  const above = new Vector3().crossVectors(from, right).normalize()
  return new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(right, above, from.clone().normalize()))
}
