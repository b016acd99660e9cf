import { describe, expect, it } from 'vitest'
import { scale } from '../ui/scale'
import { lengths, tint } from './field'

const lightness = ([r, g, b]: [number, number, number]): number => 0.2126 * r + 0.7152 * g + 0.0722 * b

describe('result colours', () => {
  it('has clearly different ends and no repeated colour on the way', () => {
    const steps = Array.from({ length: 41 }, (_, i) =>
      scale(i / 40)
        .map(Math.round)
        .join(),
    )
    expect(new Set(steps).size).toBe(41)
    expect(Math.abs(lightness(scale(0.5)) - lightness(scale(0)))).toBeGreaterThan(100)
    expect(Math.abs(lightness(scale(0.5)) - lightness(scale(1)))).toBeGreaterThan(100)
  })
  it('clamps and survives a field of zeros', () => {
    expect(scale(7)).toEqual(scale(1))
    expect(tint(new Float32Array([0, 0]), 0).every(Number.isFinite)).toBe(true)
    expect([...lengths(new Float32Array([3, 4, 0]))]).toEqual([5])
  })
})
