// Colour maps that only need the directions of faces: draft and overhang. Angles in degrees.
import { Color } from 'three'
import type { BodyMesh } from './mesh'

export type MapKind = 'draft' | 'overhang'
export interface FaceMap {
  kind: MapKind
  /** Pull or print direction. */
  way: [number, number, number]
  threshold: number
}
export interface Band {
  tone: string
  words: string
}

/** What each colour means, from the lowest angle up. */
export function bands(map: FaceMap): Band[] {
  const t = map.threshold
  return map.kind === 'draft'
    ? [
        { tone: '#7a5aa6', words: `leans away, more than ${t}°` },
        { tone: '#e0b33c', words: `too little: within ${t}°` },
        { tone: '#4f9d78', words: `leans along, more than ${t}°` },
      ]
    : [
        { tone: '#b9c6c0', words: `prints: up to ${Math.round(0.8 * t)}° over` },
        { tone: '#e0b33c', words: `just: up to ${t}°` },
        { tone: '#b5483b', words: `overhangs: more than ${t}°` },
      ]
}

/** Angle of an outward normal: for draft how far the face leans along the pull, for overhang how
 * far it leans over from upright. */
export function angleOf(normal: readonly number[], map: FaceMap): number {
  const length = Math.hypot(normal[0], normal[1], normal[2]) || 1
  const along = (normal[0] * map.way[0] + normal[1] * map.way[1] + normal[2] * map.way[2]) / length
  const lean = (Math.asin(Math.max(-1, Math.min(1, along))) * 180) / Math.PI
  return map.kind === 'draft' ? lean : -lean
}

/** Which band an angle lies in; the normals of meshes are good to half a degree. */
export function bandOf(angle: number, map: FaceMap): number {
  const t = map.threshold
  if (map.kind === 'draft') return angle > t - 0.25 ? 2 : angle < -t + 0.25 ? 0 : 1
  return angle > t + 0.5 ? 2 : angle > 0.8 * t ? 1 : 0
}

/** Colours of vertices (linear, three a vertex). Flat faces that look straight along the pull
 * are no walls and stay pale in a draft map. */
export function mapColours(mesh: BodyMesh, map: FaceMap): Float32Array {
  const tones = bands(map).map((b) => new Color(b.tone))
  const pale = new Color('#dcdcd2')
  const out = new Float32Array(mesh.positions.length)
  const { faces } = mesh.topology
  for (let f = 0; f + 1 < mesh.faceStarts.length; f++)
    for (let i = 3 * mesh.faceStarts[f]; i < 3 * mesh.faceStarts[f + 1]; i++) {
      const v = mesh.triangles[i]
      const n = [mesh.normals[4 * v], mesh.normals[4 * v + 1], mesh.normals[4 * v + 2]]
      const angle = angleOf(n, map)
      const floor = map.kind === 'draft' && faces[f]?.kind === 'plane' && Math.abs(angle) > 89
      ;(floor ? pale : tones[bandOf(angle, map)]).toArray(out, 3 * v)
    }
  return out
}
