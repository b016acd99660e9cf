import { describe, expect, it } from 'vitest'
import type { Drawing } from '../api/client'
import { dice } from '../testing/server'
import { middle, shapeOf } from './dimensions'
import { constraint, empty, type Entity, extent, type Pair } from './model'

const point = (id: string, [x, y]: Pair): Entity => ({ id, type: 'point', x, y, construction: false, source: null })
const line = (id: string, a: string, b: string): Entity => ({ id, type: 'line', a, b, construction: false, source: null })
const circle = (id: string, centre: string, radius: number): Entity => ({
  id,
  type: 'circle',
  centre,
  radius,
  construction: false,
  source: null,
})
const drawn = (...entities: Entity[]): Drawing => ({ ...empty(), entities })
const far = (a: Pair, b: Pair): number => Math.hypot(a[0] - b[0], a[1] - b[1])
const cross = (a: Pair, b: Pair): number => a[0] * b[1] - a[1] * b[0]
const minus = (a: Pair, b: Pair): Pair => [a[0] - b[0], a[1] - b[1]]
const roll = dice(7)
const some = (size = 40): Pair => [size * roll(), size * roll()]
const rounds = Array.from({ length: 60 }, (_, k) => k)

describe('a distance between two points', () => {
  it.each(['distance', 'distance_x', 'distance_y'])('%s: its line is as long as it says, its feet stand square', (type) => {
    for (const k of rounds) {
      const [a, b] = [some(), some()]
      const d = drawn(point('p1', a), point('p2', b))
      const at = k % 2 ? some() : null
      const s = shapeOf(d, constraint('d1', type, ['p1', 'p2'], { at }), 5, k % 3)!
      const size = type === 'distance' ? far(a, b) : Math.abs(a[type === 'distance_x' ? 0 : 1] - b[type === 'distance_x' ? 0 : 1])
      const [one, two, main] = s.lines
      expect(far(main[0], main[1])).toBeCloseTo(size, 9)
      // Both helping lines run square to the line of the dimension, from the points.
      expect(far(one[0], a) + far(two[0], b)).toBeCloseTo(0, 9)
      const way = minus(main[1], main[0])
      for (const [p, q] of [one, two]) {
        const out = minus(q, p)
        expect(way[0] * out[0] + way[1] * out[1]).toBeCloseTo(0, 6)
      }
      // The arrows are its two ends and point away from each other; the label stands on the line.
      expect(far(s.arrows[0].at, main[0]) + far(s.arrows[1].at, main[1])).toBeCloseTo(0, 9)
      expect(far(s.arrows[0].way, [-s.arrows[1].way[0], -s.arrows[1].way[1]])).toBeCloseTo(0, 9)
      if (size > 1e-6) expect(cross(way, minus(s.label, main[0])) / size).toBeCloseTo(0, 6)
    }
  })

  it('turns and shifts with the drawing', () => {
    for (const k of rounds) {
      const [a, b, at] = [some(), some(), some()]
      const [t, shift] = [roll() * 3, some()]
      const go = ([x, y]: Pair): Pair => [shift[0] + x * Math.cos(t) - y * Math.sin(t), shift[1] + x * Math.sin(t) + y * Math.cos(t)]
      const c = constraint('d1', 'distance', ['p1', 'p2'])
      const here = shapeOf(drawn(point('p1', a), point('p2', b)), { ...c, at }, 5)!
      const there = shapeOf(drawn(point('p1', go(a)), point('p2', go(b))), { ...c, at: go(at) }, 5)!
      expect(far(go(here.label), there.label)).toBeLessThan(1e-9)
      expect(here.lines.length).toBe(there.lines.length)
      here.lines.slice(0, 3).forEach(([p, q], i) => {
        // The ends reach a little beyond, on the side the label is.
        expect(far(go(p), there.lines[i][0]) + (i === 2 ? far(go(q), there.lines[i][1]) : 0), `round ${k}`).toBeLessThan(1e-9)
      })
    }
  })

  it('stands outside, away from the middle of what is drawn', () => {
    const box = drawn(point('p1', [0, 0]), point('p2', [20, 0]), point('p3', [20, 10]), point('p4', [0, 10]))
    expect(middle(box)).toEqual([10, 5])
    expect(shapeOf(box, constraint('d1', 'distance', ['p1', 'p2']), 4)!.label).toEqual([10, -4])
    expect(shapeOf(box, constraint('d1', 'distance', ['p4', 'p3']), 4)!.label).toEqual([10, 14])
    expect(shapeOf(box, constraint('d1', 'distance', ['p2', 'p3']), 4)!.label).toEqual([24, 5])
    expect(middle(empty())).toEqual([0, 0])
  })
})

describe('a distance from a line', () => {
  it('is taken square to it, to a point or to another line', () => {
    for (const k of rounds) {
      const [a, b, p] = [some(), some(), some()]
      if (far(a, b) < 1) continue
      const d = drawn(point('p1', a), point('p2', b), line('l1', 'p1', 'p2'), point('p3', p))
      const s = shapeOf(d, constraint('d1', 'distance', k % 2 ? ['l1', 'p3'] : ['p3', 'l1']), 5)!
      const height = Math.abs(cross(minus(b, a), minus(p, a))) / far(a, b)
      expect(far(...s.lines[2])).toBeCloseTo(height, 6)
    }
    const two = drawn(
      ...[point('p1', [0, 0]), point('p2', [10, 0]), point('p3', [2, 6]), point('p4', [8, 6])],
      ...[line('l1', 'p1', 'p2'), line('l2', 'p3', 'p4')],
    )
    expect(far(...shapeOf(two, constraint('d1', 'distance', ['l1', 'l2']), 5)!.lines[2])).toBeCloseTo(6, 9)
    expect(far(...shapeOf(two, constraint('d1', 'distance', ['l1']), 5)!.lines[2])).toBeCloseTo(10, 9)
  })
})

describe('an angle', () => {
  it('is the arc about where the lines meet, as wide as the sense says', () => {
    for (const k of rounds) {
      const corner = some()
      const [t, w] = [roll() * Math.PI, (0.1 + 0.8 * Math.abs(roll())) * Math.PI]
      const out = (angle: number, r: number): Pair => [corner[0] + r * Math.cos(angle), corner[1] + r * Math.sin(angle)]
      const d = drawn(
        ...[point('p1', out(t, 2)), point('p2', out(t, 30)), point('p3', out(t + w, 1)), point('p4', out(t + w, 20))],
        ...[line('l1', 'p1', 'p2'), line('l2', 'p3', 'p4')],
      )
      const flip = k % 2 ? -1 : 1
      const s = shapeOf(d, constraint('d1', 'angle', ['l1', 'l2'], { sense: [1, 1, flip] }), 6)!
      const radius = s.lines.map(([p]) => far(p, corner))
      for (const r of radius) expect(r).toBeCloseTo(far(s.label, corner), 6)
      const chord = 2 * far(s.label, corner) * Math.sin((flip > 0 ? w : Math.PI - w) / 2)
      expect(far(s.lines[0][0], s.lines.at(-1)![1])).toBeCloseTo(chord, 6)
    }
  })
  it('between parallel lines stands somewhere, not nowhere', () => {
    const d = drawn(
      ...[point('p1', [0, 0]), point('p2', [10, 0]), point('p3', [0, 4]), point('p4', [10, 4])],
      ...[line('l1', 'p1', 'p2'), line('l2', 'p3', 'p4')],
    )
    const s = shapeOf(d, constraint('d1', 'angle', ['l1', 'l2']), 6)!
    expect(s.label.every(Number.isFinite)).toBe(true)
  })
})

describe('rounds', () => {
  it('carry their arrow on the rim; a diameter has both', () => {
    for (const k of rounds) {
      const [c, r] = [some(), 1 + 10 * Math.abs(roll())]
      const d = drawn(point('p1', c), circle('c1', 'p1', r))
      for (const type of ['radius', 'diameter'] as const) {
        const s = shapeOf(d, constraint('d1', type, ['c1'], { at: k % 2 ? some() : null }), 5, k % 3)!
        expect(s.arrows.length).toBe(type === 'radius' ? 1 : 2)
        for (const a of s.arrows) expect(far(a.at, c)).toBeCloseTo(r, 9)
        // Through the centre, and never with an arrow into its own tail.
        for (const a of s.arrows) expect(cross(a.way, minus(a.at, c))).toBeCloseTo(0, 6)
      }
    }
  })
  it('count for what a drawing reaches', () => {
    const d = drawn(point('p1', [5, 5]), circle('c1', 'p1', 3))
    expect(extent(d)).toEqual({ middle: [5, 5], size: 6 })
    expect([extent(empty()), extent(drawn(point('p1', [1, 1])))]).toEqual([null, null])
  })
})

describe('sizes of other things', () => {
  const d = drawn(
    point('p1', [0, 0]),
    point('p2', [10, 0]),
    line('l1', 'p1', 'p2'),
    point('p3', [0, 5]),
    point('p4', [10, 5]),
    line('l2', 'p3', 'p4'),
  )
  const free = new Map([
    [
      's1',
      [
        [
          [0, 0],
          [4, 2],
          [8, 0],
        ] as Pair[],
      ],
    ],
  ])
  it('hang on a leader at the thing they belong to', () => {
    expect(shapeOf(d, constraint('d1', 'least_radius', ['s1']), 5, 0, free)!.lines[0][0]).toEqual([4, 2])
    expect(shapeOf(d, constraint('d1', 'arc_length', ['l1']), 5)!.lines[0][0]).toEqual([5, 0])
    const [one, two] = shapeOf(d, constraint('d1', 'offset', ['l1', 'l2']), 5)!.lines
    expect([one, two[0]]).toEqual([
      [
        [5, 0],
        [5, 5],
      ],
      [5, 5],
    ])
  })
  it('are not drawn where the thing is gone', () => {
    for (const type of ['radius', 'angle', 'width', 'offset']) expect(shapeOf(d, constraint('d1', type, ['x9', 'x8']), 5)).toBeNull()
    expect(shapeOf(d, constraint('d1', 'least_radius', ['s1']), 5)).toBeNull()
  })
})
