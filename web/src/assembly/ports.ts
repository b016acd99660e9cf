// Where a component fits by its ports: the places looked at, one taken.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import { matrixOf, useAssembly } from './store'

type Place = Schemas['SnapView']
/** How near (pixels) a dragged component is brought to a place before it goes there. */
const NEAR = 24

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
  /** Where what is being dragged fits, asked for once it is taken hold of. */
  const around = shallowRef<{ id: string; places: Place[] } | null>(null)
  async function lookAround(id: string): Promise<void> {
    around.value = null
    const view = doc.view
    if (!view) return
    const newest = turn()
    const found = await call('get', '/api/documents/{id}/assembly/ports', { path: { id: view.id }, query: { component: id } }).catch(
      () => null,
    )
    if (found && newest()) around.value = { id, places: found.places }
  }
  /** The places near to where a point of the dragged component (its own coordinates) is held, the nearest
   * first; `away` says how far a place in space is from there on the screen, in pixels. */
  function near(id: string, grip: readonly number[], away: (at: number[]) => number): Place[] {
    if (around.value?.id !== id) return []
    const off = (place: Place): number => {
      const m = matrixOf(place.placement)
      return away([0, 1, 2].map((i) => m[i] * grip[0] + m[4 + i] * grip[1] + m[8 + i] * grip[2] + m[12 + i]))
    }
    return around.value.places
      .map((place) => ({ place, off: off(place) }))
      .filter((x) => x.off < NEAR)
      .sort((x, y) => x.off - y.off)
      .map((x) => x.place)
  }
  /** Take the one place it was brought near to; of several the engineer chooses. */
  async function meet(id: string, found: Place[]): Promise<void> {
    component.value = id
    places.value = found
    look(found[0])
    if (found.length === 1) await take(found[0])
  }
  /** Stand it there in the picture. */
  function look(place: Place | null, id = component.value): void {
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
    around.value = null
  }
  return { component, places, around, begin, lookAround, near, meet, look, take, discard }
})
