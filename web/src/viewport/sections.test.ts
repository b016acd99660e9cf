import { Box3, Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { BodyMesh } from './mesh'
import { asPlane, cutAway, planesOf, planeThrough, slice, withPlaneAt, type Cut } from './sections'

/** A unit cube of twelve triangles. */
const cube = (): BodyMesh => {
  const positions = new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 0, 0, 1, 1, 0, 1, 1, 1, 1, 0, 1, 1])
  const triangles = new Uint32Array([
    0, 2, 1, 0, 3, 2, 4, 5, 6, 4, 6, 7, 0, 1, 5, 0, 5, 4, 1, 2, 6, 1, 6, 5, 2, 3, 7, 2, 7, 6, 3, 0, 4, 3, 4, 7,
  ])
  return { positions, triangles } as unknown as BodyMesh
}
const lengthOf = (pairs: Float32Array): number => {
  let sum = 0
  for (let i = 0; i < pairs.length; i += 6)
    sum += Math.hypot(pairs[i + 3] - pairs[i], pairs[i + 4] - pairs[i + 1], pairs[i + 5] - pairs[i + 2])
  return sum
}

describe('sections', () => {
  it('outlines a cube by its circumference, wherever it lies', () => {
    const moved = new Matrix4().makeTranslation(10, 0, 0)
    const square = slice(cube(), moved, asPlane({ normal: [1, 0, 0], at: 10.3 }))
    expect(lengthOf(square)).toBeCloseTo(4, 5)
    // Corner to corner through the middle: a regular hexagon with sides of half a diagonal.
    const s = 1 / Math.sqrt(3)
    expect(lengthOf(slice(cube(), new Matrix4(), asPlane({ normal: [s, s, s], at: 1.5 * s })))).toBeCloseTo(6 * Math.SQRT1_2, 4)
    expect(slice(cube(), moved, asPlane({ normal: [1, 0, 0], at: 5 }))).toHaveLength(0)
  })

  it('takes away beyond any plane, or only the corner beyond all', () => {
    const box = new Box3(new Vector3(0, 0, 0), new Vector3(1, 1, 1))
    const planes = [planeThrough(box, 0), planeThrough(box, 2)].map(asPlane)
    const [one, both] = [new Vector3(0.9, 0, 0.1), new Vector3(0.9, 0, 0.9)]
    expect([cutAway(one, planes, false), cutAway(one, planes, true)]).toEqual([true, false])
    expect([cutAway(both, planes, false), cutAway(both, planes, true)]).toEqual([true, true])
  })

  it('keeps the sides of a box in order', () => {
    let cut: Cut = { kind: 'box', low: [0, 0, 0], high: [1, 1, 1] }
    cut = withPlaneAt(cut, 3, -4)
    expect(cut).toEqual({ kind: 'box', low: [0, 0, 0], high: [1, 0, 1] })
    expect(planesOf(withPlaneAt(cut, 0, -0.25))[0]).toEqual({ normal: [-1, 0, 0], at: -0.25 })
  })
})
