// What the parameters drawer knows besides the document: uses, formula words, what a change would do.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Parameter, Refusal, type Schemas } from '../api/client'
import { type Command, useDocument } from '../document/store'

export interface Jump {
  kind: string
  id: string
}

export const useParameters = defineStore('parameters', () => {
  const doc = useDocument()
  const uses = shallowRef<Record<string, Schemas['UseView'][]>>({})
  const words = shallowRef<Schemas['FormulaWordView'][]>([])
  /** What the edit under way would do; a text where it cannot be done. */
  const foreseen = shallowRef<Schemas['ForeseenView'] | { refused: string } | null>(null)
  /** Values as the document was built last. */
  const values = shallowRef<Record<string, Schemas['ParameterView']>>({})
  /** Something to go to: pages watch it. */
  const jump = ref<Jump | null>(null)
  const parameters = computed<Parameter[]>(() => doc.view?.document.parameters ?? [])
  const turn = turns()
  let timer = 0

  watch(
    () => [doc.view?.id, doc.view?.revision],
    async () => {
      const id = doc.view?.id
      uses.value = {}
      if (!id) return
      try {
        const found = await call('get', '/api/documents/{id}/uses', { path: { id } })
        if (doc.view?.id === id) uses.value = found.uses
      } catch (error) {
        doc.refused(error)
      }
    },
    { immediate: true },
  )
  async function loadWords(): Promise<void> {
    if (!words.value.length) words.value = (await call('get', '/api/formula-words')).words
  }

  /** Ask, once typing pauses, what commands would do; null forgets it. */
  function foresee(commands: Command[] | null): void {
    window.clearTimeout(timer)
    const newest = turn()
    if (!commands) {
      foreseen.value = null
      return
    }
    timer = window.setTimeout(async () => {
      const id = doc.view?.id
      if (!id) return
      let found: typeof foreseen.value
      try {
        found = await call('post', '/api/documents/{id}/foresee', { path: { id }, body: { commands, upto: null } })
      } catch (error) {
        if (!(error instanceof Refusal)) throw error
        found = { refused: error.report.text }
      }
      if (newest()) foreseen.value = found
    }, 350)
  }

  /** Parameters whose value is outside its limits or cannot be worked out. */
  const troubled = computed(() =>
    Object.entries(values.value).flatMap(([name, v]) =>
      v.trouble ? [{ name, text: v.trouble.text, offers: v.trouble.offers ?? [] }] : [],
    ),
  )
  /** What uses those, by id. */
  const troubledUsers = computed(() => new Map(troubled.value.flatMap((t) => (uses.value[t.name] ?? []).map((u) => [u.id, t] as const))))
  /** An allowed value in place of one that is not. */
  const take = (offer: { commands?: unknown[] | null }): Promise<boolean> => doc.edit((offer.commands ?? []) as Command[])
  return { take, uses, words, values, troubled, troubledUsers, foreseen, jump, parameters, loadWords, foresee }
})
