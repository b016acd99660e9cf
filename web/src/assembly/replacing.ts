// A component being replaced by another document: what keeps holding it and what is to be mended,
// looked at before it is kept.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { useAssembly } from './store'
import { useLook } from './trial'

export const useReplacing = defineStore('replacing', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const registries = useRegistries()
  const component = ref<string | null>(null)
  const chosen = ref<string | null>(null)
  const documents = shallowRef<Schemas['DocumentLine'][]>([])
  const {
    found,
    error: trouble,
    trying,
    attempt,
    end,
  } = useLook<Schemas['ReplaceView']>(
    () => {
      const [view, id, document] = [doc.view, component.value, chosen.value]
      if (!view || !id || !document) return null
      return call('post', '/api/documents/{id}/assembly/replace/look', { path: { id: view.id }, body: { component: id, document } })
    },
    (answer) => (asm.tried = answer?.assembly ?? null),
  )

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
    chosen.value = document
    await attempt()
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
    end()
    if (component.value) asm.tried = null
    component.value = chosen.value = null
  }
  return { component, chosen, documents, found, trouble, trying, placeable, begin, choose, keep, discard }
})
