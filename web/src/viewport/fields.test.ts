import { Color } from 'three'
import { describe, expect, it } from 'vitest'
import { decodeMap, fieldBands, fieldColours, type FieldMap, thinShare } from './fields'

/** Bytes as the server writes them (core/maps/kind.py). */
function written(map: Omit<FieldMap, 'told'>, told: object): ArrayBuffer {
  const words = new TextEncoder().encode(JSON.stringify(told))
  const head = new Uint32Array([0x4d4150, 1, map.points.length / 3, map.triangles.length / 3, map.per, words.length, 0, 0])
  const parts = [head, map.points, map.normals, map.values, map.triangles].map((a) => new Uint8Array(a.buffer))
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0) + words.length)
  let at = 0
  for (const p of [...parts, words]) {
    out.set(p, at)
    at += p.length
  }
  return out.buffer
}
/** A right triangle of area 1/2 and, apart, one of area 2, with a value at each corner. */
const two = (values: number[], per = 1): FieldMap => ({
  points: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0, 5, 0, 0, 7, 0, 0, 5, 2, 0]),
  normals: new Float32Array(18),
  values: new Float32Array(values),
  per,
  triangles: new Uint32Array([0, 1, 2, 3, 4, 5]),
  told: { places: [], unit: 'mm' },
})
const tone = (words: string): number[] => [...new Float32Array(new Color(words).toArray())]
const at = (colours: Float32Array | null, i: number): number[] => [...colours!.slice(3 * i, 3 * i + 3)]

describe('maps of bodies', () => {
  it('read back what the server writes', () => {
    const map = two([1, 2, 3, 4, 5, 6])
    const places = [{ value: 1.5, at: [0, 0, 0], to: [0, 0, 1.5] }]
    const read = decodeMap(written(map, { places, unit: 'mm' }))
    expect(read).toEqual({ ...map, told: { places, unit: 'mm' } })
    expect(() => decodeMap(new ArrayBuffer(32))).toThrow('not a map')
  })

  it('tell how much of the skin is thin by its area', () => {
    const [thin, thick] = [1, 3]
    expect(thinShare([two([thin, thin, thin, thick, thick, thick])], 2)).toBeCloseTo(0.5 / 2.5)
    expect(thinShare([two([thin, thick, thick, thick, thick, NaN])], 2)).toBeCloseTo(0.5 / 3 / 2.5)
    // Just as thick as asked for is thick enough, in spite of rounding.
    expect(thinShare([two([2, 2, 2, 2 - 1e-7, 2, 2])], 2)).toBe(0)
    expect(thinShare([], 2)).toBe(0)
  })

  it('colour walls below the threshold, those with nothing across, and the rest by value', () => {
    const colours = fieldColours(two([1, NaN, 2, 5, 8, 80]), 'thickness', 2)
    const [bad, pale] = fieldBands('thickness', 2).map((b) => tone(b.tone))
    expect(at(colours, 0)).toEqual(bad)
    expect(at(colours, 1)).toEqual(pale)
    expect(at(colours, 2)).not.toEqual(bad)
    expect(at(colours, 3)).not.toEqual(at(colours, 2))
    expect(at(colours, 5)).toEqual(at(colours, 4))
  })

  it('colour bends by the tighter side', () => {
    // Greatest and least curvature (1/mm), bulging positive.
    const bends = [0.6, 0, 0.4, 0, 0, -0.6, 0.6, -0.7, 0, 0, 0.5, -0.5]
    const colours = fieldColours(two(bends, 2), 'curvature', 2)
    const [hollow, bulging, flat] = fieldBands('curvature', 2).map((b) => tone(b.tone))
    expect([0, 1, 2, 3, 4, 5].map((i) => at(colours, i))).toEqual([bulging, flat, hollow, hollow, flat, flat])
  })

  it('colour sides of a mould', () => {
    const colours = fieldColours(two([0, 1, 2, 3, 0, 1]), 'undercut', 0)
    const tones = fieldBands('undercut', 0).map((b) => tone(b.tone))
    expect([0, 1, 2, 3].map((i) => at(colours, i))).toEqual(tones)
  })
})
