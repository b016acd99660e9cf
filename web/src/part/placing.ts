// Where a sketch lies: choosing its plane, opening it, and looking straight at it.
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { useDocument } from '../document/store'
import { extent } from '../sketch/model'
import { useSketch } from '../sketch/store'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { pickAt, type StoredPick } from '../viewport/mesh'
import { useEdited } from './edited'

export interface PlaneField {
  base: string | null
  face: StoredPick | null
  plane?: string
  edge?: StoredPick
  angle?: { formula: string }
}

export interface Placing {
  choosing: Ref<boolean>
  /** Steps a sketch may lie on. */
  planes: ComputedRef<{ id: string; name: string }[]>
  begin: (plane: PlaneField) => Promise<void>
  /** A sketch on a plane through a straight edge, at a right angle to the flat face beside it;
   * false where there is no such plane. */
  throughEdge: (mark: { body: string; index: number }, edge: StoredPick) => Promise<boolean>
  open: (id: string, fresh?: boolean) => Promise<void>
  face: () => void
}

export function usePlacing(engine: Ref<Engine | null>, bodies: ComputedRef<BodySpec[]>, unpick: () => void): Placing {
  const doc = useDocument()
  const edited = useEdited()
  const sketch = useSketch()
  const choosing = ref(false)
  const planes = computed(() =>
    (doc.part?.steps ?? [])
      .slice(0, doc.part?.marker ?? undefined)
      .filter((s) => ['plane', 'frame', 'port'].includes(s.kind) && !s.asleep)
      .map((s) => ({ id: s.id, name: s.name })),
  )

  async function begin(plane: PlaneField): Promise<void> {
    choosing.value = false
    unpick()
    const known = new Set(doc.part?.steps.map((s) => s.id))
    if (!(await doc.edit([{ do: 'add_step', kind: 'sketch', fields: { plane } }]))) return
    const made = doc.part?.steps.find((s) => !known.has(s.id))
    if (made) await open(made.id, true)
  }

  async function throughEdge(mark: { body: string; index: number }, edge: StoredPick): Promise<boolean> {
    const topology = bodies.value.find((b) => b.id === mark.body)?.mesh.topology
    const found = topology?.edges[mark.index]
    const flat = found?.faces.find((f: number) => topology!.faces[f].kind === 'plane')
    if (!topology || found?.kind !== 'line' || flat === undefined) return false
    await begin({ base: null, face: pickAt(topology, mark.body, 'face', flat), edge, angle: { formula: '90 deg' } })
    return true
  }

  async function open(id: string, fresh = false): Promise<void> {
    edited.discard()
    unpick()
    await sketch.start(id, fresh)
    face()
  }

  let goBack: (() => void) | null = null
  watch(
    () => sketch.open,
    (now) => {
      if (now) return
      goBack?.()
      goBack = null
    },
  )

  function face(): void {
    const f = sketch.frame
    const e = engine.value
    if (!f || !e) return
    const stood = e.camera.stand()
    goBack ??= () => e.camera.go(stood)
    const V = e.camera.target.constructor as typeof import('three').Vector3
    const box = e.box()
    const size = box.isEmpty() ? 150 : box.getSize(new V()).length() * 1.15
    const at = new V(...f.origin)
    const z = new V(...f.z)
    const up = new V(...f.y)
    // What is drawn already decides how near one looks; an empty sketch shows the whole body.
    const drawn = extent(sketch.drawing)
    if (drawn) {
      at.addScaledVector(new V(...f.x), drawn.middle[0]).addScaledVector(up, drawn.middle[1])
      e.camera.face(z, up, at, Math.max(drawn.size * 1.7, 10))
      return
    }
    if (!box.isEmpty()) {
      const c = box.getCenter(new V())
      at.copy(c.sub(z.clone().multiplyScalar(c.clone().sub(at).dot(z))))
    }
    e.camera.face(z, up, at, Math.max(size, 40))
  }

  return { choosing, planes, begin, throughEdge, open, face }
}
