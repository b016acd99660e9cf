import { describe, expect, it } from 'vitest'
import type { KindView } from '../api/client'
import { asFormula, suggest } from './quick'

const fillet = {
  kind: 'fillet',
  label: 'Fillet',
  group: 'Edges',
  icon: 'fillet',
  line: 'Round edges',
  deciding: ['radius'],
  fields: [{ name: 'radius', label: 'Radius', type: 'quantity', dimension: 'length', default: '3 mm' }],
} as unknown as KindView

describe('quick entry', () => {
  it('puts a number with its unit into the deciding field', () => {
    const [first] = suggest('fillet 2.5', [fillet], [])
    expect(first.run).toEqual({ tool: 'fillet', fields: { radius: '2.5 mm' } })
  })
  it('leaves formulas as they are', () => {
    expect(suggest('fil wall*2', [fillet], [])[0].run.fields).toEqual({ radius: 'wall*2' })
    expect(asFormula('30', 'angle')).toBe('30 deg')
  })
  it('finds things by name after commands', () => {
    const named = [
      { label: 'Fillet test', detail: '', icon: 'part', run: { open: 'd1' } },
      { label: 'Old fillet', detail: '', icon: 'part', run: {} },
    ]
    expect(suggest('fillet', [fillet], named).map((s) => s.label)).toEqual(['Fillet', 'Fillet test', 'Old fillet'])
    expect(suggest('zzz', [fillet], named)).toEqual([])
  })
})
