import { describe, expect, it } from 'vitest'
import { limitsText } from './limits'

describe('limits as shown', () => {
  it.each([
    [null, ''],
    [{ kind: 'list', values: ['20 mm', '26 mm'] }, '20 mm, 26 mm'],
    [{ kind: 'range', least: '30 mm', most: 'wall*6' }, '30 mm … wall*6'],
    [{ kind: 'range', least: '8 mm', most: null }, '≥ 8 mm'],
    [{ kind: 'range', least: null, most: 'wall' }, '≤ wall'],
  ] as const)('%j', (limits, shown) => {
    expect(limitsText(limits as Parameters<typeof limitsText>[0])).toBe(shown)
  })
})
