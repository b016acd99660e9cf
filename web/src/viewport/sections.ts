// Cutting a picture open: by one to three planes, or a box. World coordinates, mm.
import { Box3, Matrix4, Plane, Vector3 } from 'three'
import type { BodyMesh, Triple } from './mesh'

/** What lies beyond the plane on the side of its normal is taken away. */
export interface CutPlane {
  normal: Triple
  at: number
}
/** Planes take away all beyond any of them, or with `corner` only what lies beyond them all. */
export type Cut = { kind: 'planes'; planes: CutPlane[]; corner: boolean } | { kind: 'box'; low: Triple; high: Triple }

const unitOf = (axis: number, sign: number): Triple => [0, 1, 2].map((k) => (k === axis ? sign : 0)) as Triple

/** All planes of a cut; those of a box are low X, high X, low Y and so on. */
export function planesOf(cut: Cut): CutPlane[] {
  if (cut.kind === 'planes') return cut.planes
  return [0, 1, 2].flatMap((k) => [
    { normal: unitOf(k, -1), at: -cut.low[k] },
    { normal: unitOf(k, 1), at: cut.high[k] },
  ])
}

/** The cut with its plane `i` put elsewhere along its normal; the sides of a box do not pass. */
export function withPlaneAt(cut: Cut, i: number, at: number): Cut {
  if (cut.kind === 'planes') return { ...cut, planes: cut.planes.map((p, k) => (k === i ? { ...p, at } : p)) }
  const axis = Math.floor(i / 2)
  const low = [...cut.low] as Triple
  const high = [...cut.high] as Triple
  if (i % 2) high[axis] = Math.max(at, low[axis])
  else low[axis] = Math.min(-at, high[axis])
  return { kind: 'box', low, high }
}

/** The main axis a plane is square to, or null. */
export function axisOf(plane: CutPlane): 0 | 1 | 2 | null {
  const k = plane.normal.findIndex((v) => Math.abs(v) > 1 - 1e-9)
  return k < 0 ? null : (k as 0 | 1 | 2)
}

/** A plane through the middle of a box, square to an axis, with the near half taken away. */
export function planeThrough(box: Box3, axis: 0 | 1 | 2): CutPlane {
  const sign = axis === 1 ? -1 : 1
  const middle = box.isEmpty() ? 0 : (box.min.getComponent(axis) + box.max.getComponent(axis)) / 2
  return { normal: unitOf(axis, sign), at: sign * middle }
}

/** How far a plane can be put and still meet a box: least and most `at`. */
export function rangeOfPlane(box: Box3, plane: CutPlane): [number, number] {
  if (box.isEmpty()) return [-50, 50]
  let [low, high] = [Infinity, -Infinity]
  for (let i = 0; i < 8; i++) {
    const d =
      (i & 1 ? box.max.x : box.min.x) * plane.normal[0] +
      (i & 2 ? box.max.y : box.min.y) * plane.normal[1] +
      (i & 4 ? box.max.z : box.min.z) * plane.normal[2]
    low = Math.min(low, d)
    high = Math.max(high, d)
  }
  return [low, high]
}

/** The plane as the graphics take it: what lies in front of it stays. */
export const asPlane = (p: CutPlane): Plane => new Plane(new Vector3(...p.normal).negate(), p.at)

/** Whether a place is cut away. */
export function cutAway(p: Vector3, planes: Plane[], corner: boolean): boolean {
  if (!planes.length) return false
  const beyond = (plane: Plane): boolean => plane.distanceToPoint(p) < 0
  return corner ? planes.every(beyond) : planes.some(beyond)
}

/** Pairs of points (world, mm) where a plane crosses the triangles of a body. */
export function slice(mesh: BodyMesh, matrix: Matrix4, plane: Plane): Float32Array {
  const { positions } = mesh
  const local = plane.clone().applyMatrix4(matrix.clone().invert())
  const { x: nx, y: ny, z: nz } = local.normal
  const c = local.constant
  const count = positions.length / 3
  const side = new Float32Array(count)
  for (let i = 0; i < count; i++) {
    const d = nx * positions[3 * i] + ny * positions[3 * i + 1] + nz * positions[3 * i + 2] + c
    // Corners on the plane count as in front of it, so that no crossing is drawn twice.
    side[i] = Math.abs(d) < 1e-7 ? 1e-7 : d
  }
  const t = mesh.triangles
  const out: number[] = []
  const p = new Vector3()
  const cross = (a: number, b: number): void => {
    const f = side[a] / (side[a] - side[b])
    p.set(
      positions[3 * a] + f * (positions[3 * b] - positions[3 * a]),
      positions[3 * a + 1] + f * (positions[3 * b + 1] - positions[3 * a + 1]),
      positions[3 * a + 2] + f * (positions[3 * b + 2] - positions[3 * a + 2]),
    ).applyMatrix4(matrix)
    out.push(p.x, p.y, p.z)
  }
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, d] = [t[i], t[i + 1], t[i + 2]]
    const [sa, sb, sd] = [side[a] > 0, side[b] > 0, side[d] > 0]
    if (sa === sb && sb === sd) continue
    if (sa !== sb) cross(a, b)
    if (sb !== sd) cross(b, d)
    if (sd !== sa) cross(d, a)
  }
  return new Float32Array(out)
}
