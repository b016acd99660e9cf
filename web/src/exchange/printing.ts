// Printing: whether the panel is open, the places it points at, the mesh it shows.
import { defineStore } from 'pinia'
import { ref, shallowRef } from 'vue'
import { refusalOf } from '../api/client'
import { useDocument } from '../document/store'
import type { Triple } from '../viewport/mesh'

/** More triangles than this are a grey cloud, not a picture. */
const MOST = 150_000

export const usePrinting = defineStore('printing', () => {
  const doc = useDocument()
  const shown = ref(false)
  const places = shallowRef<Triple[]>([])
  /** Sides of triangles as pairs of points, in the part's own coordinates. */
  const mesh = shallowRef<Float32Array | null>(null)

  /** Show the triangles a file with this deviation would have. */
  async function preview(deviation: number): Promise<string> {
    const id = doc.view?.id
    if (!id) return ''
    const response = await fetch(`/api/documents/${id}/export.stl?deviation=${deviation}`)
    if (!response.ok) throw await refusalOf(response)
    const sides = sidesOf(await response.arrayBuffer())
    mesh.value = sides
    return sides ? '' : `More than ${MOST.toLocaleString('en')} triangles: too many to show`
  }
  function close(): void {
    shown.value = false
    places.value = []
    mesh.value = null
  }
  return { shown, places, mesh, preview, close }
})

/** Sides of the triangles of a binary STL file; null for too many. */
export function sidesOf(buffer: ArrayBuffer): Float32Array | null {
  const view = new DataView(buffer)
  const count = view.getUint32(80, true)
  if (count > MOST) return null
  const out = new Float32Array(count * 18)
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++)
      for (let c = 0; c < 3; c++) {
        const a = view.getFloat32(84 + 50 * i + 12 + 12 * k + 4 * c, true)
        const b = view.getFloat32(84 + 50 * i + 12 + 12 * ((k + 1) % 3) + 4 * c, true)
        out[18 * i + 6 * k + c] = a
        out[18 * i + 6 * k + 3 + c] = b
      }
  return out
}
