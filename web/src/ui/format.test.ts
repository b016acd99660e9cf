import { describe, expect, it } from 'vitest'
import { change, mass, trim, raised } from './format'

describe('numbers as people read them', () => {
  it('cuts zeros but never digits before the point', () => {
    expect(trim(100)).toBe('100')
    expect(trim(26.5)).toBe('26.5')
    expect(trim(-0.001)).toBe('0')
  })
  it('changes to kilograms where grams get long', () => {
    expect(mass(412.62)).toBe('412.6 g')
    expect(mass(12345)).toBe('12.35 kg')
    expect([mass(0), mass(4.256), mass(0.4321)]).toEqual(['0.0 g', '4.26 g', '0.432 g'])
  })
  it('signs changes with a true minus', () => {
    expect(change(-38.2)).toBe('−38.2')
    expect(change(698.2)).toBe('+698.2')
    expect([change(0.34), change(0.0301), change(-0.0012)]).toEqual(['+0.3', '+0.03', '−0.001'])
    expect(change(-0.0004)).toBe('±0')
  })
})

it('writes powers as one writes them', () => {
  expect(raised('2 * 5 mm**3 + 1 mm**2')).toBe('2 * 5 mm³ + 1 mm²')
})
