import { describe, expect, it } from 'vitest'
import { infer, tangents } from './infer'
import { empty, type Entity } from './model'

const at = (x: number, y: number) => ({ at: [x, y] as [number, number] })

const point = (id: string, x: number, y: number): Entity => ({ id, type: 'point', x, y, construction: false, source: null })

describe('inference', () => {
  const d = {
    ...empty(),
    entities: [
      point('p1', 10, 10),
      point('p2', 50, 10),
      { id: 'l1', type: 'line', a: 'p1', b: 'p2', construction: false, source: null } as Entity,
    ],
  }
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
    const c = {
      ...empty(),
      entities: [point('p1', 0, 20), { id: 'c1', type: 'circle', centre: 'p1', radius: 5, construction: false, source: null } as Entity],
    }
    const [t] = tangents([20, 20], [0, 20], 5)
    expect(Math.hypot(t[0], t[1] - 20)).toBeCloseTo(5)
    expect(infer(c, [t[0] + 0.2, t[1]], 2, at(20, 20)).snap).toEqual({ kind: 'tangent', id: 'c1' })
    expect(tangents([1, 20], [0, 20], 5)).toEqual([])
  })
  it('catches corners and edges of the model, behind what is drawn already', () => {
    const edge = {
      run: [
        [0, 40],
        [60, 40],
      ] as [number, number][],
      pick: () => ({ body: 'b', kind: 'edge', name: [] }) as never,
    }
    expect(infer(d, [59, 41], 2, null, new Map(), [], [edge])).toMatchObject({ at: [60, 40], edge })
    expect(infer(d, [45, 40.7], 2, null, new Map(), [], [edge])).toMatchObject({ at: [45, 40], edge })
    expect(
      infer(
        d,
        [10.5, 10.3],
        2,
        null,
        new Map(),
        [],
        [
          {
            ...edge,
            run: [
              [10, 10],
              [10, 40],
            ],
          },
        ],
      ).edge,
    ).toBeUndefined()
    expect(infer(d, [31, 36], 2, null, new Map(), [], [edge]).edge).toBeUndefined()
  })
  it('snaps to free curves by how the server draws them', () => {
    const s = {
      ...empty(),
      entities: [
        point('p1', 0, 0),
        point('p2', 20, 0),
        {
          id: 's1',
          type: 'spline',
          through: ['p1', 'p2'],
          closed: false,
          start_handle: null,
          end_handle: null,
          inner_handles: [],
          construction: false,
          source: null,
        } as Entity,
      ],
    }
    const free = new Map([
      [
        's1',
        [
          [
            [0, 0],
            [10, 8],
            [20, 0],
          ] as [number, number][],
        ],
      ],
    ])
    expect(infer(s, [10, 9], 2, null, free)).toMatchObject({ at: [10, 8], snap: { kind: 'curve', id: 's1' } })
  })
})
