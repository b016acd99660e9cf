// A share copy for outsiders being made: rules, what they come to, both beside each other, the file.
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import { call, download, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'
import { usePanes } from '../viewport/panes'
import { useLook } from './trial'

export type Level = Schemas['ShareWish']['level']
export type Rule = Schemas['ShareRule']
export const LEVELS: { level: Level; word: string }[] = [
  { level: 'exact', word: 'exact' },
  { level: 'skin', word: 'outer skin' },
  { level: 'box', word: 'box' },
  { level: 'out', word: 'left out' },
]
const FIRST = { rules: [] as Rule[], level: 'skin' as Level, small: 3, looks: true }

export const useSharing = defineStore('sharing', () => {
  const doc = useDocument()
  const panes = usePanes()
  const open = ref(false)
  const name = ref('For outsiders')
  const wish = ref(structuredClone(FIRST))
  const writing = ref(false)
  /** The copy in the second pane. */
  const after = shallowRef<BodySpec[] | null>(null)
  const turn = turns()

  const {
    found,
    error: trouble,
    trying,
    schedule,
    end,
  } = useLook<Schemas['ShareView']>(
    () => {
      const view = doc.view
      return view && open.value ? call('post', '/api/documents/{id}/share/look', { path: { id: view.id }, body: wish.value }) : null
    },
    (answer) => void show(answer),
  )
  async function show(view: Schemas['ShareView'] | null): Promise<void> {
    const newest = turn()
    if (!view) return
    try {
      const meshes = await Promise.all(view.leaves.map((l) => fetchMesh(l.key)))
      if (!newest() || !open.value) return
      after.value = view.leaves.map((l, i) => ({ id: l.id, mesh: meshes[i], colour: l.colour, matrix: l.matrix }))
      panes.shows = null
      panes.linked = true
      panes.open = true
      panes.captions = ['As it is', 'As outsiders see it']
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  function begin(): void {
    open.value = true
    schedule(0)
  }
  /** Other rules or settings; what they come to is looked at a little later. */
  function change(what: Partial<typeof FIRST>): void {
    wish.value = { ...wish.value, ...what }
    schedule(400)
  }
  const setRule = (n: number, what: Partial<Rule>): void =>
    change({ rules: wish.value.rules.map((r, k) => (k === n ? { ...r, ...what } : r)) })
  const addRule = (rule: Rule): void => change({ rules: [...wish.value.rules, rule] })
  const dropRule = (n: number): void => change({ rules: wish.value.rules.filter((_, k) => k !== n) })
  /** One component changed by hand: a rule that picks it, after all others. */
  function byHand(component: string, level: Level): void {
    const without = wish.value.rules
      .map((r) => (r.by === 'pick' ? { ...r, components: (r.components ?? []).filter((c) => c !== component) } : r))
      .filter((r) => r.by !== 'pick' || r.components?.length)
    const same = without.findIndex((r) => r.by === 'pick' && r.level === level)
    change({
      rules:
        same >= 0
          ? without.map((r, k) => (k === same ? { ...r, components: [...(r.components ?? []), component] } : r))
          : [...without, { by: 'pick', what: '', components: [component], level }],
    })
  }
  function take(id: string): void {
    const kept = doc.assembly?.shares?.find((s) => s.id === id)
    if (!kept) return
    name.value = kept.name
    change(structuredClone({ rules: kept.rules ?? [], level: kept.level ?? 'skin', small: kept.small ?? 3, looks: kept.looks ?? true }))
  }
  const kept = (): Promise<boolean> => doc.edit([{ do: 'keep_share', name: name.value.trim(), ...wish.value } as Command])
  /** Keep it, then write it; the file is looked through before it comes. */
  async function write(): Promise<void> {
    const view = doc.view
    if (!view || !name.value.trim() || !(await kept())) return
    writing.value = true
    trouble.value = null
    try {
      await download(`/api/documents/${view.id}/share.step?share=${encodeURIComponent(name.value.trim())}`)
      doc.say('The share copy was read again: nothing in it that should not be', 'good')
    } catch (error) {
      doc.refused(error)
      trouble.value = doc.failure
    } finally {
      writing.value = false
    }
  }
  function close(): void {
    turn.end()
    end()
    if (after.value) panes.close()
    after.value = null
    panes.captions = null
    open.value = false
  }
  watch(
    () => doc.view?.revision,
    () => open.value && schedule(0),
  )
  watch(
    () => panes.open,
    (shown) => !shown && after.value && close(),
  )
  return {
    open,
    name,
    wish,
    found,
    trouble,
    trying,
    writing,
    after,
    begin,
    change,
    setRule,
    addRule,
    dropRule,
    byHand,
    take,
    kept,
    write,
    close,
  }
})
