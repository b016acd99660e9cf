import { describe, expect, it } from 'vitest'
import { alongAxis, pulled } from './apart'

describe('taken apart by hand', () => {
  const steps = [
    { components: ['c1', 'c2'], by: [0, 0, 5] as [number, number, number] },
    { components: ['c3'], by: [9, 0, 0] as [number, number, number] },
  ]
  it('what is pulled comes off last, and again in its own step', () => {
    const once = pulled(steps, ['c2'], [0, 7, 0])
    expect(once.map((s) => [s.components, s.by])).toEqual([
      [['c1'], [0, 0, 5]],
      [['c3'], [9, 0, 0]],
      [['c2'], [0, 7, 0]],
    ])
    expect(pulled(once, ['c3'], [1, 0, 0])[1].by).toEqual([1, 0, 0])
    // No step is left without components.
    expect(pulled(steps, ['c2', 'c1', 'c3'], [1, 2, 3]).map((s) => s.components)).toEqual([['c2', 'c1', 'c3']])
  })
  it('goes along the axis that is nearest on the screen, however that is turned', () => {
    const seen: [number, number][] = [[2, -1], [1, 1.5], [0, -3]] // prettier-ignore
    expect(alongAxis([1, -30], seen)).toEqual([0, 0, expect.closeTo(10)])
    expect(alongAxis([-21, 10], seen)).toEqual([expect.closeTo(-10.4), 0, 0])
    // Looked at from above, Z is a point: it cannot be meant.
    expect(alongAxis([5, -1], [[1, 0], [0, -1], [0.01, 0]])).toEqual([5, 0, 0]) // prettier-ignore
  })
})
