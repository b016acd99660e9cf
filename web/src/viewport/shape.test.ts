import { Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { BodyMesh } from './mesh'
import { Shape } from './shape'

/** A mesh of nothing but edges, each a run of points. */
function edgesOf(runs: number[][][], seams: number[] = []): BodyMesh {
  const starts = [0]
  for (const run of runs) starts.push(starts.at(-1)! + run.length)
  return {
    key: 'edges',
    positions: new Float32Array(9),
    normals: new Int8Array(12),
    triangles: new Uint32Array([0, 1, 2]),
    faceStarts: new Uint32Array([0, 1]),
    edgeStarts: new Uint32Array(starts),
    edgePoints: new Float32Array(runs.flat(2)),
    topology: {
      faces: [],
      edges: runs.map((_, i) => ({ kind: 'line', faces: [0], ends: [], at: [0, 0, 0], length: 1, seam: seams.includes(i) })),
      vertices: [],
      picks: { names: [], face: [], edge: [], vertex: [] },
    },
  }
}

/** Random numbers that are the same every time. */
function numbers(seed: number): () => number {
  let s = seed
  return () => (s = (s * 16807) % 2147483647) / 2147483647
}

describe('the edge nearest to a line of sight', () => {
  it('is the one that trying every segment finds', () => {
    const random = numbers(7)
    const spot = (): number[] => [random() * 10, random() * 10, random() * 10]
    const runs = Array.from({ length: 60 }, () => Array.from({ length: 2 + Math.floor(random() * 4) }, spot))
    const shape = Shape.of(edgesOf(runs))
    let found = 0
    for (let k = 0; k < 200; k++) {
      const from = new Vector3(...spot())
      const ray = new Ray(from, new Vector3(...spot()).sub(from).normalize())
      // Along a whole line, not only ahead: as far as sight goes back too.
      const [ahead, behind] = [ray.at(1000, new Vector3()), ray.at(-1000, new Vector3())]
      let least = 0.8
      let best = -1
      for (const [e, run] of runs.entries())
        for (let i = 0; i + 1 < run.length; i++) {
          const whole = new Ray(behind, ahead.clone().sub(behind).normalize())
          const away = Math.sqrt(whole.distanceSqToSegment(new Vector3(...run[i]), new Vector3(...run[i + 1])))
          if (away < least - 1e-9) [least, best] = [away, e]
        }
      const near = shape.nearEdge(ray, 0.8, Infinity, () => false)
      expect(near?.edge ?? -1).toBe(best)
      if (near) {
        found++
        expect(near.away).toBeCloseTo(least, 5)
      }
    }
    expect(found).toBeGreaterThan(50)
  })

  it('passes over seams, what is hidden and what a section took away', () => {
    const run = [
      [0, 0, 0],
      [10, 0, 0],
    ]
    const ray = new Ray(new Vector3(5, 0, 20), new Vector3(0, 0, -1))
    const open = Shape.of(edgesOf([run]))
    expect(open.nearEdge(ray, 1, Infinity, () => false)?.edge).toBe(0)
    expect(open.nearEdge(ray, 1, 10, () => false)).toBeNull()
    expect(open.nearEdge(ray, 1, Infinity, (p) => p.x > 3)).toBeNull()
    expect(Shape.of(edgesOf([run], [0])).nearEdge(ray, 1, Infinity, () => false)).toBeNull()
  })
})

it('a mesh has one shape, whoever asks; a border of one face is drawn, a seam is not', () => {
  const mesh = edgesOf(
    [
      [
        [0, 0, 0],
        [1, 0, 0],
      ],
      [
        [0, 1, 0],
        [1, 1, 0],
      ],
    ],
    [1],
  )
  const shape = Shape.of(mesh)
  expect(Shape.of(mesh)).toBe(shape)
  expect(Array.from(shape.borders())).toEqual([0, 0, 0, 1, 0, 0])
})
