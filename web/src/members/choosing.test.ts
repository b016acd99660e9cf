import { describe, expect, it } from 'vitest'
import { matching, type Condition, valuesOf } from './choosing'

const row = (id: string, cells: Record<string, [string, number | null]>) => ({
  id,
  name: id,
  cells: Object.fromEntries(Object.entries(cells).map(([k, [text, number]]) => [k, { text, own: true, value: null, number }])),
})
// The same size in two notations is one value.
const ROWS = [
  row('a', { wide: ['30 mm', 30], side: ['left', null] }),
  row('b', { wide: ['2 in', 50.8], side: ['right', null] }),
  row('c', { wide: ['5.08 cm', 50.8], side: ['left', null] }),
  row('d', { wide: ['120 mm', 120], side: ['both sides', null] }),
]
const found = (...conditions: Partial<Condition>[]) =>
  matching(
    ROWS,
    conditions.map((c) => ({ column: 'wide', op: 'is', value: '', to: '', ...c })),
  ).map((r) => r.id)

describe('members by conditions', () => {
  it('offers each value once, by size', () => {
    expect(valuesOf(ROWS, 'wide').map((v) => v.number)).toEqual([30, 50.8, 120])
    expect(valuesOf(ROWS, 'side').map((v) => v.text)).toEqual(['both sides', 'left', 'right'])
  })
  it('compares numbers by size and words as they are', () => {
    expect(found({ value: '5.08 cm' })).toEqual(['b', 'c'])
    expect(found({ op: 'at least', value: '5.08 cm' })).toEqual(['b', 'c', 'd'])
    expect(found({ op: 'at most', value: '30 mm' })).toEqual(['a'])
    expect(found({ op: 'between', value: '30 mm', to: '5.08 cm' })).toEqual(['a', 'b', 'c'])
    expect(found({ column: 'side', value: 'left' })).toEqual(['a', 'c'])
    expect(found({ column: 'side', op: 'contains', value: 'SIDE' })).toEqual(['d'])
  })
  it('combines conditions, and one not said yet leaves all', () => {
    expect(found({ op: 'at least', value: '5.08 cm' }, { column: 'side', value: 'left' })).toEqual(['c'])
    expect(found({}, { column: 'side' })).toEqual(['a', 'b', 'c', 'd'])
  })
})
