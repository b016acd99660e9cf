import { describe, expect, it } from 'vitest'
import { find } from './search'

const page = (id: string, title: string, line: string, ...points: string[]) => ({
  id,
  title,
  group: '',
  line,
  picture: null,
  sections: [{ heading: '', paragraphs: [], points, rows: [['Radius', 'a length']] as [string, string][] }],
})
const pages = [
  page('a', 'Shell', 'hollow a body', 'walls'),
  page('b', 'Fillet', 'round edges', 'before a shell'),
  page('c', 'Wall thickness', 'colours'),
]
const ids = (wanted: string): string[] => find(pages, wanted).map((p) => p.id)

describe('help search', () => {
  it('wants every word, titles first, and shows all for none', () => {
    expect(ids('')).toEqual(['a', 'b', 'c'])
    expect(ids('shell')).toEqual(['a', 'b'])
    expect(ids('WALL')).toEqual(['c', 'a'])
    expect(ids('shell edges')).toEqual(['b'])
    expect(ids('radius length')).toEqual(['a', 'b', 'c'])
    expect(ids('sheep')).toEqual([])
  })
})
