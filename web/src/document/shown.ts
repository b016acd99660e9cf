// What of a document is shown: bodies or components hidden by hand, and candidates of a lost pick looked at.
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import type { Schemas } from '../api/client'
import { useDocument } from './store'
import type { StoredPick } from '../viewport/mesh'

export const useShown = defineStore('shown', () => {
  const doc = useDocument()
  /** Ids of bodies, in an assembly of components, left out of the picture. */
  const hidden = ref<Set<string>>(new Set())
  /** Of an assembly: components seen through, and what colours tell apart: `component`, `material`, or a
   * property as `=name`. */
  const faint = ref<Set<string>>(new Set())
  const colours = ref('component')
  /** What the lost pick of each step last stood for, as lines. */
  const ghosts = shallowRef<Record<string, Schemas['GhostView']['lines']>>({})
  /** Picks looked at while the pointer rests on their words. */
  const looked = shallowRef<StoredPick[]>([])
  /** What is picked while nothing is open: taken by tools that begin. */
  const picked = shallowRef<StoredPick[]>([])
  watch(
    () => doc.view?.id,
    () => {
      hidden.value = new Set()
      faint.value = new Set()
      colours.value = 'component'
      ghosts.value = {}
      looked.value = []
      picked.value = []
    },
  )
  function toggle(body: string): void {
    const next = new Set(hidden.value)
    if (!next.delete(body)) next.add(body)
    hidden.value = next
  }
  /** All but one left out; again brings all back. */
  function isolate(body: string): void {
    const others = (doc.build?.bodies ?? []).map((b) => b.id).filter((id) => id !== body)
    const alone = others.length > 0 && others.every((id) => hidden.value.has(id)) && !hidden.value.has(body)
    hidden.value = new Set(alone ? [] : others)
  }
  function haunt(step: string, lines: Schemas['GhostView']['lines']): void {
    ghosts.value = { ...ghosts.value, [step]: lines }
  }
  return { hidden, faint, colours, ghosts, haunt, looked, picked, toggle, isolate }
})
