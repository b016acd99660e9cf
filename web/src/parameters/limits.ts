// Limits as people type them: a list with commas, or a range with dots between its ends. They are
// read by the server (core/quantity/tables.py).
import type { Parameter } from '../api/client'

export function limitsText(limits: Parameter['limits']): string {
  if (!limits) return ''
  if (limits.kind === 'list') return limits.values.join(', ')
  if (limits.least && limits.most) return `${limits.least} … ${limits.most}`
  return limits.least ? `≥ ${limits.least}` : limits.most ? `≤ ${limits.most}` : ''
}
