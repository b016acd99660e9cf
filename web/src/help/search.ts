// Finding pages by words: all of them must be there; titles count most.
import type { Schemas } from '../api/client'

type Page = Schemas['HelpPage']

const textOf = (p: Page): string =>
  [p.line, ...p.sections.flatMap((s) => [s.heading, ...s.paragraphs, ...s.points, ...s.rows.flat()])].join(' ').toLowerCase()

/** Pages that hold every word, the best first; all of them when nothing is looked for. */
export function find(pages: Page[], wanted: string): Page[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return pages
  return pages
    .map((page) => {
      const title = page.title.toLowerCase()
      const text = textOf(page)
      let score = 0
      for (const w of words) {
        const hit = title === w ? 8 : title.startsWith(w) ? 5 : title.includes(w) ? 3 : text.includes(w) ? 1 : 0
        if (!hit) return { page, score: 0 }
        score += hit
      }
      return { page, score }
    })
    .filter((f) => f.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((f) => f.page)
}
