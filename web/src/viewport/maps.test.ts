import { describe, expect, it } from 'vitest'
import { angleOf, bandOf, type FaceMap } from './maps'

const draft: FaceMap = { kind: 'draft', way: [0, 0, 1], threshold: 2 }
const over: FaceMap = { kind: 'overhang', way: [0, 0, 1], threshold: 45 }
const tilted = (deg: number): number[] => [Math.cos((deg * Math.PI) / 180), 0, Math.sin((deg * Math.PI) / 180)]

describe('maps of face directions', () => {
  it('tells a drafted wall from an upright one and one that leans away', () => {
    expect(angleOf(tilted(3), draft)).toBeCloseTo(3)
    expect([3, 0, -3].map((d) => bandOf(angleOf(tilted(d), draft), draft))).toEqual([2, 1, 0])
  })
  it('counts overhang from upright, underneath only', () => {
    expect(angleOf(tilted(-60), over)).toBeCloseTo(60)
    expect([-60, -40, -10, 30].map((d) => bandOf(angleOf(tilted(d), over), over))).toEqual([2, 1, 0, 0])
  })
})
