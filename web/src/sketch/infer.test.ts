import { describe, expect, it } from 'vitest'
import { infer, tangents } from './infer'
import { addCircle, addLine, empty } from './model'

const at = (x: number, y: number) => ({ at: [x, y] as [number, number] })

describe('inference', () => {
  const d = addLine(empty(), at(10, 10), at(50, 10), '', false).drawing
  it('prefers points, then middles, then curves', () => {
    expect(infer(d, [10.5, 10.3], 2, null).snap).toEqual({ kind: 'point', id: 'p1' })
    expect(infer(d, [30.4, 9.6], 2, null).snap).toEqual({ kind: 'midpoint', id: 'l1' })
    expect(infer(d, [20, 11], 2, null)).toMatchObject({ at: [20, 10], snap: { kind: 'curve', id: 'l1' } })
    expect(infer(d, [0.4, 0.2], 2, null).snap?.id).toBe('origin')
  })
  it('makes nearly level lines level and leaves slanted ones alone', () => {
    expect(infer(d, [80, 30.4], 2, at(20, 30))).toMatchObject({ at: [80, 30], level: 'horizontal' })
    expect(infer(d, [60, 60], 2, at(20, 30)).level).toBeUndefined()
  })
  it('finds where a line touches a circle', () => {
    const c = addCircle(empty(), at(0, 20), at(5, 20), '', false)
    const [t] = tangents([20, 20], [0, 20], 5)
    expect(Math.hypot(t[0], t[1] - 20)).toBeCloseTo(5)
    expect(infer(c, [t[0] + 0.2, t[1]], 2, at(20, 20)).snap).toEqual({ kind: 'tangent', id: 'c1' })
    expect(tangents([1, 20], [0, 20], 5)).toEqual([])
  })
})
