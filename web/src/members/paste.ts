// Rows copied from a spreadsheet, as commands on the table of variants.
import type { Schemas } from '../api/client'
import type { Command } from '../document/store'
import { typed } from '../ui/units'
import type { Column } from './store'

type Row = Schemas['RowView']

/** A cell as it was copied; an empty one is as drawn. */
function cellOf(c: Column, text: string): unknown {
  const t = text.trim()
  if (!t) return null
  return c.cell === 'number' ? { formula: typed(t, c.dimension ?? undefined) } : t
}

/** What pasting does: beginning at a cell it fills rows from there on; with no cell, or where a first line
 * names columns, the first column names variants, new ones among them. */
export function pasted(text: string, rows: Row[], columns: Column[], at: { row: string | null; column: string } | null): Command[] {
  const lines = text
    .replace(/\r/g, '')
    .split('\n')
    .filter((l) => l.trim())
    .map((l) => l.split('\t'))
  const named = new Map(columns.map((c) => [c.name.toLowerCase(), c]))
  const head = lines[0].slice(1).map((h) => named.get(h.trim().toLowerCase()))
  const headed = head.length > 0 && head.every(Boolean)
  if (!headed && at) {
    const [y, x] = [rows.findIndex((r) => r.id === at.row), columns.findIndex((c) => c.id === at.column)]
    return lines.flatMap((line, i) => {
      const row = rows[y + i]
      if (!row) return []
      const pairs = line.flatMap((t, k) => (columns[x + k] ? [[columns[x + k].id, cellOf(columns[x + k], t)] as const] : []))
      const cells = Object.fromEntries(row.id === null ? pairs.filter(([, v]) => v !== null) : pairs)
      return Object.keys(cells).length ? [{ do: 'set_cells', id: row.id, cells }] : []
    })
  }
  const order = headed ? (head as Column[]) : columns
  const known = new Map(rows.map((r) => [r.name.toLowerCase(), r]))
  return (headed ? lines.slice(1) : lines).map(([name, ...texts]) => {
    const cells = Object.fromEntries(texts.flatMap((t, k) => (order[k] ? [[order[k].id, cellOf(order[k], t)]] : [])))
    const row = known.get(name.trim().toLowerCase())
    if (!row) return { do: 'add_variant', name: name.trim(), cells }
    return {
      do: 'set_cells',
      id: row.id,
      cells: row.id === null ? Object.fromEntries(Object.entries(cells).filter(([, v]) => v !== null)) : cells,
    }
  })
}
