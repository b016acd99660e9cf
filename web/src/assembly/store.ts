// The open assembly put together: where everything stands, driving, dragging, joining.
import { Pump, turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import type { StoredPick } from '../viewport/mesh'
import { makerOf, originalOf } from './copyNames'

export type AssemblyView = Schemas['AssemblyView']
export type Placement = Schemas['PlacementView']
export type ApartStep = Schemas['ApartStepView']
export interface End {
  component: string
  path: string[]
  /** None where a port or another datum of the part holds. */
  pick: StoredPick | null
  datum?: string
}

export const useAssembly = defineStore('assembly', () => {
  const doc = useDocument()
  const registries = useRegistries()
  const built = shallowRef<AssemblyView | null>(null)
  /** What would be built after an edit that is looked at: it stands in the picture meanwhile. */
  const tried = shallowRef<AssemblyView | null>(null)
  const building = ref(false)
  /** Poses while something is driven or dragged, before they are kept. */
  const live = shallowRef<Record<string, { matrix: number[]; placement: Placement }> | null>(null)
  /** Coordinates of joints as they stand, by joint and name (degrees or mm). */
  const values = shallowRef<Record<string, Record<string, number>>>({})
  const stopped = ref<string | null>(null)
  /** Whether dragging and driving stop where things meet, and what meets or is nearest. */
  const contact = ref(localStorage.getItem('vireo-contact') === 'on')
  const meets = shallowRef<Schemas['MeetView'] | null>(null)
  watch(contact, (on) => {
    localStorage.setItem('vireo-contact', on ? 'on' : 'off')
    meets.value = null
  })
  // What may meet is looked at before the first pull.
  watch([contact, built], ([on, found]) => {
    const view = doc.view
    if (!on || !found || !view || view.kind !== 'assembly') return
    const body = { revision: view.revision, contact: true, placements: {} } as Schemas['DriveRequest']
    void call('post', '/api/documents/{id}/drive', { path: { id: view.id }, body }).catch(() => undefined)
  })
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
      tried.value = null
      live.value = null
      meets.value = null
      values.value = valuesOf(found)
    } catch (error) {
      if (newest()) doc.refused(error)
    } finally {
      if (newest()) building.value = false
    }
  }

  function close(): void {
    built.value = tried.value = null
    live.value = null
    together()
    selected.value = []
  }

  /** What is drawn. */
  const drawn = computed(() => tried.value ?? built.value)
  /** Column-major matrices of leaves as they stand now. */
  const settled = computed(() => standing(drawn.value, live.value ?? {}))
  const matrices = computed(() => shifted(drawn.value, settled.value, shifts.value))
  /** What comes off at each step while it is looked at taken apart, and how far it is: 0 to 1. */
  const apart = shallowRef<ApartStep[]>([])
  const share = ref(0)
  /** Whether what is dragged comes off the view, and the assembly stays. */
  const byHand = ref(false)
  const isApart = computed(() => byHand.value || apart.value.length > 0)
  /** How far each component is off: one step after the other. */
  const shifts = computed(() => {
    const found = new Map<string, number[]>()
    apart.value.forEach((step, n) => {
      const done = Math.min(Math.max(share.value * apart.value.length - n, 0), 1)
      if (done > 0)
        for (const id of step.components)
          found.set(
            id,
            step.by.map((v) => done * v),
          )
    })
    return found
  })

  /** Put what is taken apart together again. */
  function together(): void {
    apart.value = []
    share.value = 0
    byHand.value = false
  }

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
        body: { revision: view.revision, placements, contact: contact.value, ...wish } as Schemas['DriveRequest'],
      })
      if (!found.holds) return
      live.value = Object.fromEntries(found.components.map((c) => [c.id, { matrix: c.matrix, placement: c.placement }]))
      values.value = { ...values.value, ...found.joints }
      stopped.value = found.stopped ?? null
      meets.value = found.meets ?? null
    } catch (error) {
      doc.refused(error)
    }
  }

  /** Where everything went, and what is held elsewhere and was taken along: held where it came to. */
  function kept(driven?: { joint: string; coordinate: string; value: number }): Command[] {
    const placements = Object.fromEntries(Object.entries(live.value ?? {}).map(([id, m]) => [id, m.placement]))
    const commands: Command[] = [{ do: 'place_components', placements }]
    for (const j of doc.assembly?.joints ?? []) {
      const motions = { ...j.motions }
      let moved = false
      for (const c of built.value?.joints.find((x) => x.id === j.id)?.coordinates ?? []) {
        const mine = j.id === driven?.joint && c.name === driven.coordinate
        const now = values.value[j.id]?.[c.name] ?? (mine ? driven.value : c.value)
        if (!mine && (!motions[c.name]?.value || firm(j.kind) || Math.abs(now - c.value) < 5e-5)) continue
        motions[c.name] = { ...motions[c.name], value: `${Number(now.toFixed(4))} ${c.unit}` }
        moved = true
      }
      if (moved) commands.push({ do: 'edit_joint', id: j.id, fields: { motions } })
    }
    return commands
  }
  /** Keep where things were dragged to. */
  async function keepPlaces(): Promise<void> {
    await pump.settled()
    if (live.value) await doc.edit(kept(), 'move')
  }
  /** Keep a driven joint at its value, with everything where it went. */
  async function keepValue(joint: string, coordinate: string, value: number): Promise<void> {
    await pump.settled()
    await doc.edit(kept({ joint, coordinate, value }), 'drive joint')
  }
  const firm = (kind: string): boolean => registries.found?.joints.find((k) => k.kind === kind)?.family === 'Condition'
  const coordinateOf = (joint: string, name?: string) =>
    built.value?.joints.find((j) => j.id === joint)?.coordinates.find((c) => !name || c.name === name)

  /** Everything as it is kept. */
  function restore(): void {
    live.value = null
    if (built.value) values.value = valuesOf(built.value)
  }
  function show(frame: Record<string, Placement>): void {
    const outer = (id: string): number[] => {
      const [inner, top] = [matrixOf(frame[id]), id.split('/')[0]]
      return top === id ? inner : multiply(matrixOf(frame[top]), inner)
    }
    live.value = Object.fromEntries(Object.entries(frame).map(([id, placement]) => [id, { placement, matrix: outer(id) }]))
  }

  /** Copies of components with the joints among them, set down beside them and chosen. */
  async function copy(ids: string[]): Promise<void> {
    const known = new Set(doc.assembly?.components?.map((c) => c.id))
    ids = [...new Set(ids.map(originalOf))].filter((id) => known.has(id))
    const by = [Math.round(widthOf.value(ids) * 1.15 + 5), 0, 0]
    if (await doc.edit([{ do: 'copy_components', ids, by }], ids.length > 1 ? `copy ${ids.length} components` : 'copy'))
      selected.value = (doc.assembly?.components ?? []).map((c) => c.id).filter((id) => !known.has(id))
  }

  function asTheyStand(ids: string[]): Command {
    const views = (built.value?.components ?? []).filter((c) => ids.includes(c.id))
    return { do: 'place_components', placements: Object.fromEntries(views.map((c) => [c.id, c.placement])) }
  }
  /** Have components move as one, as they stand now: where joints put them, not where they were put. */
  function group(ids: string[]): Promise<boolean> {
    return doc.edit([asTheyStand(ids), { do: 'group_components', components: ids }], `group ${ids.length} components`)
  }
  /** Put a component into a group, or out of the one it is in. */
  async function regroup(id: string, to: string | null): Promise<void> {
    const bunches = doc.assembly?.bunches ?? []
    const [from, into] = [bunches.find((b) => b.components.includes(id)), bunches.find((b) => b.id === to)]
    if (from?.id === into?.id) return
    const commands: Command[] = []
    if (into) {
      const components = [...into.components, id]
      commands.push(asTheyStand(components), { do: 'edit_group', id: into.id, components })
    } else if (from && from.components.length > 2)
      commands.push({ do: 'edit_group', id: from.id, components: from.components.filter((c) => c !== id) })
    else if (from) commands.push({ do: 'dissolve_group', id: from.id })
    if (commands.length) await doc.edit(commands, into ? `put into ${into.name}` : 'take out of its group')
  }
  /** Make an assembly of components, in their place. */
  async function gather(ids: string[]): Promise<void> {
    const view = doc.view
    if (!view) return
    const names = new Set(doc.assembly?.components?.map((c) => c.name))
    let name = `${view.document.name} group`.slice(0, 70)
    for (let n = 2; names.has(name); n++) name = `${view.document.name} group ${n}`.slice(0, 78)
    await doc.answered(
      call('post', '/api/documents/{id}/assembly/gather', { path: { id: view.id }, body: { base: view.revision, components: ids, name } }),
    )
  }
  async function dissolve(component: string): Promise<void> {
    const view = doc.view
    if (view)
      await doc.answered(
        call('post', '/api/documents/{id}/assembly/dissolve', { path: { id: view.id }, body: { base: view.revision, component } }),
      )
  }
  /** Copies become components of their own, where they stand. */
  async function freeCopies(id: string): Promise<void> {
    const placements: Record<string, Placement> = {}
    for (const leaf of built.value?.leaves ?? []) {
      if (makerOf(leaf.component) !== id || placements[leaf.component]) continue
      // Of a part the first body stands in the part as it was built; of an assembly the component does.
      const seat = seatOf(leaf)
      if (seat) placements[leaf.component] = placementOf(seat)
    }
    await doc.edit([{ do: 'free_copies', id, placements }], 'make components of copies')
  }
  /** Where the component a leaf of a copy belongs to stands: as its original does, by the motions. */
  function seatOf(leaf: Schemas['LeafView']): number[] | null {
    const original = built.value?.leaves.find(
      (l) => l.component === originalOf(leaf.component) && l.body === leaf.body && l.path.join() === leaf.path.join(),
    )
    const seat = built.value?.components.find((c) => c.id === originalOf(leaf.component))
    if (!original || !seat) return null
    return multiply(leaf.matrix, multiply(inverseRigid(original.matrix), seat.matrix))
  }

  /** Show everything where it would be put. */
  function look(would: AssemblyView): void {
    live.value = Object.fromEntries(would.components.map((c) => [c.id, { matrix: c.matrix, placement: c.placement }]))
  }

  return {
    built,
    tried,
    drawn,
    apart,
    share,
    byHand,
    isApart,
    together,
    shifts,
    settled,
    building,
    live,
    values,
    stopped,
    contact,
    meets,
    selected,
    matrices,
    rebuild,
    close,
    move,
    keepPlaces,
    keepValue,
    coordinateOf,
    show,
    restore,
    look,
    copy,
    group,
    regroup,
    gather,
    dissolve,
    freeCopies,
    widthOf,
  }
})

type Moved = Record<string, { matrix: number[] }>
/** Where leaves stand when some components were moved since they were built: each goes with its own,
 * a copy by its motion as that is carried along besides. Column-major matrices by leaf. */
export function standing(built: AssemblyView | null, moved: Moved): Map<string, number[]> {
  const found = new Map<string, number[]>()
  const solved = new Map(built?.components.map((c) => [c.id, c.matrix]))
  for (const leaf of built?.leaves ?? []) {
    const gone = moved[leaf.member] || leaf.carried.some((c) => c.about && moved[c.about])
    if (!gone) {
      found.set(leaf.id, leaf.matrix)
      continue
    }
    let before = solved.get(leaf.member)!
    let now = moved[leaf.member]?.matrix ?? before
    for (const { about, matrix } of leaf.carried) {
      const [was, is] = about ? [solved.get(about)!, moved[about]?.matrix ?? solved.get(about)!] : [STILL, STILL]
      before = multiply(matrix, before)
      const turned = multiply(is, inverseRigid(was))
      now = multiply(multiply(turned, multiply(matrix, inverseRigid(turned))), now)
    }
    // Motions may mirror; their inverse is still their transpose.
    found.set(leaf.id, multiply(now, multiply(inverseRigid(before), leaf.matrix)))
  }
  return found
}
/** Matrices of leaves with the components they belong to shifted; copies come off as their originals do,
 * the way they are turned. */
export function shifted(
  built: AssemblyView | null,
  matrices: Map<string, number[]>,
  shifts: ReadonlyMap<string, number[]>,
): Map<string, number[]> {
  if (!shifts.size) return matrices
  const found = new Map(matrices)
  for (const leaf of built?.leaves ?? []) {
    const by = shifts.get(originalOf(leaf.component))
    const at = matrices.get(leaf.id)
    if (!by || !at) continue
    let v = by
    for (const { matrix: m } of leaf.carried) v = [0, 1, 2].map((i) => m[i] * v[0] + m[4 + i] * v[1] + m[8 + i] * v[2])
    found.set(leaf.id, [...at.slice(0, 12), at[12] + v[0], at[13] + v[1], at[14] + v[2], 1])
  }
  return found
}
/** Coordinates of joints as they stand, by joint and name. */
const valuesOf = (built: AssemblyView): Record<string, Record<string, number>> =>
  Object.fromEntries(built.joints.map((j) => [j.id, Object.fromEntries(j.coordinates.map((c) => [c.name, c.value]))]))
const STILL = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]
/** The placement of a rigid matrix. */
export function placementOf(m: number[]): Placement {
  const [r00, r10, r20, r01, r11, r21, r02, r12, r22] = [m[0], m[1], m[2], m[4], m[5], m[6], m[8], m[9], m[10]]
  const four = [r00 + r11 + r22, r00 - r11 - r22, r11 - r00 - r22, r22 - r00 - r11]
  const k = four.indexOf(Math.max(...four))
  const s = 2 * Math.sqrt(1 + four[k])
  const q = [
    [s / 4, (r21 - r12) / s, (r02 - r20) / s, (r10 - r01) / s],
    [(r21 - r12) / s, s / 4, (r10 + r01) / s, (r02 + r20) / s],
    [(r02 - r20) / s, (r10 + r01) / s, s / 4, (r21 + r12) / s],
    [(r10 - r01) / s, (r02 + r20) / s, (r21 + r12) / s, s / 4],
  ][k] as Placement['q']
  return { p: [m[12], m[13], m[14]], q }
}

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
