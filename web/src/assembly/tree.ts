// The components as a tree: sub-assemblies folded or open, found by name or tag, hidden, shown alone
// or as ghosts, the whole coloured by component or by material.
import { defineStore } from 'pinia'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import type { BodySpec } from '../viewport/body'
import { useAssembly } from './store'

export interface Row {
  /** Ids of the components that lead to it, from the top, with / between. */
  id: string
  /** The component of the top level it belongs to. */
  component: string
  name: string
  level: number
  /** There is something inside. */
  holds: boolean
  folded: boolean
}
type Leaf = Schemas['LeafView']

/** Whether a row or a body is one of some rows, or lies in one. */
export function within(id: string, rows: ReadonlySet<string>): boolean {
  if (!rows.size) return false
  for (let at = id.indexOf('/'); at > 0; at = id.indexOf('/', at + 1)) if (rows.has(id.slice(0, at))) return true
  return rows.has(id)
}

/** All rows of a tree, parents before what is inside them. */
export function rowsOf(components: { id: string; name: string }[], leaves: Leaf[]): Omit<Row, 'folded'>[] {
  const inside = new Map<string, Omit<Row, 'folded'>[]>()
  const known = new Set<string>()
  for (const leaf of leaves) {
    const path = [leaf.component, ...leaf.path]
    for (let k = 1; k < path.length; k++) {
      const [above, id] = [path.slice(0, k).join('/'), path.slice(0, k + 1).join('/')]
      if (known.has(id)) continue
      known.add(id)
      const row = { id, component: path[0], name: leaf.names[k] ?? path[k], level: k, holds: path.length > k + 1 }
      inside.set(above, [...(inside.get(above) ?? []), row])
    }
  }
  const found: Omit<Row, 'folded'>[] = []
  const put = (row: Omit<Row, 'folded'>): void => {
    found.push(row)
    for (const child of inside.get(row.id) ?? []) put(child)
  }
  for (const c of components) put({ id: c.id, component: c.id, name: c.name, level: 0, holds: inside.has(c.id) })
  return found
}

export const useTree = defineStore('component-tree', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const shown = useShown()
  const open = ref<Set<string>>(new Set())
  const ghosts = ref<Set<string>>(new Set())
  const wanted = ref('')
  const colours = ref<'component' | 'material'>('component')
  watch(
    () => doc.view?.id,
    () => {
      open.value = new Set()
      ghosts.value = new Set()
      wanted.value = ''
    },
  )

  const all = computed(() => rowsOf(doc.assembly?.components ?? [], asm.built?.leaves ?? []))
  const tags = computed(() => new Map((doc.assembly?.components ?? []).map((c) => [c.id, c.tag ?? ''])))
  /** Rows one sees: those whose parents are open, or while something is looked for those that bear it
   * with all that leads to them. */
  const rows = computed<Row[]>(() => {
    const text = wanted.value.trim().toLowerCase()
    if (!text)
      return all.value
        .filter((r) => r.level === 0 || parents(r.id).every((p) => open.value.has(p)))
        .map((r) => ({ ...r, folded: !open.value.has(r.id) }))
    const hit = (r: Omit<Row, 'folded'>): boolean =>
      r.name.toLowerCase().includes(text) || (r.level === 0 && (tags.value.get(r.id) ?? '').toLowerCase().includes(text))
    const kept = new Set(all.value.filter(hit).flatMap((r) => [r.id, ...parents(r.id)]))
    return all.value.filter((r) => kept.has(r.id)).map((r) => ({ ...r, folded: false }))
  })
  function fold(id: string): void {
    const next = new Set(open.value)
    if (!next.delete(id)) next.add(id)
    open.value = next
  }
  function foldAll(folded: boolean): void {
    open.value = new Set(folded ? [] : all.value.filter((r) => r.holds).map((r) => r.id))
  }
  function toggleGhost(ids: string[]): void {
    const next = new Set(ghosts.value)
    const all = ids.every((id) => next.has(id))
    for (const id of ids)
      if (all) next.delete(id)
      else next.add(id)
    ghosts.value = next
  }
  /** All but some as ghosts; again brings all back. */
  function ghostOthers(ids: string[]): void {
    const others = (doc.assembly?.components ?? []).map((c) => c.id).filter((id) => !ids.some((k) => k === id || k.startsWith(`${id}/`)))
    ghosts.value = new Set(others.every((id) => ghosts.value.has(id)) ? [] : others)
  }
  /** Bodies as they are to be drawn. */
  function drawn(bodies: BodySpec[]): BodySpec[] {
    const plain = new Map(colours.value === 'material' ? (asm.built?.leaves ?? []).map((l) => [l.id, l.plain]) : [])
    if (!shown.hidden.size && !ghosts.value.size && !plain.size) return bodies
    return bodies
      .filter((b) => !within(b.id, shown.hidden))
      .map((b) => {
        const [colour, ghost] = [plain.get(b.id) ?? b.colour, within(b.id, ghosts.value)]
        return colour === b.colour && !ghost ? b : { ...b, colour, ghost }
      })
  }
  return { rows, open, ghosts, wanted, colours, fold, foldAll, toggleGhost, ghostOthers, drawn }
})

const parents = (id: string): string[] => {
  const path = id.split('/')
  return path.slice(1).map((_, k) => path.slice(0, k + 1).join('/'))
}
