import { describe, expect, it } from 'vitest'
import { Sections } from '../api/buffer'
import { decode, findPick, pickAt, rangeOf, type Topology } from './mesh'

const topology: Topology = {
  faces: [
    { name: 'top', kind: 'plane', area: 4, at: [0, 0, 1], origin: [0, 0, 1], neighbours: [] },
    { name: 'top', kind: 'plane', area: 6, at: [9, 0, 1], origin: [9, 0, 1], neighbours: [] },
  ],
  edges: [{ kind: 'circle', faces: [0, 1], ends: [], at: [4, 0, 0], length: 7 }],
  vertices: [{ at: [1, 1, 1], faces: [0, 1] }],
  picks: {
    names: ['s1/top', 's1/side', 's2/a'],
    face: [
      [[0], [[1]], false],
      [[0], [[2]], false],
    ],
    edge: [[[0, 1], [[2], [0]], true]],
    vertex: [[[0, 1, 2], [], true]],
  },
}

describe('picks', () => {
  it('are put together from the table that came with the mesh', () => {
    expect(pickAt(topology, 'b_s1', 'edge', 0)).toEqual({
      body: 'b_s1',
      kind: 'edge',
      name: ['s1/top', 's1/side'],
      witness: { kind: 'circle', at: [4, 0, 0], size: 7, around: [['s2/a'], ['s1/top']], alone: true },
    })
    expect(pickAt(topology, 'b_s1', 'vertex', 0).witness).toMatchObject({ kind: 'point', size: 0 })
  })
  it('are found again, of pieces of one name the nearest', () => {
    for (const i of [0, 1]) expect(findPick(topology, pickAt(topology, 'b', 'face', i))).toBe(i)
    expect(findPick(topology, pickAt(topology, 'b', 'edge', 0))).toBe(0)
    const gone = { ...pickAt(topology, 'b', 'face', 0), name: ['s9/gone'] }
    expect(findPick(topology, gone)).toBe(-1)
  })
})

it('the range that holds a value is found, empty ranges passed over', () => {
  const starts = new Uint32Array([0, 4, 4, 9])
  expect([0, 3, 4, 8].map((v) => rangeOf(starts, v))).toEqual([0, 0, 2, 2])
})

/** A buffer as the server writes it. */
function written(magic: number): ArrayBuffer {
  const words = new TextEncoder().encode(JSON.stringify(topology))
  const head = [magic, 2, 3, 1, 1, 1, 2, words.length, 0, 0, 0, 0]
  const parts = [
    new Uint32Array(head),
    new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]),
    new Int8Array(12).fill(7),
    new Uint32Array([0, 1, 2]),
    new Uint32Array([0, 1]),
    new Uint32Array([0, 2]),
    new Float32Array([0, 0, 0, 1, 0, 0]),
    words,
  ]
  const out = new Uint8Array(parts.reduce((n, p) => n + p.byteLength, 0))
  let at = 0
  for (const p of parts) {
    out.set(new Uint8Array(p.buffer, p.byteOffset, p.byteLength), at)
    at += p.byteLength
  }
  return out.buffer
}

describe('the buffer of a body', () => {
  it('is read without copies', () => {
    const buffer = written(0x4d5246)
    const mesh = decode('k', buffer)
    expect(mesh.positions.buffer).toBe(buffer)
    expect(Array.from(mesh.triangles)).toEqual([0, 1, 2])
    expect(Array.from(mesh.edgePoints)).toEqual([0, 0, 0, 1, 0, 0])
    expect(mesh.normals[11]).toBe(7)
    expect(mesh.topology.faces[1].area).toBe(6)
  })
  it('of something else is refused', () => {
    expect(() => decode('k', written(1))).toThrow('not a body')
    expect(() => new Sections(new ArrayBuffer(8), 2, 5, 'a field')).toThrow('not a field')
  })
})
