import { describe, expect, it } from 'vitest'
import { chainOf, constraint, dimensionFor, empty, entities, type Entity, fragment, paste, pointAt, remove, standsOn } from './model'
import { comb, nearest, placesOf } from './paths'

const point = (id: string, x: number, y: number): Entity => ({ id, type: 'point', x, y, construction: false, source: null })
const line = (id: string, a: string, b: string): Entity => ({ id, type: 'line', a, b, construction: false, source: null })
const corner = {
  ...empty(),
  entities: [point('p1', 0, 0), point('p2', 10, 0), point('p3', 10, 8), line('l1', 'p1', 'p2'), line('l2', 'p2', 'p3')],
  constraints: [constraint('k1', 'horizontal', ['l1']), constraint('k2', 'perpendicular', ['l1', 'l2'])],
}

describe('taking out', () => {
  it('takes what stands on it and what held it, and points nobody needs', () => {
    const left = remove(corner, new Set(['l2']))
    expect(entities(left).map((e) => e.id)).toEqual(['p1', 'p2', 'l1'])
    expect(left.constraints.map((c) => c.id)).toEqual(['k1'])
    expect(entities(remove(corner, new Set(['p2'])))).toEqual([])
  })
})

describe('carrying over', () => {
  it('puts a piece in under new ids, with what holds within it', () => {
    const piece = fragment(corner, ['l1'])
    expect(entities(piece).map((e) => e.id)).toEqual(['p1', 'p2', 'l1'])
    const { drawing, added } = paste(corner, piece, [5, 5])
    expect(new Set(entities(drawing).map((e) => e.id)).size).toBe(8)
    const made = entities(drawing).find((e) => e.id === added[0])!
    expect(standsOn(made).map((p) => pointAt(drawing, p))).toEqual([
      [5, 5],
      [15, 5],
    ])
    expect(drawing.constraints.filter((c) => c.on.includes(made.id)).map((c) => c.type)).toEqual(['horizontal'])
  })
  it('follows every reference of a spline', () => {
    const spline: Entity = {
      id: 's1',
      type: 'spline',
      through: ['p1', 'p2', 'p3'],
      closed: false,
      inner_handles: [],
      start_handle: 'p1',
      end_handle: null,
      construction: false,
      source: null,
    }
    expect(standsOn(spline)).toEqual(['p1', 'p2', 'p3', 'p1'])
    const { drawing, added } = paste(corner, { ...corner, entities: [...corner.entities, spline], constraints: [] }, [1, 0])
    const made = entities(drawing).find((e) => added.includes(e.id) && e.type === 'spline')!
    expect(standsOn(made).some((p) => ['p1', 'p2', 'p3'].includes(p))).toBe(false)
  })
})

describe('looking', () => {
  it('knows the size one would mean and what hangs together', () => {
    expect(dimensionFor(corner, ['l1'])).toBe('distance')
    expect(dimensionFor(corner, ['l1', 'l2'])).toBe('angle')
    expect(chainOf(corner, 'l1').sort()).toEqual(['l1', 'l2'])
    expect(chainOf(corner, 'l2').sort()).toEqual(['l1', 'l2'])
  })
  it('finds the nearest place of a polyline and where it bends most', () => {
    expect(
      nearest(
        [
          [0, 0],
          [10, 0],
          [10, 10],
        ],
        [4, 3],
      ),
    ).toEqual({ at: [4, 0], gap: 3 })
    const round = Array.from({ length: 60 }, (_, i) => [5 * Math.cos(i / 20), 5 * Math.sin(i / 20)] as [number, number])
    expect(comb(round).least!.radius).toBeCloseTo(5, 6)
    expect(
      comb([
        [0, 0],
        [1, 0],
        [2, 0],
      ]).least,
    ).toBeNull()
  })
  it('draws arcs counter-clockwise from start to end', () => {
    const d = {
      ...empty(),
      entities: [
        point('p1', 0, 0),
        point('p2', 5, 0),
        point('p3', 0, 5),
        { id: 'a1', type: 'arc', centre: 'p1', start: 'p2', end: 'p3', construction: false, source: null } as Entity,
      ],
    }
    const [places] = placesOf(d, d.entities[3], new Map())
    expect(places[0]).toEqual([5, 0])
    expect(places.every((p) => p[0] >= -1e-9 && p[1] >= -1e-9)).toBe(true)
  })
})
