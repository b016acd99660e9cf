import { describe, expect, it } from 'vitest'
import { addArc3, addCircle, addLine, addRectangle, centreOf, constraints, dimensionFor, empty, entities, extent, remove } from './model'

const at = (x: number, y: number) => ({ at: [x, y] as [number, number] })

describe('drawing', () => {
  it('a rectangle is four level lines that share corners, with its typed sizes', () => {
    const d = addRectangle(empty(), { at: [0, 0], snap: { kind: 'point', id: 'origin' } }, at(30, 20), '60 mm', '', false, false)
    expect(entities(d).filter((e) => e.type === 'line')).toHaveLength(4)
    expect(entities(d).filter((e) => e.type === 'point')).toHaveLength(3)
    expect(constraints(d).map((c) => c.type)).toEqual(['horizontal', 'vertical', 'horizontal', 'vertical', 'distance'])
    expect(dimensionFor(d, ['l1', 'l3'])).toBe('distance')
    expect(dimensionFor(d, ['l1', 'l2'])).toBe('angle')
  })
  it('a chained line shares the point before it and keeps the hint it showed', () => {
    const first = addLine(empty(), at(0, 0), { ...at(10, 0), level: 'horizontal' }, '', false)
    const second = addLine(first.drawing, { at: [10, 0], snap: { kind: 'point', id: first.end } }, at(10, 8), '8 mm', false)
    expect(entities(second.drawing).filter((e) => e.type === 'point')).toHaveLength(3)
    expect(constraints(second.drawing).map((c) => c.type)).toEqual(['horizontal', 'distance'])
  })
  it('deleting a point takes its lines, their constraints and points nothing else uses', () => {
    const d = addRectangle(empty(), at(0, 0), at(30, 20), '60 mm', '40 mm', false, false)
    const left = remove(d, new Set(['l1']))
    expect(entities(left).filter((e) => e.type === 'line').map((e) => e.id)).toEqual(['l2', 'l3', 'l4'])
    expect(constraints(left).some((c) => c.on.includes('l1'))).toBe(false)
    expect(entities(remove(addCircle(empty(), at(0, 0), at(5, 0), '', false), new Set(['c1'])))).toHaveLength(0)
  })
  it('an arc through three points has its centre as far from each', () => {
    const c = centreOf([0, 0], [10, 0], [5, 5])!
    expect(c[0]).toBeCloseTo(5)
    expect(c[1]).toBeCloseTo(0)
    expect(centreOf([0, 0], [1, 1], [2, 2])).toBeNull()
    const arc = entities(addArc3(empty(), at(10, 0), at(0, 0), at(5, 5), '', false)).find((e) => e.type === 'arc')
    expect(arc).toMatchObject({ start: 'p2', end: 'p3' })
  })
  it('knows the extent of what is drawn, round curves included', () => {
    expect(extent(empty())).toBeNull()
    expect(extent(addCircle(empty(), at(10, 0), at(15, 0), '', false))).toEqual({ middle: [10, 0], size: 10 })
  })
})
