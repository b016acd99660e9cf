// Members of a document found by conditions on what differs between them.
import type { Schemas } from '../api/client'

type Row = Schemas['RowView']
type Cell = Schemas['CellView']

export const OPS = ['is', 'at least', 'at most', 'between', 'contains'] as const
export type Op = (typeof OPS)[number]
export interface Condition {
  column: string
  op: Op
  value: string
  /** The other end of a range. */
  to: string
}

/** The values a column has, each once: numbers by size, words by name. */
export function valuesOf(rows: Row[], column: string): Cell[] {
  const found = new Map<string, Cell>()
  for (const row of rows) {
    const cell = row.cells[column]
    if (cell) found.set(cell.number != null ? String(cell.number) : cell.text.toLowerCase(), cell)
  }
  const byNumber = (a: Cell, b: Cell): number =>
    a.number != null && b.number != null ? a.number - b.number : a.text.localeCompare(b.text, undefined, { numeric: true })
  return [...found.values()].sort(byNumber)
}

/** Whether a row meets a condition; one that is not said yet is met by all. */
export function meets(row: Row, c: Condition, values: Cell[]): boolean {
  const cell = row.cells[c.column]
  if (!cell || !c.value) return true
  if (c.op === 'contains') return cell.text.toLowerCase().includes(c.value.toLowerCase())
  const known = (text: string): Cell | undefined => values.find((v) => v.text === text)
  const [low, high] = [known(c.value), known(c.to)]
  const sizes = [cell.number, low?.number]
  if (sizes.some((s) => s == null)) return c.op === 'is' ? cell.text === c.value : false
  const [own, least] = sizes as number[]
  const near = 1e-9 * Math.max(1, Math.abs(own), Math.abs(least))
  if (c.op === 'is') return Math.abs(own - least) <= near
  if (c.op === 'at most') return own <= least + near
  if (own < least - near) return false
  return c.op === 'at least' || (high?.number ?? Infinity) >= own - near
}

export function matching(rows: Row[], conditions: Condition[]): Row[] {
  const values = new Map(conditions.map((c) => [c.column, valuesOf(rows, c.column)]))
  return rows.filter((r) => conditions.every((c) => meets(r, c, values.get(c.column)!)))
}
