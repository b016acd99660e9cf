// A component being replaced by another document: what keeps holding it and what is to be mended,
// looked at before it is kept.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { call, Refusal, type Report, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { useDocument, useRegistries } from '../document/store'
import { useAssembly } from './store'

export const useReplacing = defineStore('replacing', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const registries = useRegistries()
  const component = ref<string | null>(null)
  const chosen = ref<string | null>(null)
  const documents = shallowRef<Schemas['DocumentLine'][]>([])
  const found = shallowRef<Schemas['ReplaceView'] | null>(null)
  const trouble = shallowRef<Report | null>(null)
  const trying = ref(false)
  const turn = turns()

  /** Documents of the project that can stand in the open assembly. */
  async function placeable(): Promise<Schemas['DocumentLine'][]> {
    const shelf = await call('get', '/api/shelf')
    const own = shelf.projects.find((p) => p.id === doc.view?.project)?.documents ?? []
    return own.filter((d) => registries.found?.documents.find((k) => k.kind === d.kind)?.placeable && d.id !== doc.view?.id)
  }
  async function begin(id: string): Promise<void> {
    discard()
    const now = doc.assembly?.components?.find((c) => c.id === id)?.document
    documents.value = (await placeable()).filter((d) => d.id !== now)
    component.value = id
  }
  async function choose(document: string): Promise<void> {
    const view = doc.view
    if (!view || !component.value) return
    chosen.value = document
    const newest = turn()
    trying.value = true
    try {
      const answer = await call('post', '/api/documents/{id}/assembly/replace/look', {
        path: { id: view.id },
        body: { component: component.value, document },
      })
      if (!newest()) return
      found.value = answer
      trouble.value = null
      asm.tried = answer.assembly
    } catch (problem) {
      if (!newest()) return
      trouble.value = problem instanceof Refusal ? problem.report : null
      found.value = null
      asm.tried = null
    } finally {
      if (newest()) trying.value = false
    }
  }
  async function keep(): Promise<boolean> {
    const view = doc.view
    if (!view || !component.value || !chosen.value || !found.value) return false
    const kept = await doc.answered(
      call('post', '/api/documents/{id}/assembly/replace', {
        path: { id: view.id },
        body: { component: component.value, document: chosen.value, base: view.revision },
      }),
    )
    if (kept) discard()
    else trouble.value = doc.failure
    return kept
  }
  function discard(): void {
    turn.end()
    if (component.value) asm.tried = null
    component.value = chosen.value = null
    found.value = trouble.value = null
    trying.value = false
  }
  return { component, chosen, documents, found, trouble, trying, placeable, begin, choose, keep, discard }
})
