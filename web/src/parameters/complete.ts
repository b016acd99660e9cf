// Completion of formulas: what the word before the caret may become.
import type { Schemas } from '../api/client'

export interface Suggestion {
  word: string
  line: string
  example?: string
  /** What stands in the formula after taking it, and where the caret goes. */
  text: string
  caret: number
}

/** Suggestions for the word that ends at `caret`: parameters first, then functions and, after a
 * number, units. */
export function suggestions(
  text: string,
  caret: number,
  names: { name: string; shown?: string | null }[],
  words: Schemas['FormulaWordView'][],
  most = 8,
): Suggestion[] {
  const before = text.slice(0, caret)
  const found = /(^|[^A-Za-z0-9_.])(\d+(?:\.\d*)?\s*)?([A-Za-z_][A-Za-z0-9_]*)$/.exec(before)
  if (!found) return []
  const [, , number, typed] = found
  const after = text.slice(caret)
  const start = caret - typed.length
  const take = (word: string, tail = ''): Pick<Suggestion, 'text' | 'caret'> => {
    const put = text.slice(0, start) + word + tail
    return { text: put + after, caret: put.length - (tail === '()' ? 1 : 0) }
  }
  const fits = (word: string): boolean => word.toLowerCase().startsWith(typed.toLowerCase())
  const units = words.filter((w) => w.kind === 'unit' && fits(w.word)).map((w) => ({ word: w.word, line: w.line, ...take(w.word) }))
  // A word right behind a number is a unit and nothing else.
  if (number) return units.filter((u) => u.word !== typed).slice(0, most)
  return [
    ...names.filter((n) => fits(n.name)).map((n) => ({ word: n.name, line: n.shown ?? '', ...take(n.name) })),
    ...words
      .filter((w) => (w.kind === 'function' || w.kind === 'constant') && fits(w.word))
      .map((w) => ({
        word: w.word,
        line: w.line,
        example: `${w.example} → ${w.gives}`,
        ...take(w.word, w.kind === 'function' && after[0] !== '(' ? '()' : ''),
      })),
  ]
    .filter((s) => s.word !== typed)
    .slice(0, most)
}
