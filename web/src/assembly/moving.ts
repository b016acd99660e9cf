// Components moved by typed lengths and turns, looked at before it is kept.
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { type Command, useDocument } from '../document/store'
import { makerOf } from './copyNames'
import { matrixOf, type Placement, useAssembly } from './store'

export const useMoving = defineStore('moving', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const open = ref(false)
  const by = ref<[number, number, number]>([0, 0, 0])
  const turn = ref(0)
  const axis = ref<'X' | 'Y' | 'Z'>('Z')
  const chosen = computed(() =>
    asm.selected.filter((id) => !makerOf(id) && doc.assembly?.components?.some((c) => c.id === id && !c.anchored)),
  )
  const still = computed(() => asm.selected.filter((id) => doc.assembly?.components?.some((c) => c.id === id && c.anchored)))

  /** The middle of what is chosen: it turns about that. */
  function middle(): Vector3 {
    const ids = chosen.value
    const at = new Vector3()
    for (const id of ids) {
      const c = asm.built?.components.find((x) => x.id === id)
      if (c) at.add(new Vector3(c.matrix[12], c.matrix[13], c.matrix[14]))
    }
    return at.divideScalar(Math.max(ids.length, 1))
  }
  const placements = computed<Record<string, Placement>>(() => {
    const way = new Vector3(axis.value === 'X' ? 1 : 0, axis.value === 'Y' ? 1 : 0, axis.value === 'Z' ? 1 : 0)
    const spin = new Quaternion().setFromAxisAngle(way, (turn.value * Math.PI) / 180)
    const about = middle()
    const found: Record<string, Placement> = {}
    for (const id of chosen.value) {
      const c = asm.built?.components.find((x) => x.id === id)
      if (!c) continue
      const [p, q, s] = [new Vector3(), new Quaternion(), new Vector3()]
      new Matrix4().fromArray(c.matrix).decompose(p, q, s)
      p.sub(about)
        .applyQuaternion(spin)
        .add(about)
        .add(new Vector3(...by.value))
      q.premultiply(spin).normalize()
      found[id] = { p: [p.x, p.y, p.z], q: [q.w, q.x, q.y, q.z] } as Placement
    }
    return found
  })
  function look(): void {
    if (!open.value) return
    asm.live = Object.fromEntries(Object.entries(placements.value).map(([id, at]) => [id, { placement: at, matrix: matrixOf(at) }]))
  }
  function begin(): void {
    open.value = true
    by.value = [0, 0, 0]
    turn.value = 0
    look()
  }
  function set(k: number, value: number): void {
    by.value = by.value.map((v, i) => (i === k ? value : v)) as [number, number, number]
    look()
  }
  function rotate(degrees: number, about: 'X' | 'Y' | 'Z'): void {
    turn.value = degrees
    axis.value = about
    look()
  }
  /** Put them there; joints then pull back what they hold. */
  async function keep(): Promise<void> {
    if (!Object.keys(placements.value).length) return
    const command = { do: 'place_components', placements: placements.value } as Command
    if (await doc.edit([command], `move ${chosen.value.length === 1 ? 'a component' : `${chosen.value.length} components`}`)) discard()
  }
  function discard(): void {
    if (open.value) asm.live = null
    open.value = false
  }
  return { open, by, turn, axis, chosen, still, begin, look, set, rotate, keep, discard }
})
