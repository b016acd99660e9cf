import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { FieldView, Part } from '../../api/client'
import type { Hit } from '../../viewport/body'
import type { StoredPick } from '../../viewport/mesh'
import { fieldComponent, fieldType } from './types'

const field = (type: string, more: Partial<FieldView> = {}): FieldView =>
  ({ name: 'it', type, label: 'It', free: false, any: false, accepts: 'edge', hint: null, ...more }) as FieldView
const pick = (name: string): StoredPick => ({ body: 'b_s1', kind: 'face', name: [name] }) as unknown as StoredPick
const hit = (body = 'b_s1'): Hit => ({ body, kind: 'face', index: 0, point: new Vector3(1.26, -2.2, 3), depth: 1 })
const click = (type: string, value: unknown, name = 's1/top', body?: string): unknown =>
  fieldType(type).take!({ pick: pick(name), hit: hit(body), value, own: 's4' })

describe('types of fields', () => {
  it('are components by their name; an unknown one does nothing and is drawn as nothing', () => {
    expect(fieldComponent('quantity')).toBeTruthy()
    expect(fieldComponent('picture')).toBeUndefined()
    expect(fieldType('picture')).toEqual({})
    expect(fieldType(undefined)).toEqual({})
  })

  it('say what they miss only where they cannot do without', () => {
    const miss = (f: FieldView, value: unknown): string | null | undefined => fieldType(f.type).missing?.(f, value)
    expect(miss(field('picks'), [])).toBe('Pick It')
    expect(miss(field('picks', { hint: 'Pick the edges' }), undefined)).toBe('Pick the edges')
    expect(miss(field('picks', { free: true }), [])).toBeNull()
    expect(miss(field('picks'), [pick('a')])).toBeNull()
    expect(miss(field('spots'), [])).toBe('Click where they go')
    expect(miss(field('steps'), [])).toContain('steps')
    expect(miss(field('sketch'), '')).toContain('draw one')
    expect(miss(field('part'), '')).toContain('part')
    expect(miss(field('sketches', { name: 'sections' }), ['s1'])).toContain('order')
    expect(miss(field('sketches', { name: 'guides' }), [])).toBeNull()
    expect(miss(field('quantity'), '')).toBeUndefined()
  })

  it('a body is taken by a click and let go by the next', () => {
    expect(click('bodies', undefined)).toEqual(['b_s1'])
    expect(click('bodies', ['b_s1', 'b_s2'], '', 'b_s1')).toEqual(['b_s2'])
  })

  it('places are numbered on, rounded to what one would type', () => {
    const [one] = click('spots', undefined) as { id: string; at: { formula: string }[] }[]
    expect(one.id).toBe('h1')
    expect(one.at.map((a) => a.formula)).toEqual(['1.5 mm', '-2 mm', '3 mm'])
    const more = click('spots', [{ id: 'h1' }, { id: 'h7' }]) as { id: string }[]
    expect(more.map((s) => s.id)).toEqual(['h1', 'h7', 'h8'])
  })

  it('copies are left out by a click on one; a face of something else is refused', () => {
    expect(click('numbers', [5], 's4/3/s2/top')).toEqual([3, 5])
    expect(click('numbers', [3], 's4/3/s2/top')).toEqual([3])
    expect(() => click('numbers', [], 's2/top')).toThrow('no copy')
  })

  it('groups hold picks by their row', () => {
    const rows = [
      { picks: [pick('a')], size: { formula: '1 mm' } },
      { picks: [], size: { formula: '2 mm' } },
    ]
    const { picks } = fieldType('sized')
    expect(picks!.of(rows, 0)).toEqual([pick('a')])
    expect(picks!.of(undefined, 3)).toEqual([])
    expect(picks!.put(rows, [pick('b')], 1)).toEqual([rows[0], { ...rows[1], picks: [pick('b')] }])
  })

  it('a new step takes the newest sketch nothing was built from, each field one of its own', () => {
    const steps = [
      { id: 's1', kind: 'sketch', fields: {} },
      { id: 's2', kind: 'extrude', fields: { sketch: 's1' } },
      { id: 's3', kind: 'sketch', fields: {} },
      { id: 's4', kind: 'sketch', fields: {} },
    ] as unknown as Part['steps']
    const part = { steps } as Part
    const ask = (name: string, given: Record<string, unknown>): unknown =>
      fieldType('sketch').guess!({ part, field: field('sketch', { name }), steps, given, copyable: () => false })
    expect(ask('sketch', {})).toBe('s4')
    expect(ask('path', { sketch: 's4' })).toBe('s3')
    expect(ask('sketch', { sketch: 's1' })).toBe('s1')
    const copyable = (kind: string): boolean => kind === 'extrude'
    expect(fieldType('steps').guess!({ part, field: field('steps'), steps, given: {}, copyable })).toEqual(['s2'])
    expect(fieldType('steps').guess!({ part, field: field('steps'), steps: [], given: {}, copyable })).toEqual([])
  })
})
