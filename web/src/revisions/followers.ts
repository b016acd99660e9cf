// The documents that follow the open one: what a change, once kept, changes besides it.
import { defineStore } from 'pinia'
import { shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { useDocument } from '../document/store'

export const useFollowers = defineStore('followers', () => {
  const doc = useDocument()
  const found = shallowRef<Schemas['DocumentRefView'][]>([])
  const turn = turns()
  /** Asked for when an edit begins: others may have come to follow it meanwhile. */
  async function look(): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    const newest = turn()
    try {
      const { followers } = await call('get', '/api/documents/{id}/followers', { path: { id } })
      if (newest()) found.value = followers
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  watch(
    () => doc.view?.id,
    () => (found.value = []),
  )
  return { found, look }
})
