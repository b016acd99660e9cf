// A part open in its place in an assembly: what stands around it, what it takes from there, and
// whether that is still so.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { Matrix4 } from 'three'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { assemblyBodies } from '../document/bodies'
import { useDocument } from '../document/store'
import type { BodySpec, Hit } from '../viewport/body'
import type { Mark } from '../viewport/engine'
import { findPick, pickAt, type StoredPick } from '../viewport/mesh'
import { useEdited } from './edited'

/** What was taken of one body, as the step keeps it. */
export interface Taken {
  number: number
  component: string
  path: string[]
  solid: string
  title: string
  seen: { of: 'face' | 'edge'; called: string[]; look: StoredPick['witness'] }[]
  [more: string]: unknown
}
export interface Place {
  assembly: string
  component: string
}
const ASIDE = '~'

/** Where a page says its part stands: `<assembly>.<component>`. */
export function placeOf(said: unknown): Place | null {
  const [assembly, component] = typeof said === 'string' ? said.split('.') : []
  return assembly && component ? { assembly, component } : null
}
const picksOf = (t: Taken): StoredPick[] => t.seen.map((s) => ({ body: t.solid, kind: s.of, name: s.called, witness: s.look }))

export const useInPlace = defineStore('in-place', () => {
  const doc = useDocument()
  const edited = useEdited()
  const place = shallowRef<Place | null>(null)
  const name = ref('')
  const view = shallowRef<Schemas['AssemblyView'] | null>(null)
  /** What stands around the part, as it lies seen from it. */
  const around = shallowRef<BodySpec[]>([])
  const shown = ref(true)
  /** Clicks take bodies as a whole. */
  const whole = ref(false)
  const status = shallowRef<Schemas['InPlaceView'][]>([])
  const turn = turns()

  /** Faint, but while it is picked on. */
  const asking = computed(() => edited.open && Boolean(edited.holder.around))
  const drawn = computed(() => (asking.value ? around.value : shown.value ? around.value.map((b) => ({ ...b, ghost: true })) : []))
  const own = computed(() => status.value.filter((s) => s.component === place.value?.component))
  const stale = computed(() => own.value.some((s) => !s.fresh))

  async function load(at: Place | null): Promise<void> {
    const newest = turn()
    place.value = at
    if (!at) return close()
    try {
      const path = { id: at.assembly }
      const [document, built, found] = await Promise.all([
        call('get', '/api/documents/{id}', { path }),
        call('get', '/api/documents/{id}/assembly', { path }),
        call('get', '/api/documents/{id}/in-place', { path }),
      ])
      const stands = built.components.find((c) => c.id === at.component)
      if (!newest()) return
      if (!stands) throw new Error('This part no longer stands in that assembly')
      const back = new Matrix4().fromArray(stands.matrix).invert()
      const leaves = await assemblyBodies(built)
      if (!newest()) return
      name.value = document.document.name
      view.value = built
      status.value = found.parts
      around.value = leaves
        .filter((b) => b.id.split('/')[0] !== at.component)
        .map((b) => ({ ...b, id: ASIDE + b.id, matrix: back.clone().multiply(new Matrix4().fromArray(b.matrix!)).toArray() }))
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  function close(): void {
    turn.end()
    place.value = view.value = null
    around.value = []
    status.value = []
    name.value = ''
    whole.value = false
  }

  const taken = computed(() => (edited.fields.taken as Taken[] | undefined) ?? [])
  const leafOf = (body: string): Schemas['LeafView'] | undefined => view.value?.leaves.find((l) => ASIDE + l.id === body)
  const same = (t: Taken, l: Schemas['LeafView']): boolean =>
    t.component === l.component && t.solid === l.body && t.path.join('/') === l.path.join('/')

  /** A click on what stands around: taken, or given back. */
  async function take(hit: Hit): Promise<void> {
    const leaf = leafOf(hit.body)
    const spec = around.value.find((b) => b.id === hit.body)
    if (!leaf || !spec || !place.value) return
    if (hit.kind === 'vertex' && !whole.value) return doc.say('Faces and edges are taken, or whole bodies', 'bad')
    const of = whole.value ? null : (hit.kind as 'face' | 'edge')
    const before = taken.value.find((t) => same(t, leaf) && (of ? t.seen[0]?.of === of : !t.seen.length))
    let picks: StoredPick[] = []
    if (of) {
      const pick = pickAt(spec.mesh.topology, leaf.body, of, hit.index)
      const had = before ? picksOf(before) : []
      const is = had.findIndex((p) => findPick(spec.mesh.topology, p) === hit.index)
      picks = is >= 0 ? had.filter((_, i) => i !== is) : [...had, pick]
      if (!picks.length) return put(taken.value.filter((t) => t !== before))
    } else if (before) return put(taken.value.filter((t) => t !== before))
    try {
      const found = await call('post', '/api/documents/{id}/in-place/take', {
        path: { id: place.value.assembly },
        body: {
          component: place.value.component,
          wanted: [{ component: leaf.component, path: leaf.path, solid: leaf.body, picks: picks as Schemas['Pick'][] }],
        },
      })
      const number = before?.number ?? Math.max(-1, ...taken.value.map((t) => t.number)) + 1
      const fresh = { ...found.taken[0], number } as unknown as Taken
      put(before ? taken.value.map((t) => (t === before ? fresh : t)) : [...taken.value, fresh])
    } catch (error) {
      doc.refused(error)
    }
  }
  function put(now: Taken[]): void {
    edited.set('taken', now)
  }
  const leave = (one: Taken): void => put(taken.value.filter((t) => t !== one))

  /** What the open step has taken, in the picture. */
  const marks = computed<Mark[]>(() =>
    taken.value.flatMap((t) => {
      const leaf = view.value?.leaves.find((l) => same(t, l))
      const spec = leaf && around.value.find((b) => b.id === ASIDE + leaf.id)
      if (!spec) return []
      if (!t.seen.length) return spec.mesh.topology.faces.map((_, index): Mark => ({ body: spec.id, kind: 'face', index }))
      return picksOf(t).flatMap((p): Mark[] => {
        const index = findPick(spec.mesh.topology, p)
        return index >= 0 ? [{ body: spec.id, kind: p.kind as Mark['kind'], index }] : []
      })
    }),
  )
  /** The fields a new step begins with. */
  const begun = (): Record<string, unknown> => ({ document: place.value!.assembly, component: place.value!.component, taken: [] })

  return { place, name, view, around, asking, drawn, shown, whole, status, own, stale, taken, marks, load, close, take, leave, begun }
})
