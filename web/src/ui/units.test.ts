import { afterEach, describe, expect, it } from 'vitest'
import { mass } from './format'
import { area, bare, length, PLAIN, readLength, rounded, stress, typed, units, volume } from './units'

afterEach(() => (units.value = PLAIN))

describe('units of a document', () => {
  it('show millimetres as before', () => {
    expect(length(38.1)).toBe('38.1 mm')
    expect(volume(24000)).toBe('24000 mm³')
    expect(volume(2400000)).toBe('2400 cm³')
    expect(mass(412.63)).toBe('412.6 g')
  })
  it('show inches, in decimals or fractions, and feet', () => {
    units.value = { ...PLAIN, length: 'in', mass: 'lb', stress: 'psi', places: 4 }
    expect(length(38.1)).toBe('1.5 in')
    expect(area(645.16)).toBe('1 in²')
    expect(mass(453.59237)).toBe('1.000 lb')
    expect(stress(1)).toBe('145.04 psi')
    units.value = { ...units.value, fractions: 16 }
    expect(bare(38.1)).toBe('1 1/2')
    expect(bare(-9.525)).toBe('-3/8')
    units.value = { ...units.value, length: 'ft', fractions: 2 }
    expect(length(1612.9)).toBe('5\'-3 1/2"')
  })
  it('count significant places', () => {
    units.value = { ...PLAIN, rounding: 'significant', places: 3 }
    expect(rounded(0.00123456)).toBe('0.00123')
    expect(rounded(1234.5)).toBe('1235')
  })
  it('put the unit of the field behind plain numbers and fractions only', () => {
    expect(typed('8', 'number')).toBe('8')
    expect(typed('3', 'angle')).toBe('3 deg')
    expect(typed(' 12.5 ', 'length')).toBe('12.5 mm')
    expect(typed('wall*2', 'length')).toBe('wall*2')
    expect(typed('1/4 in', 'length')).toBe('1/4 in')
    units.value = { ...PLAIN, length: 'in', force: 'lbf' }
    expect(typed('1 1/4', 'length')).toBe('1 1/4 in')
    expect(typed('3/8', 'length')).toBe('3/8 in')
    expect(typed('-.5', 'length')).toBe('-.5 in')
    expect(typed('20', 'force')).toBe('20 lbf')
    expect(typed('0,5', 'length')).toBe('0,5')
  })
})

describe('a length typed into a plain field', () => {
  it('is read in the unit of the document, or its own', () => {
    expect(readLength('12,5')).toBe(12.5)
    expect(readLength('1 1/4 in')).toBeCloseTo(31.75, 12)
    expect(readLength('-3/8"')).toBeCloseTo(-9.525, 12)
    units.value = { ...PLAIN, length: 'in' }
    expect(readLength('2')).toBeCloseTo(50.8, 12)
    expect(readLength('2 mm')).toBe(2)
  })
  it('is none when it is not one', () => {
    for (const text of ['', 'abc', '1/0', '1 2.5', '2 kg', '1..2']) expect(readLength(text)).toBeNull()
  })
})
