// The open assembly put together: where everything stands, driving, dragging, joining.
import { Pump, turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import type { StoredPick } from '../viewport/mesh'

export type AssemblyView = Schemas['AssemblyView']
type Placement = Schemas['PlacementView']
export interface End {
  component: string
  path: string[]
  pick: StoredPick
}

export const useAssembly = defineStore('assembly', () => {
  const doc = useDocument()
  const registries = useRegistries()
  const built = shallowRef<AssemblyView | null>(null)
  const building = ref(false)
  /** Poses while something is driven or dragged, before they are kept. */
  const live = shallowRef<Record<string, { matrix: number[]; placement: Placement }> | null>(null)
  /** Coordinates of joints as they stand, by joint and name (degrees or mm). */
  const values = shallowRef<Record<string, Record<string, number>>>({})
  const stopped = ref<string | null>(null)
  const selected = ref<string[]>([])
  /** How far some components reach along X (mm): the page knows what is drawn. */
  const widthOf = shallowRef<(ids: string[]) => number>(() => 60)
  const turn = turns()

  async function rebuild(): Promise<void> {
    const view = doc.view
    if (!view || view.kind !== 'assembly') return
    const newest = turn()
    building.value = true
    try {
      const found = await call('get', '/api/documents/{id}/assembly', { path: { id: view.id } })
      if (!newest()) return
      built.value = found
      live.value = null
      values.value = Object.fromEntries(found.joints.map((j) => [j.id, Object.fromEntries(j.coordinates.map((c) => [c.name, c.value]))]))
    } catch (error) {
      if (newest()) doc.refused(error)
    } finally {
      if (newest()) building.value = false
    }
  }

  function close(): void {
    built.value = null
    live.value = null
    selected.value = []
  }

  /** Column-major matrices of leaves as they stand now. */
  const matrices = computed(() => {
    const found = new Map<string, number[]>()
    for (const leaf of built.value?.leaves ?? []) {
      const moved = live.value?.[leaf.component]
      if (!moved) found.set(leaf.id, leaf.matrix)
      else {
        const base = built.value!.components.find((c) => c.id === leaf.component)!
        found.set(leaf.id, multiply(moved.matrix, multiply(inverseRigid(base.matrix), leaf.matrix)))
      }
    }
    return found
  })

  /** Ask where everything goes; only the newest wish is sent, one at a time. */
  const pump = new Pump<Partial<Schemas['DriveRequest']>>(send)
  const move = (wish: Partial<Schemas['DriveRequest']>): void => pump.wish(wish)
  async function send(wish: Partial<Schemas['DriveRequest']>): Promise<void> {
    const view = doc.view
    if (!view) return
    const placements = Object.fromEntries(Object.entries(live.value ?? {}).map(([id, m]) => [id, m.placement]))
    try {
      const found = await call('post', '/api/documents/{id}/drive', {
        path: { id: view.id },
        body: { revision: view.revision, placements, ...wish } as Schemas['DriveRequest'],
      })
      if (!found.holds) return
      live.value = Object.fromEntries(found.components.map((c) => [c.id, { matrix: c.matrix, placement: c.placement }]))
      values.value = { ...values.value, ...found.joints }
      stopped.value = found.stopped ?? null
    } catch (error) {
      doc.refused(error)
    }
  }

  /** Keep where things were dragged to. */
  async function keepPlaces(): Promise<void> {
    await pump.settled()
    const now = live.value
    if (!now) return
    const placements = Object.fromEntries(Object.entries(now).map(([id, m]) => [id, m.placement]))
    await doc.edit([{ do: 'place_components', placements }], 'move')
  }
  /** Keep a driven joint at its value, with everything where it went; what is held elsewhere and was
   * taken along is held where it came to. */
  async function keepValue(joint: string, coordinate: string, value: number): Promise<void> {
    await pump.settled()
    const placements = Object.fromEntries(Object.entries(live.value ?? {}).map(([id, m]) => [id, m.placement]))
    const commands: Command[] = [{ do: 'place_components', placements }]
    for (const j of doc.assembly?.joints ?? []) {
      const motions = { ...j.motions }
      let moved = false
      for (const c of built.value?.joints.find((x) => x.id === j.id)?.coordinates ?? []) {
        const mine = j.id === joint && c.name === coordinate
        const now = values.value[j.id]?.[c.name] ?? (mine ? value : c.value)
        if (!mine && (!motions[c.name]?.value || firm(j.kind) || Math.abs(now - c.value) < 5e-5)) continue
        motions[c.name] = { ...motions[c.name], value: `${Number(now.toFixed(4))} ${c.unit}` }
        moved = true
      }
      if (moved) commands.push({ do: 'edit_joint', id: j.id, fields: { motions } })
    }
    await doc.edit(commands, 'drive joint')
  }
  const firm = (kind: string): boolean => registries.found?.joints.find((k) => k.kind === kind)?.family === 'Condition'
  const coordinateOf = (joint: string, name?: string) =>
    built.value?.joints.find((j) => j.id === joint)?.coordinates.find((c) => !name || c.name === name)

  function show(frame: Record<string, Placement>): void {
    live.value = Object.fromEntries(Object.entries(frame).map(([id, p]) => [id, { placement: p, matrix: matrixOf(p) }]))
  }

  /** Copies of components with the joints among them, set down beside them and chosen. */
  async function copy(ids: string[]): Promise<void> {
    const known = new Set(doc.assembly?.components?.map((c) => c.id))
    const by = [Math.round(widthOf.value(ids) * 1.15 + 5), 0, 0]
    if (await doc.edit([{ do: 'copy_components', ids, by }], ids.length > 1 ? `copy ${ids.length} components` : 'copy'))
      selected.value = (doc.assembly?.components ?? []).map((c) => c.id).filter((id) => !known.has(id))
  }

  /** Show everything where it would be put. */
  function look(would: AssemblyView): void {
    live.value = Object.fromEntries(would.components.map((c) => [c.id, { matrix: c.matrix, placement: c.placement }]))
  }

  return {
    built,
    building,
    live,
    values,
    stopped,
    selected,
    matrices,
    rebuild,
    close,
    move,
    keepPlaces,
    keepValue,
    coordinateOf,
    show,
    look,
    copy,
    widthOf,
  }
})

export function matrixOf(p: Placement): number[] {
  const [w, x, y, z] = p.q
  return [
    1 - 2 * (y * y + z * z),
    2 * (x * y + z * w),
    2 * (x * z - y * w),
    0,
    2 * (x * y - z * w),
    1 - 2 * (x * x + z * z),
    2 * (y * z + x * w),
    0,
    2 * (x * z + y * w),
    2 * (y * z - x * w),
    1 - 2 * (x * x + y * y),
    0,
    p.p[0],
    p.p[1],
    p.p[2],
    1,
  ]
}

export function multiply(a: number[], b: number[]): number[] {
  const out = new Array<number>(16).fill(0)
  for (let c = 0; c < 4; c++) for (let r = 0; r < 4; r++) for (let k = 0; k < 4; k++) out[4 * c + r] += a[4 * k + r] * b[4 * c + k]
  return out
}

export function inverseRigid(m: number[]): number[] {
  const t = [m[12], m[13], m[14]]
  const column = (k: number): number[] => [m[4 * k], m[4 * k + 1], m[4 * k + 2]]
  const dot = (a: number[], b: number[]): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  return [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, -dot(column(0), t), -dot(column(1), t), -dot(column(2), t), 1]
}
