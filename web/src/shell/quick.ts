// What quick entry understands: a command with its number, or the name of something.
import type { KindView, Schemas } from '../api/client'
import { typed } from '../ui/units'

export interface Suggestion {
  label: string
  detail: string
  icon: string
  run: {
    tool?: string
    fields?: Record<string, unknown>
    draw?: string
    texts?: Record<string, string>
    open?: string
    step?: string
    action?: string
  }
}

export interface Named {
  label: string
  detail: string
  icon: string
  run: Suggestion['run']
}

/** What quick entry finds in a document, and how it does what was chosen. */
export interface Finds {
  steps: KindView[]
  tools: Schemas['ToolView'][]
  named: Named[]
  run: (what: Suggestion['run']) => Promise<void>
}

/** A bare number gets the field's usual unit; anything else is a formula already. */
export function asFormula(text: string, dimension: string | null | undefined): string {
  return typed(text, dimension)
}

/** Matches for what was typed, best first. */
export function suggest(text: string, kinds: KindView[], named: Named[], tools: Schemas['ToolView'][] = []): Suggestion[] {
  const said = text.trim().toLowerCase()
  if (!said) return []
  const [word, ...rest] = said.split(/\s+/)
  const number = text.trim().split(/\s+/).slice(1).join(' ')
  const found: (Suggestion & { rank: number })[] = []
  for (const kind of kinds) {
    const label = kind.label.toLowerCase()
    if (!label.startsWith(word)) continue
    const deciding = kind.deciding[0]
    const field = kind.fields.find((f) => f.name === deciding)
    const given = rest.length && deciding ? { [deciding]: asFormula(number, field?.dimension) } : {}
    const detail = rest.length && field ? `${field.label} ${Object.values(given)[0]}` : kind.line
    found.push({
      label: kind.label,
      detail,
      icon: kind.icon,
      run: { tool: kind.kind, fields: given },
      rank: label === word ? 0 : 1,
    })
  }
  // Tools of an open sketch take their sizes in order.
  for (const tool of tools) {
    const label = tool.label.toLowerCase()
    const at = label.indexOf(word)
    if (at < 0 || (at > 0 && label[at - 1] !== ' ')) continue
    const sizes = tool.sizes.filter((s) => s.kind !== 'flag')
    const values = number.split(/\s+/).filter(Boolean)
    const texts = Object.fromEntries(values.slice(0, sizes.length).map((v, i) => [sizes[i].name, v]))
    const detail =
      values.length && sizes.length
        ? sizes
            .slice(0, values.length)
            .map((s, i) => `${s.label} ${values[i]}`)
            .join(', ')
        : tool.line
    found.push({ label: tool.label, detail, icon: tool.icon, run: { draw: tool.name, texts }, rank: at === 0 ? 0.5 : 1.5 })
  }
  for (const n of named) {
    const label = n.label.toLowerCase()
    const at = label.indexOf(said)
    if (at >= 0) found.push({ ...n, rank: at === 0 ? 2 : 3 })
  }
  return found.sort((a, b) => a.rank - b.rank).slice(0, 9)
}
