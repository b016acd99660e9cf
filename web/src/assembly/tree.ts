// The components as a tree: sub-assemblies folded or open, found by name, tag or property, hidden, shown
// alone or as ghosts, the whole coloured by component, by material or by a property.
import { defineStore, storeToRefs } from 'pinia'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import type { BodySpec } from '../viewport/body'
import { makerOf, originalOf } from './copyNames'
import { useAssembly } from './store'

export interface Row {
  /** Ids of the components that lead to it, from the top, with / between; of a group or copies theirs. */
  id: string
  /** The component of the top level (or copy of one) it belongs to. */
  component: string
  name: string
  level: number
  /** There is something inside. */
  holds: boolean
  folded: boolean
  sort: 'component' | 'inner' | 'group' | 'copies' | 'copy'
  /** Rows it stands under. */
  above: string[]
  /** Components, or rows inside one, that it stands for. */
  ids: string[]
}
type Bare = Omit<Row, 'folded'>
type Leaf = Schemas['LeafView']

/** Whether a row or a body is one of some rows, or lies in one. */
export function within(id: string, rows: ReadonlySet<string>): boolean {
  if (!rows.size) return false
  for (let at = id.indexOf('/'); at > 0; at = id.indexOf('/', at + 1)) if (rows.has(id.slice(0, at))) return true
  return rows.has(id)
}
interface Held {
  components: { id: string; name: string }[]
  bunches?: { id: string; name: string; components: string[] }[]
  copies?: { id: string; name: string }[]
}
/** All rows of a tree, parents before what is inside them: components, those of a group under it,
 * then copies under what makes them. */
export function rowsOf(held: Held, leaves: Leaf[]): Bare[] {
  const inside = new Map<string, { id: string; name: string; deep: boolean }[]>()
  const known = new Set<string>()
  const made = new Map<string, { id: string; name: string }[]>()
  for (const leaf of leaves) {
    const path = [leaf.component, ...leaf.path]
    const maker = makerOf(leaf.component)
    if (maker && !known.has(leaf.component)) {
      known.add(leaf.component)
      made.set(maker, [...(made.get(maker) ?? []), { id: leaf.component, name: leaf.names[0] ?? leaf.component }])
    }
    for (let k = 1; k < path.length; k++) {
      const [above, id] = [path.slice(0, k).join('/'), path.slice(0, k + 1).join('/')]
      if (known.has(id)) continue
      known.add(id)
      inside.set(above, [...(inside.get(above) ?? []), { id, name: leaf.names[k] ?? path[k], deep: path.length > k + 1 }])
    }
  }
  const found: Bare[] = []
  function put(id: string, name: string, sort: Row['sort'], above: string[]): void {
    const component = id.split('/')[0]
    found.push({ id, component, name, level: above.length, holds: inside.has(id), sort, above, ids: [id] })
    for (const child of inside.get(id) ?? []) put(child.id, child.name, 'inner', [...above, id])
  }
  const names = new Map(held.components.map((c) => [c.id, c.name]))
  const groupOf = new Map((held.bunches ?? []).flatMap((b) => b.components.map((c) => [c, b] as const)))
  const done = new Set<string>()
  for (const c of held.components) {
    const group = groupOf.get(c.id)
    if (!group) put(c.id, c.name, 'component', [])
    else if (!done.has(group.id)) {
      done.add(group.id)
      const ids = group.components.filter((id) => names.has(id))
      found.push({ id: group.id, component: '', name: group.name, level: 0, holds: true, sort: 'group', above: [], ids })
      for (const id of ids) put(id, names.get(id)!, 'component', [group.id])
    }
  }
  for (const r of held.copies ?? []) {
    const copies = made.get(r.id) ?? []
    const ids = copies.map((c) => c.id)
    found.push({ id: r.id, component: '', name: r.name, level: 0, holds: ids.length > 0, sort: 'copies', above: [], ids })
    for (const c of copies) put(c.id, c.name, 'copy', [r.id])
  }
  return found
}

/** Told apart by lightness too; the last for what says nothing. */
const TONES = ['#6f9bc4', '#d0a95f', '#79ab6c', '#c07d7d', '#9a86c0', '#5fa5a0', '#c78f63', '#a6b35c', '#8a8fa8', '#c58fb0']
const SILENT = '#c9ccc6'

export const useTree = defineStore('component-tree', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const shown = useShown()
  const open = ref<Set<string>>(new Set())
  const { faint: ghosts, colours } = storeToRefs(shown)
  const wanted = ref('')
  watch(
    () => doc.view?.id,
    () => {
      open.value = new Set()
      wanted.value = ''
    },
  )

  const all = computed(() => {
    const d = doc.assembly
    return rowsOf({ components: d?.components ?? [], bunches: d?.bunches, copies: d?.copies }, asm.built?.leaves ?? [])
  })
  /** What is said of the document of each row, and of that it stands in. */
  const said = computed(() => {
    const properties = asm.built?.properties ?? {}
    const found = new Map<string, Record<string, string>>()
    for (const c of doc.assembly?.components ?? []) found.set(c.id, properties[c.document] ?? {})
    for (const l of asm.built?.leaves ?? []) {
      const own = properties[l.document] ?? {}
      const top = found.get(originalOf(l.component)) ?? {}
      found.set([l.component, ...l.path].join('/'), { ...top, ...own })
    }
    return found
  })
  /** Names of properties that tell components apart. */
  const properties = computed(() => [...new Set([...said.value.values()].flatMap((s) => Object.keys(s)))].sort())
  const tags = computed(() => new Map((doc.assembly?.components ?? []).map((c) => [c.id, c.tag ?? ''])))
  /** Rows one sees: those whose parents are open, or while something is looked for those that bear it
   * with all that leads to them. */
  const rows = computed<Row[]>(() => {
    const text = wanted.value.trim().toLowerCase()
    if (!text) return all.value.filter((r) => r.above.every((p) => open.value.has(p))).map((r) => ({ ...r, folded: !open.value.has(r.id) }))
    const hit = (r: Bare): boolean =>
      r.name.toLowerCase().includes(text) ||
      (r.sort === 'component' && (tags.value.get(r.id) ?? '').toLowerCase().includes(text)) ||
      Object.entries(said.value.get(r.id) ?? {}).some(([name, value]) => `${name} ${value}`.toLowerCase().includes(text))
    const kept = new Set(all.value.filter(hit).flatMap((r) => [r.id, ...r.above]))
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
  /** All components and copies that some rows do not belong to. */
  function othersThan(ids: string[]): string[] {
    const mine = new Set(ids.map((id) => id.split('/')[0]))
    const all = [...(doc.assembly?.components ?? []).map((c) => c.id), ...(asm.built?.leaves ?? []).map((l) => l.component)]
    return [...new Set(all)].filter((id) => !mine.has(id))
  }
  /** All but some as ghosts; again brings all back. */
  function ghostOthers(ids: string[]): void {
    const others = othersThan(ids)
    ghosts.value = new Set(others.every((id) => ghosts.value.has(id)) ? [] : others)
  }
  /** All but some hidden; again brings all back. */
  function only(ids: string[]): void {
    const others = othersThan(ids)
    const alone = others.length > 0 && others.every((id) => shown.hidden.has(id)) && !ids.some((id) => shown.hidden.has(id))
    shown.hidden = new Set(alone ? [] : others)
  }
  /** Colours of bodies where they are not those of components. */
  function tones(): Map<string, string> {
    const leaves = asm.built?.leaves ?? []
    if (colours.value === 'material') return new Map(leaves.map((l) => [l.id, l.plain]))
    if (!colours.value.startsWith('=')) return new Map()
    const name = colours.value.slice(1)
    const valueOf = (l: Leaf): string => said.value.get([l.component, ...l.path].join('/'))?.[name] ?? ''
    const values = [...new Set(leaves.map(valueOf))].filter(Boolean).sort()
    // What says nothing of it stays grey.
    return new Map(leaves.map((l) => [l.id, valueOf(l) ? TONES[values.indexOf(valueOf(l)) % TONES.length] : SILENT]))
  }
  /** Bodies as they are to be drawn. */
  function drawn(bodies: BodySpec[]): BodySpec[] {
    const plain = tones()
    if (!shown.hidden.size && !ghosts.value.size && !plain.size) return bodies
    return bodies
      .filter((b) => !within(b.id, shown.hidden))
      .map((b) => {
        const [colour, ghost] = [plain.get(b.id) ?? b.colour, within(b.id, ghosts.value)]
        return colour === b.colour && !ghost ? b : { ...b, colour, ghost }
      })
  }
  return { rows, open, ghosts, wanted, colours, properties, fold, foldAll, toggleGhost, ghostOthers, only, drawn }
})
