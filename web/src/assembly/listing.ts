// The list of parts: which one, what of it is shown, in what order.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, download, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { mass } from '../ui/format'

export type Line = Schemas['PartsLineView']
export type Way = 'structured' | 'top' | 'parts'
export const WAYS: [Way, string][] = [
  ['structured', 'Structured'],
  ['top', 'Top level'],
  ['parts', 'Parts only'],
]
export interface Column {
  key: string
  label: string
  /** Set right, and sorted as a number. */
  number?: boolean
}
const FIXED: Column[] = [
  { key: 'position', label: 'Position' },
  { key: 'name', label: 'Name' },
  { key: 'variant', label: 'Variant' },
  { key: 'quantity', label: 'Quantity', number: true },
  { key: 'material', label: 'Material' },
  { key: 'mass', label: 'Mass', number: true },
  { key: 'total', label: 'Together', number: true },
]

export const useListing = defineStore('parts-list', () => {
  const doc = useDocument()
  const way = ref<Way>('structured')
  const lines = shallowRef<Line[]>([])
  const own = shallowRef<string[]>([])
  const hidden = ref<string[]>([])
  const wanted = ref('')
  /** Column it is sorted by; the order of the tree without one. */
  const by = ref<{ key: string; down: boolean } | null>(null)
  const trouble = ref('')
  const turn = turns()

  const every = computed<Column[]>(() => [
    // What nothing has needs no column.
    ...FIXED.filter((c) => c.key !== 'variant' || lines.value.some((l) => l.variant)),
    ...own.value.map((name) => ({ key: name, label: name })),
    { key: 'tags', label: 'Tags' },
  ])
  const columns = computed(() => every.value.filter((c) => !hidden.value.includes(c.key)))

  /** What stands in a column of a line: the number itself, or its text. */
  function value(line: Line, key: string): string | number {
    if (key === 'tags') return line.tags.join(', ')
    const fixed = FIXED.some((c) => c.key === key)
    return fixed ? (line[key as 'name' | 'quantity'] ?? '') : (line.properties[key] ?? '')
  }
  const shown = (line: Line, key: string): string => (key === 'mass' || key === 'total' ? mass(line[key]) : String(value(line, key)))

  const rows = computed(() => {
    const words = wanted.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
    const found = lines.value.filter((line) => {
      const text = every.value
        .map((c) => shown(line, c.key))
        .join(' ')
        .toLowerCase()
      return words.every((w) => text.includes(w))
    })
    const sort = by.value
    if (!sort) return found
    const sign = sort.down ? -1 : 1
    return [...found].sort((a, b) => {
      const [x, y] = [value(a, sort.key), value(b, sort.key)]
      const numbers = typeof x === 'number' && typeof y === 'number'
      return sign * (numbers ? x - y : String(x).localeCompare(String(y), 'en', { numeric: true }))
    })
  })
  /** Sorted up, then down, then as the tree has it again. */
  function sort(key: string): void {
    if (by.value?.key !== key) by.value = { key, down: false }
    else by.value = by.value.down ? null : { key, down: true }
  }
  function toggle(key: string): void {
    hidden.value = hidden.value.includes(key) ? hidden.value.filter((k) => k !== key) : [...hidden.value, key]
  }

  async function load(): Promise<void> {
    const id = doc.view?.id
    if (!id || doc.view?.kind !== 'assembly') return
    const newest = turn()
    try {
      const found = await call('get', '/api/documents/{id}/parts', { path: { id }, query: { way: way.value } })
      if (!newest()) return
      lines.value = found.lines
      own.value = found.columns
      trouble.value = ''
    } catch (error) {
      if (newest()) trouble.value = error instanceof Error ? error.message : String(error)
    }
  }
  async function show(next: Way): Promise<void> {
    way.value = next
    by.value = null
    await load()
  }
  async function save(ending: 'csv' | 'xlsx'): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    const query = new URLSearchParams({ way: way.value, columns: columns.value.map((c) => c.key).join('\n') })
    await download(`/api/documents/${id}/parts.${ending}?${query.toString()}`).catch(doc.refused)
  }
  return { way, lines, every, columns, hidden, wanted, by, rows, trouble, shown, sort, toggle, load, show, save }
})

/** Tags that more than one component bears, by the component. */
export function doubles(components: { id: string; tag?: string }[]): Set<string> {
  const seen = new Map<string, string[]>()
  for (const c of components) if (c.tag) seen.set(c.tag, [...(seen.get(c.tag) ?? []), c.id])
  return new Set([...seen.values()].filter((ids) => ids.length > 1).flat())
}
