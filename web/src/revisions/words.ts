// How changes are told.
import type { Schemas } from '../api/client'

export type Difference = Schemas['DifferenceView']
export const SIGNS: Record<Difference['sign'], string> = { added: '+', removed: '−', changed: '·', moved: '↕' }

/** What changed in one thing, in words. */
export function aspectsOf(d: Difference): string[] {
  if (d.sign === 'moved') return ['elsewhere in the order']
  if (d.sign === 'removed') return []
  return d.aspects.map((a) => {
    const label = a.label ? `${a.label} ` : ''
    return d.sign === 'added' ? a.after : `${label}${a.before || 'nothing'} → ${a.after || 'nothing'}`
  })
}
/** Changes by the kind of thing they are of, in the order they come. */
export function grouped(all: Difference[]): { title: string; rows: Difference[] }[] {
  const found = new Map<string, Difference[]>()
  for (const d of all) {
    const title = d.group ? d.group.replaceAll('_', ' ') : 'document'
    found.set(title, [...(found.get(title) ?? []), d])
  }
  return [...found].map(([title, rows]) => ({ title: title === 'values' ? 'values that follow' : title, rows }))
}
export const when = (seconds: number): string =>
  new Date(seconds * 1000).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
