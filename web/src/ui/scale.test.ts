import { describe, expect, it } from 'vitest'
import { sizeTrouble } from '../viewport/picture'
import { linear, scale } from './scale'

/** How light a colour looks, from 0 to 100 (CIE 1976 L*). */
function lightness(t: number): number {
  const [r, g, b] = scale(t).map(linear)
  const y = 0.2126 * r + 0.7152 * g + 0.0722 * b
  return y > 0.008856 ? 116 * Math.cbrt(y) - 16 : 903.3 * y
}

describe('the colour scale', () => {
  it('is light in the middle, darker towards both ends, with no step in it', () => {
    const values = Array.from({ length: 201 }, (_, k) => lightness(k / 200))
    for (let k = 1; k <= 100; k++) expect(values[k]).toBeGreaterThan(values[k - 1])
    for (let k = 101; k <= 200; k++) expect(values[k]).toBeLessThan(values[k - 1])
    for (let k = 1; k <= 200; k++) expect(Math.abs(values[k] - values[k - 1])).toBeLessThan(2)
  })
  it('stays at its ends beyond them, and turns a channel into its light', () => {
    expect([scale(-3), scale(9)]).toEqual([scale(0), scale(1)])
    expect([linear(0), linear(255)]).toEqual([0, 1])
    expect(linear(188)).toBeCloseTo(0.5029, 3)
    for (let c = 1; c <= 255; c++) expect(linear(c)).toBeGreaterThan(linear(c - 1))
  })
})

describe('a picture', () => {
  it('can have any size a file and the memory take', () => {
    for (const [w, h] of [
      [16, 16],
      [1280, 800],
      [16_384, 7000],
      [10_000, 12_000],
    ])
      expect(sizeTrouble(w, h)).toBeNull()
    expect(sizeTrouble(15, 800)).toContain('at least 16')
    expect(sizeTrouble(800.5, 600)).toContain('whole pixels')
    expect(sizeTrouble(NaN, 600)).toContain('whole pixels')
    expect(sizeTrouble(16_385, 20)).toContain('16385 is more')
    expect(sizeTrouble(12_000, 12_000)).toContain('144 million')
  })
})
