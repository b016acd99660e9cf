import { describe, expect, it } from 'vitest'
import { inverseRigid, matrixOf, multiply } from './store'

describe('poses', () => {
  const half = Math.SQRT1_2
  const pose = matrixOf({ p: [10, 20, 30], q: [half, 0, 0, half] })
  it('a quarter turn about Z carries X to Y', () => {
    expect(pose.slice(0, 3).map((v) => Number(v.toFixed(9)) + 0)).toEqual([0, 1, 0])
    expect(pose.slice(12, 15)).toEqual([10, 20, 30])
  })
  it('undoes itself', () => {
    const unit = multiply(pose, inverseRigid(pose)).map((v) => Number(v.toFixed(9)) + 0)
    expect(unit).toEqual([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1])
  })
})
