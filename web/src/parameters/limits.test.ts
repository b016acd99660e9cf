import { describe, expect, it } from 'vitest'
import { limitsOf, limitsText } from './limits'

describe('limits as typed', () => {
  it.each(['20 mm, 26 mm, 32 mm', '30 mm … wall*6', '≥ 8 mm', '≤ wall'])('reads back what it shows: %s', (text) => {
    expect(limitsText(limitsOf(text))).toBe(text)
  })
  it('takes plain dots and arrows from the keyboard', () => {
    expect(limitsOf('1 mm .. 2.5 mm')).toEqual({ kind: 'range', least: '1 mm', most: '2.5 mm' })
    expect(limitsOf('>= 3 mm')).toEqual({ kind: 'range', least: '3 mm', most: null })
    expect(limitsOf('  ')).toBeNull()
  })
})
