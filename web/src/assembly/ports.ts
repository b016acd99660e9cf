// Where a component fits by its ports: the places looked at, one taken.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import { matrixOf, useAssembly } from './store'

type Place = Schemas['SnapView']

export const usePorts = defineStore('ports', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const component = ref<string | null>(null)
  const places = shallowRef<Place[]>([])
  const turn = turns()

  /** Look for places; `quiet` opens nothing where there are none. */
  async function begin(id: string, quiet = false): Promise<void> {
    discard()
    const view = doc.view
    if (!view) return
    const newest = turn()
    const found = await call('get', '/api/documents/{id}/assembly/ports', { path: { id: view.id }, query: { component: id } })
    if (!newest() || (quiet && !found.places.length)) return
    component.value = id
    places.value = found.places
  }
  /** Stand it there in the picture. */
  function look(place: Place | null): void {
    const id = component.value
    asm.live = place && id ? { [id]: { placement: place.placement, matrix: matrixOf(place.placement) } } : null
  }
  async function take(place: Place): Promise<void> {
    const id = component.value
    if (!id) return
    const commands = [{ do: 'place_components', placements: { [id]: place.placement } }, ...place.commands] as Command[]
    if (await doc.edit(commands, `fit ${place.title}`.slice(0, 80))) discard()
  }
  function discard(): void {
    turn.end()
    if (component.value) asm.live = null
    component.value = null
    places.value = []
  }
  return { component, places, begin, look, take, discard }
})
