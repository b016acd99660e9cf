import { describe, expect, it } from 'vitest'
import type { BodySpec } from '../viewport/body'
import type { Topology } from '../viewport/mesh'
import { edgeOf, faceOf, type Flat, type FlatBend, lit, open, path, wordsOf } from './flat'

const face = (name: string) => ({ name, kind: 'plane', area: 1, at: [0, 0, 0], origin: [0, 0, 0], neighbours: [] })
const topology = {
  faces: [face('s2/top'), face('s2/bottom'), face('s2/side/c1'), face('s3/bend/s2.c2/top'), face('s2/top.2')],
  edges: [{ kind: 'line', faces: [0, 2], ends: [0, 1], at: [0, 0, 0], length: 1 }],
  vertices: [],
} as unknown as Topology
const spec = { id: 'b_s2', mesh: { topology } } as unknown as BodySpec
const flat = { body: 'b_s2', side: 'top' } as unknown as Flat
const bend = (lines: [[number, number], [number, number]][]): FlatBend => ({ lines }) as unknown as FlatBend

describe('a blank', () => {
  it('is drawn with y up', () => {
    expect(path([[[0, 0], [2, 0], [2, 1]]])).toBe('M0 0L2 0L2 -1Z') // prettier-ignore
    expect(open([[0, 1], [3, 4]])).toBe('M0 -1L3 -4') // prettier-ignore
  })
  it('finds the face kept up, and the edge a wall has with it', () => {
    expect(faceOf(flat, spec, 's2')).toEqual({ body: 'b_s2', kind: 'face', index: 0 })
    expect(faceOf(flat, spec, 's9')).toBeNull()
    expect(edgeOf(flat, spec, 's2', 's2/side/c1')).toEqual({ body: 'b_s2', kind: 'edge', index: 0 })
    expect(edgeOf({ ...flat, side: 'bottom' }, spec, 's2', 's2/side/c1')).toBeNull()
  })
  it('is lit where the body is picked, whichever piece of a face it is', () => {
    const on = (kind: 'face' | 'edge', index: number) => lit([{ body: 'b_s2', kind, index }], spec)
    expect([...on('face', 0).patches]).toEqual(['s2'])
    expect([...on('face', 4).patches]).toEqual(['s2'])
    expect([...on('face', 3).patches]).toEqual(['s3/bend/s2.c2'])
    expect([...on('edge', 0).walls]).toEqual(['s2/side/c1'])
    expect(on('edge', 0).patches.size).toBe(0)
    expect(lit([{ body: 'other', kind: 'face', index: 0 }], spec).patches.size).toBe(0)
  })
  it('has words that are read from below or from the right', () => {
    for (const turn of [0, 40, 90, 130, 180, 220, 270, 320]) {
      const a = (turn * Math.PI) / 180
      const w = wordsOf(bend([[[0, 0], [10 * Math.cos(a), 10 * Math.sin(a)]]]))! // prettier-ignore
      expect(w.turn).toBeGreaterThan(-90)
      expect(w.turn).toBeLessThanOrEqual(90.01)
      expect(Math.abs(Math.sin(((w.turn - turn) * Math.PI) / 180))).toBeLessThan(1e-9)
      expect(w.long).toBeCloseTo(10)
    }
    expect(wordsOf(bend([]))).toBeNull()
  })
})
