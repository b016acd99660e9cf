import { expect, it } from 'vitest'
import { placed } from './links'

it('a file under a sketch is scaled, turned, then moved', () => {
  const under = { id: 'u1', at: [10, 20], turn: 90, scale: 2 } as unknown as Parameters<typeof placed>[0]
  expect(placed(under, [3, 0]).map((v) => Number(v.toFixed(9)))).toEqual([10, 26])
  expect(placed({ id: 'u1' } as unknown as Parameters<typeof placed>[0], [3, 4])).toEqual([3, 4])
})
