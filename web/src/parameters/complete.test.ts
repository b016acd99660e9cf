import { describe, expect, it } from 'vitest'
import { suggestions } from './complete'

const names = [
  { name: 'wall', shown: '2 mm' },
  { name: 'width', shown: '40 mm' },
  { name: 'mouth', shown: '9 mm' },
]
const words = [
  { word: 'max', kind: 'function', line: 'the largest of several', example: 'max(1, 2)', gives: '2' },
  { word: 'mm', kind: 'unit', line: 'millimetres', example: '1 mm', gives: '1 mm' },
  { word: 'm', kind: 'unit', line: 'metres', example: '1 m', gives: '1 m' },
]
const at = (text: string, caret = text.length): string[] => suggestions(text, caret, names, words).map((s) => s.word)

describe('completion', () => {
  it('offers parameters and functions where a word begins, units only behind a number', () => {
    expect(at('2*w')).toEqual(['wall', 'width'])
    expect(at('m')).toEqual(['mouth', 'max'])
    expect(at('3 m')).toEqual(['mm'])
    expect(at('3 ')).toEqual([])
    expect(at('')).toEqual([])
    expect(at('wall2')).toEqual([])
  })
  it('puts the word in place of what was typed, the caret between brackets', () => {
    const [wall] = suggestions('w + 1 mm', 1, names, words)
    expect(wall).toMatchObject({ text: 'wall + 1 mm', caret: 4 })
    const max = suggestions('2*ma', 4, names, words).find((s) => s.word === 'max')
    expect(max).toMatchObject({ text: '2*max()', caret: 6 })
    expect(suggestions('ma(wall)', 2, names, words)[0]).toMatchObject({ text: 'max(wall)', caret: 3 })
  })
})
