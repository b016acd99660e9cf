// A step looked at before and after: two panes, the added and removed material coloured.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'
import { usePanes } from '../viewport/panes'
import { volume } from '../ui/units'

export const TONES = { added: '#2f8f5b', removed: '#b5483b' }

export const useCompare = defineStore('compare', () => {
  const doc = useDocument()
  const panes = usePanes()
  const step = ref<string | null>(null)
  const found = shallowRef<Schemas['ChangeView'] | null>(null)
  const before = shallowRef<BodySpec[] | null>(null)
  const after = shallowRef<BodySpec[] | null>(null)
  const turn = turns()

  const sum = (sign: 'added' | 'removed'): number =>
    (found.value?.pieces ?? []).filter((p) => p.sign === sign).reduce((whole, p) => whole + p.volume, 0)
  /** What a pane says of its pieces; a piece the kernel could not make is known by its volume only. */
  const said = (sign: 'added' | 'removed', mark: string): string => {
    const v = sum(sign)
    const unseen = (found.value?.pieces ?? []).some((p) => p.sign === sign && !p.key)
    return v > 0 ? ` · ${mark}${volume(v)}${unseen ? ' (not drawn)' : ''}` : ''
  }
  const name = computed(() => doc.part?.steps?.find((s) => s.id === step.value)?.name ?? '')
  const captions = computed(() => (before.value ? [`Before ${name.value}${said('removed', '−')}`, `After${said('added', '+')}`] : null))

  async function load(): Promise<void> {
    const id = doc.view?.id
    if (!step.value || !id) return
    const newest = turn()
    try {
      const change = await call('get', '/api/documents/{id}/steps/{step}/change', { path: { id, step: step.value } })
      const state = (list: Schemas['BodyStateView'][]): Promise<BodySpec[]> =>
        Promise.all(list.map(async (b) => ({ id: b.id, mesh: await fetchMesh(b.key), colour: b.colour, opacity: 0.32 })))
      const pieces = (sign: 'added' | 'removed'): Promise<BodySpec[]> =>
        Promise.all(
          change.pieces
            .filter((p) => p.sign === sign && p.key)
            .map(async (p) => ({ id: `${sign}:${p.body}`, mesh: await fetchMesh(p.key!), colour: TONES[sign], lifted: true })),
        )
      const [b, a, gone, come] = await Promise.all([state(change.before), state(change.after), pieces('removed'), pieces('added')])
      if (!newest()) return
      found.value = change
      before.value = [...b, ...gone]
      after.value = [...a, ...come]
      panes.shows = null
      panes.linked = true
      panes.open = true
    } catch (error) {
      if (newest()) close()
      doc.refused(error)
    }
  }
  async function look(id: string): Promise<void> {
    step.value = id
    await load()
  }
  function close(): void {
    turn.end()
    step.value = null
    found.value = before.value = after.value = null
  }
  watch(
    () => doc.build,
    () => step.value && void load(),
  )
  watch(() => doc.view?.id, close)
  watch(
    () => panes.open,
    (open) => !open && close(),
  )
  watch(
    () => panes.shows,
    (shows) => shows && close(),
  )
  watch(captions, (c) => (panes.captions = c))
  return { step, before, after, captions, look, close, volume }
})
