// Parts made in place, seen from their assembly: one being made at a picked origin, and those that are
// out of date.
import { defineStore } from 'pinia'
import { ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { useDocument } from '../document/store'
import { router } from '../router'
import { type End, useAssembly } from './store'

type Status = Schemas['InPlaceView']

export const useMaking = defineStore('making', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const open = ref(false)
  const name = ref('')
  const origin = shallowRef<End | null>(null)
  /** Whether its axes are those of the pick; else they are the assembly's. */
  const turned = ref(false)
  const status = shallowRef<Status[]>([])
  /** What bringing one up to date would change, by component and step. */
  const looks = shallowRef<Record<string, Schemas['RenewedView']>>({})
  /** Whether all that take from neighbours are listed, not only those out of date. */
  const listed = ref(false)
  const turn = turns()

  function begin(): void {
    open.value = true
    origin.value = null
    const names = new Set(doc.assembly?.components?.map((c) => c.name))
    name.value = 'Part'
    for (let n = 2; names.has(name.value); n++) name.value = `Part ${n}`
  }
  function discard(): void {
    open.value = false
    origin.value = null
  }
  /** Make it, and go on in it. */
  async function keep(): Promise<void> {
    const view = doc.view
    if (!view || !name.value.trim()) return
    try {
      const made = await call('post', '/api/documents/{id}/in-place', {
        path: { id: view.id },
        body: { base: view.revision, name: name.value.trim(), origin: origin.value as Schemas['JointEnd'] | null, turned: turned.value },
      })
      discard()
      await edit(made.part, made.component)
    } catch (error) {
      doc.refused(error)
    }
  }
  /** Goes on in a part where it stands; `taking` begins what it takes from its neighbours. */
  const edit = (part: string, component: string, taking = false): Promise<unknown> =>
    router.push(`/d/${part}?in=${doc.view?.kind === 'assembly' ? doc.view.id : ''}.${component}${taking ? '&take' : ''}`)

  const keyOf = (s: Status): string => `${s.component} ${s.step}`
  async function refresh(): Promise<void> {
    const view = doc.view
    if (view?.kind !== 'assembly') return
    const newest = turn()
    try {
      const found = await call('get', '/api/documents/{id}/in-place', { path: { id: view.id } })
      if (!newest()) return
      status.value = found.parts
      looks.value = {}
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  watch(
    () => asm.built,
    (built) => (built ? void refresh() : (status.value = [])),
  )
  const ask = (s: Status) => ({ path: { id: doc.view!.id }, body: { component: s.component, step: s.step } })
  async function look(s: Status): Promise<void> {
    try {
      looks.value = { ...looks.value, [keyOf(s)]: await call('post', '/api/documents/{id}/in-place/look', ask(s)) }
    } catch (error) {
      doc.refused(error)
    }
  }
  async function renew(s: Status): Promise<void> {
    try {
      const done = await call('post', '/api/documents/{id}/in-place/renew', ask(s))
      for (const words of done.left) doc.say(words, 'bad')
      if (!done.left.length) doc.say(`${s.name} is up to date`, 'good')
      await asm.rebuild()
    } catch (error) {
      doc.refused(error)
    }
  }
  return { open, listed, name, origin, turned, status, looks, begin, discard, keep, edit, look, renew, keyOf, refresh }
})
