// What was handed out of the members of a document: files, and documents of their own that follow them.
import { computed, shallowRef, watch } from 'vue'
import { call, saveAs, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { useDocument } from '../document/store'

export type Handed = Schemas['HandedRowView']

/** Follows the open document. */
export function useHanded() {
  const doc = useDocument()
  const rows = shallowRef<Handed[]>([])
  const turn = turns()
  async function refresh(): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    const newest = turn()
    try {
      const found = await call('get', '/api/documents/{id}/members/handed', { path: { id } })
      if (newest()) rows.value = found.rows
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  watch(() => [doc.view?.id, doc.view?.revision, doc.touched], refresh, { immediate: true })

  async function write(form: string, chosen: string[]): Promise<void> {
    await saveAs(`/api/documents/${doc.view?.id}/members/files`, { form, rows: chosen }).catch(doc.refused)
    await refresh()
  }
  /** Have rows as documents of their own that follow this one. */
  async function standAlone(chosen: string[]): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    try {
      const made = await call('post', '/api/documents/{id}/members/documents', { path: { id }, body: { rows: chosen } })
      const count = Object.keys(made.documents).length
      doc.say(
        `${count} ${count === 1 ? 'variant is a document of its own' : 'variants are documents of their own'} now: they follow this one`,
        'good',
      )
    } catch (error) {
      doc.refused(error)
    }
    await refresh()
  }
  const of = (row: string | null): Handed | undefined => rows.value.find((r) => r.row === row)
  const any = computed(() => rows.value.some((r) => r.files.length || r.documents.length))
  /** Rows with an old file of a form. */
  const oldOf = (form: string): string[] => rows.value.filter((r) => r.files.some((f) => f.old && f.form === form)).map((r) => r.row ?? '')
  const oldForms = computed(() => [...new Set(rows.value.flatMap((r) => r.files.filter((f) => f.old).map((f) => f.form)))])
  const old = computed(() => oldForms.value.flatMap(oldOf))
  return { of, any, old, oldOf, oldForms, write, standAlone }
}
