// Checks of the open document: what they found, and a new one being made.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { listen } from '../api/events'
import { useDocument } from '../document/store'

export type CheckView = Schemas['CheckView']
type Ended = Record<string, unknown>

export const useChecks = defineStore('checks', () => {
  const doc = useDocument()
  const found = shallowRef<CheckView[]>([])
  const picking = ref(false)
  /** Picks for a new check: stored picks in a part, joint ends in an assembly. */
  const picked = shallowRef<Ended[]>([])
  let stop: (() => void) | null = null
  const turn = turns()

  const counts = computed(() => {
    const should = new Set(doc.view?.document.checks?.filter((c) => c.severity === 'should').map((c) => c.id))
    const wrong = found.value.filter((c) => c.state === 'fails' || c.state === 'trouble')
    return {
      holds: found.value.filter((c) => c.state === 'holds').length,
      fails: wrong.filter((c) => !should.has(c.id)).length,
      doubts: wrong.filter((c) => should.has(c.id)).length,
      stale: found.value.filter((c) => c.state === 'running' || c.state === 'old').length,
    }
  })

  async function refresh(): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    if (!doc.view?.document.checks?.length) {
      found.value = []
      return
    }
    const newest = turn()
    try {
      const answer = await call('get', '/api/documents/{id}/checks', { path: { id } })
      if (newest() && id === doc.view?.id) found.value = answer.checks
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  function open(): void {
    stop?.()
    stop = listen((news) => {
      // Run by themselves after a change elsewhere, or at the end of a run.
      if (news.kind === 'checks' && news.document === doc.view?.id) void refresh()
      if (news.kind === 'job' && news.document === doc.view?.id && news.state !== 'running' && news.state !== 'queued') void refresh()
    })
    void refresh()
  }
  function close(): void {
    stop?.()
    stop = null
    found.value = []
    picking.value = false
    picked.value = []
  }
  function take(pick: Ended): void {
    picked.value = [...picked.value, pick].slice(-2)
  }
  return { found, counts, picking, picked, refresh, open, close, take }
})
