// Which two states are compared, as the address of the page says it.
import type { Schemas } from '../api/client'

/** A state: of another document, at a revision, as a member; what is not said is as it is now. */
export interface Side {
  document?: string | null
  revision?: number | null
  choice?: { variant: string | null; options: Record<string, string> } | null
}
type Query = Record<string, string | string[] | null | undefined>

/** One side in few letters: document, revision, member. */
export function written(side: Side): string {
  return JSON.stringify([side.document ?? null, side.revision ?? null, side.choice ?? null])
}
export function read(text: unknown): Side {
  if (typeof text !== 'string') return {}
  try {
    const [document, revision, choice] = JSON.parse(text) as [string | null, number | null, Side['choice']]
    return { document, revision, choice }
  } catch {
    return {}
  }
}
export function sides(query: Query): { before: Side; after: Side } {
  return { before: read(query.before), after: read(query.after) }
}
export const compareAt = (id: string, before: Side, after: Side = {}): { path: string; query: Record<string, string> } => ({
  path: `/d/${id}/compare`,
  query: { before: written(before), after: written(after) },
})
export const asked = (side: Side): Schemas['SideAsk'] => ({
  document: side.document ?? null,
  revision: side.revision ?? null,
  choice: side.choice ? { ...side.choice, revision: null } : null,
})
