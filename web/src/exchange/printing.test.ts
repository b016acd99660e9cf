import { describe, expect, it } from 'vitest'
import { sidesOf } from './printing'

function stl(triangles: number[][]): ArrayBuffer {
  const buffer = new ArrayBuffer(84 + 50 * triangles.length)
  const view = new DataView(buffer)
  view.setUint32(80, triangles.length, true)
  triangles.forEach((t, i) => t.forEach((v, k) => view.setFloat32(84 + 50 * i + 12 + 4 * k, v, true)))
  return buffer
}

describe('triangles of a file', () => {
  it('are drawn by their three sides', () => {
    const sides = sidesOf(
      stl([
        [0, 0, 0, 3, 0, 0, 0, 4, 0],
        [1, 1, 1, 2, 1, 1, 1, 2, 1],
      ]),
    )!
    const lengths = Array.from({ length: 6 }, (_, i) => Math.hypot(...[0, 1, 2].map((c) => sides[6 * i + 3 + c] - sides[6 * i + c])))
    expect(lengths.map((l) => +l.toFixed(5))).toEqual([3, 5, 4, 1, 1.41421, 1])
    expect([...sides.slice(15, 18)]).toEqual([0, 0, 0])
  })
  it('are not drawn where they are too many', () => {
    const many = new ArrayBuffer(84)
    new DataView(many).setUint32(80, 150_001, true)
    expect(sidesOf(many)).toBeNull()
    expect(sidesOf(stl([]))).toHaveLength(0)
  })
})
