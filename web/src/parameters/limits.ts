// Limits as people type them: a list with commas, or a range with dots between its ends.
import type { Parameter } from '../api/client'

export type Limits = NonNullable<Parameter['limits']>

export function limitsText(limits: Parameter['limits']): string {
  if (!limits) return ''
  if (limits.kind === 'list') return limits.values.join(', ')
  if (limits.least && limits.most) return `${limits.least} … ${limits.most}`
  return limits.least ? `≥ ${limits.least}` : limits.most ? `≤ ${limits.most}` : ''
}

/** Null takes the limits off. */
export function limitsOf(text: string): Limits | null {
  const typed = text.trim()
  if (!typed) return null
  const range = typed.split(/\s*(?:…|\.\.\.?)\s*/)
  if (range.length === 2) return { kind: 'range', least: range[0] || null, most: range[1] || null }
  const least = /^(?:≥|>=)\s*(.+)$/.exec(typed)
  if (least) return { kind: 'range', least: least[1], most: null }
  const most = /^(?:≤|<=)\s*(.+)$/.exec(typed)
  if (most) return { kind: 'range', least: null, most: most[1] }
  return { kind: 'list', values: typed.split(/,(?![^(]*\))/).map((v) => v.trim()).filter(Boolean) }
}
