// The camera: parallel projection, turning about the model with Z up, zoom at the pointer.
import { Box3, OrthographicCamera, Quaternion, Vector3 } from 'three'

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

/** Counts the moves of all cameras, so that linked ones know who moved last. */
let moves = 0

export class Camera {
  readonly three = new OrthographicCamera(-1, 1, 1, -1, -1e5, 1e5)
  readonly target = new Vector3()
  /** When it moved last; a copy keeps the moment of what it copied. */
  moved = 0
  /** World units across the height of the pane. */
  height = 200
  private width = 1
  private tall = 1
  private from = VIEWS.iso[0].clone()
  private up = VIEWS.iso[1].clone()
  private flight = 0
  /** Whether it is on its way to a named view. */
  flying = false

  constructor(private readonly changed: () => void) {
    this.look(VIEWS.iso[0], VIEWS.iso[1], false)
  }

  resize(width: number, height: number): void {
    this.width = Math.max(width, 1)
    this.tall = Math.max(height, 1)
    const when = this.moved
    this.apply()
    this.moved = when
  }

  /** World units per CSS pixel. */
  get unit(): number {
    return this.height / this.tall
  }

  private apply(): void {
    this.moved = ++moves
    const h = this.height / 2
    const w = (h * this.width) / this.tall
    const c = this.three
    c.left = -w
    c.right = w
    c.top = h
    c.bottom = -h
    const reach = 5e4
    c.near = -reach
    c.far = reach
    c.position.copy(this.target).addScaledVector(this.from, 1000)
    c.up.copy(this.up)
    c.lookAt(this.target)
    c.updateProjectionMatrix()
    c.updateMatrixWorld()
    this.changed()
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
    this.look(...VIEWS[name], fly)
  }

  /** Where the camera stands, to come back to. */
  save(): () => void {
    const [from, up, target, height] = [this.from.clone(), this.up.clone(), this.target.clone(), this.height]
    return () => this.look(from, up, true, target, height)
  }

  /** Stand where another camera stands. */
  copy(other: Camera): void {
    cancelAnimationFrame(this.flight)
    this.flying = false
    this.from.copy(other.from)
    this.up.copy(other.up)
    this.target.copy(other.target)
    this.height = other.height
    this.apply()
    this.moved = other.moved
  }

  /** Look straight at a plane from its front. */
  face(normal: Vector3, up: Vector3, centre: Vector3, height: number, fly = true): void {
    this.look(normal, up, fly, centre, height)
  }

  fit(box: Box3, fly = true): void {
    if (box.isEmpty()) return
    const centre = box.getCenter(new Vector3())
    const right = new Vector3().crossVectors(this.up, this.from).normalize()
    const above = new Vector3().crossVectors(this.from, right).normalize()
    let w = 0
    let h = 0
    for (let i = 0; i < 8; i++) {
      const corner = new Vector3(
        i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z,
      ).sub(centre)
      w = Math.max(w, Math.abs(corner.dot(right)))
      h = Math.max(h, Math.abs(corner.dot(above)))
    }
    const height = Math.max(h * 2, (w * 2 * this.tall) / this.width, 1e-3) * 1.28
    this.look(this.from, this.up, fly, centre, height)
  }

  turn(dx: number, dy: number): void {
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
    const [right, above] = this.axes()
    const d = p.clone().sub(this.target)
    return [this.width / 2 + d.dot(right) / this.unit, this.tall / 2 - d.dot(above) / this.unit]
  }
}

/** The upward direction of the screen, at right angles to the line of sight. */
function uprightTo(from: Vector3, up: Vector3): Vector3 {
  return up.clone().addScaledVector(from, -up.dot(from)).normalize()
}

function frameOf(from: Vector3, up: Vector3): Quaternion {
  const right = new Vector3().crossVectors(up, from).normalize()
  const above = new Vector3().crossVectors(from, right).normalize()
  const q = new Quaternion()
  // Rotation whose columns are right, above, from.
  const m = [right, above, from.clone().normalize()]
  const trace = m[0].x + m[1].y + m[2].z
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2
    q.set((m[1].z - m[2].y) / s, (m[2].x - m[0].z) / s, (m[0].y - m[1].x) / s, s / 4)
  } else if (m[0].x > m[1].y && m[0].x > m[2].z) {
    const s = Math.sqrt(1 + m[0].x - m[1].y - m[2].z) * 2
    q.set(s / 4, (m[1].x + m[0].y) / s, (m[2].x + m[0].z) / s, (m[1].z - m[2].y) / s)
  } else if (m[1].y > m[2].z) {
    const s = Math.sqrt(1 + m[1].y - m[0].x - m[2].z) * 2
    q.set((m[1].x + m[0].y) / s, s / 4, (m[2].y + m[1].z) / s, (m[2].x - m[0].z) / s)
  } else {
    const s = Math.sqrt(1 + m[2].z - m[0].x - m[1].y) * 2
    q.set((m[2].x + m[0].z) / s, (m[2].y + m[1].z) / s, s / 4, (m[0].y - m[1].x) / s)
  }
  return q.normalize()
}
