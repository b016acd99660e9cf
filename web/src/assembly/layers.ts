// What a click in the picture of an assembly means: the ends of a joint, a check or a reading being
// picked, or choosing components, each a layer over the page.
import type { ComputedRef, Ref } from 'vue'
import { useChecks } from '../checks/store'
import { useMeasuring } from '../measure/store'
import { type Layer, Stack } from '../shell/layers'
import type { Verb } from '../shell/VerbRail.vue'
import type { BodySpec, Hit } from '../viewport/body'
import type { Mark } from '../viewport/engine'
import { mass } from '../ui/format'
import { findPick, pickAt } from '../viewport/mesh'
import { useDocument } from '../document/store'
import { useCopying } from './copying'
import { useFit } from './fit'
import { makerOf } from './copyNames'
import { useHardware } from './hardware'
import { useMaking } from './inplace'
import { SIDES, useJoining } from './joining'
import { usePorts } from './ports'
import { useMoving } from './moving'
import { useRuns } from './runs'
import { useReplacing } from './replacing'
import { useSharing } from './sharing'
import { type End, useAssembly } from './store'

/** Keys of the tools while nothing is open. */
const KEYS: Record<string, string> = { j: 'join:any', p: 'place', c: 'copy:row', g: 'group', h: 'hardware', n: 'in-place', v: 'move' }

export const componentOf = (leaf: string): string => leaf.split('/')[0]

export function useAssemblyLayers(
  bodies: ComputedRef<BodySpec[]>,
  { placing, waiting, clash }: Record<'placing' | 'waiting' | 'clash', Ref<unknown | null>>,
  verbs: ComputedRef<Verb[]>,
  tool: (key: string) => Promise<void>,
): Stack {
  const asm = useAssembly()
  const doc = useDocument()
  const joining = useJoining()
  const copying = useCopying()
  const hardware = useHardware()
  const replacing = useReplacing()
  const ports = usePorts()
  const making = useMaking()
  const moving = useMoving()
  const sharing = useSharing()
  const runs = useRuns()
  const overlaps = useFit()
  const checks = useChecks()
  const measuring = useMeasuring()

  function endOf(hit: Hit): End | null {
    const leaf = asm.drawn?.leaves.find((l) => l.id === hit.body)
    const spec = bodies.value.find((b) => b.id === hit.body)
    if (!leaf || !spec) return null
    return { component: leaf.component, path: leaf.path, pick: pickAt(spec.mesh.topology, leaf.body, hit.kind, hit.index) }
  }
  function markOf(end: End | null): Mark[] {
    const pick = end?.pick
    if (!end || !pick) return []
    const leaf = asm.drawn?.leaves.find((l) => l.component === end.component && l.body === pick.body && l.path.join() === end.path.join())
    const spec = bodies.value.find((b) => b.id === leaf?.id)
    const index = spec ? findPick(spec.mesh.topology, pick) : -1
    return spec && index >= 0 ? [{ body: spec.id, kind: pick.kind as Mark['kind'], index }] : []
  }

  /** An end on a component itself: what holds a copy is what holds its original. */
  function own(hit: Hit): End | null {
    const end = endOf(hit)
    if (!end || !makerOf(end.component)) return end
    doc.say('A copy goes with its original: pick that, or make the copies components of their own', 'bad')
    return null
  }

  const amount = (n: number): string | null => (n ? `${n} ${n === 1 ? 'component' : 'components'}` : null)
  /** All faces of some components. */
  const whole = (ids: string[]): Mark[] =>
    bodies.value
      .filter((b) => ids.includes(componentOf(b.id)))
      .flatMap((b) => b.mesh.topology.faces.map((_, index) => ({ body: b.id, kind: 'face' as const, index })))

  const join: Layer = {
    name: 'join',
    open: () => joining.open,
    wanted: () => 'any',
    marks: () => SIDES.flatMap((side) => markOf(joining.ends[side])),
    counted: () => null,
    pick(hit) {
      const end = hit && own(hit)
      if (end) joining.take(end)
    },
    active: () => `join:${joining.kindName ?? 'any'}`,
    leave: () => joining.discard(),
    unkept: () => joining.ends.a !== null && joining.ends.b !== null,
    help: () => 'assembly:joints',
    alone: () => true,
  }
  const copy: Layer = {
    name: 'copy',
    open: () => copying.open,
    wanted: () => (copying.next === 'components' ? 'face' : 'any'),
    marks: () => [...markOf(copying.of), ...whole(copying.components)],
    counted: () => amount(copying.components.length),
    pick(hit) {
      const end = hit && own(hit)
      if (end) copying.take(end)
    },
    active: () => `copy:${copying.kindName}`,
    leave: () => copying.discard(),
    unkept: () => copying.components.length > 0,
    help: () => 'assembly:copies',
    alone: () => true,
  }
  const fasten: Layer = {
    name: 'hardware',
    open: () => hardware.open,
    wanted: () => 'edge',
    marks: () => markOf(hardware.end),
    counted: () => null,
    pick(hit) {
      const end = hit && own(hit)
      if (end) hardware.take(end)
    },
    active: () => 'hardware',
    leave: () => hardware.discard(),
    unkept: () => hardware.found !== null,
    help: () => 'assembly:hardware',
    alone: () => true,
  }
  const make: Layer = {
    name: 'in-place',
    open: () => making.open,
    wanted: () => 'any',
    marks: () => markOf(making.origin),
    counted: () => null,
    pick(hit) {
      const end = hit && own(hit)
      if (end) making.origin = end
    },
    active: () => 'in-place',
    leave: () => making.discard(),
    unkept: () => making.origin !== null,
    help: () => 'topic:assemblies',
    alone: () => true,
  }
  const fit: Layer = {
    name: 'ports',
    open: () => ports.component !== null,
    leave: () => ports.discard(),
    help: () => 'topic:assemblies',
  }
  const replace: Layer = {
    name: 'replace',
    open: () => replacing.component !== null,
    leave: () => replacing.discard(),
    unkept: () => replacing.found !== null,
    help: () => 'topic:assemblies',
  }
  const place: Layer = {
    name: 'place',
    open: () => placing.value !== null,
    wanted: () => (waiting.value ? 'any' : 'face'),
    leave: () => (placing.value = null),
  }
  const share: Layer = {
    name: 'share',
    open: () => sharing.open,
    leave: () => sharing.close(),
    help: () => 'topic:assemblies',
  }
  const run: Layer = {
    name: 'run',
    open: () => runs.draft !== null,
    wanted: () => (runs.asking && runs.asking !== 'watch' ? 'any' : 'face'),
    marks: () => (runs.half ? whole([componentOf(runs.half)]) : (runs.draft?.traced ?? []).flatMap((t) => markOf(t.at))),
    counted: () => null,
    pick(hit) {
      const end = hit && runs.asking ? (runs.asking === 'watch' ? endOf(hit) : own(hit)) : null
      if (end) runs.take(end)
    },
    active: () => 'run',
    leave: () => runs.discard(),
    unkept: () => true,
    help: () => 'topic:runs',
    alone: () => runs.asking !== null,
  }
  const check: Layer = {
    name: 'check',
    open: () => checks.picking,
    wanted: () => 'any',
    marks: () => checks.picked.flatMap((p) => markOf(p as unknown as End)),
    counted: () => null,
    pick(hit) {
      const end = hit && endOf(hit)
      if (end) checks.take(end as unknown as Record<string, unknown>)
    },
    alone: () => true,
  }
  const measure: Layer = {
    name: 'measure',
    open: () => measuring.on,
    wanted: () => 'any',
    marks: () => measuring.picks.flatMap((p) => markOf(p as unknown as End)),
    counted: () => null,
    pick(hit, add) {
      const end = hit && endOf(hit)
      if (end) measuring.take(end as unknown as Record<string, unknown>, add)
      else if (!add) measuring.picks = []
    },
    leave: () => measuring.stop(),
    alone: () => true,
  }
  const looking: Layer = {
    name: 'clash',
    open: () => clash.value !== null || overlaps.row !== null,
    leave() {
      clash.value = null
      overlaps.leave()
    },
  }
  const move: Layer = {
    name: 'move',
    open: () => moving.open,
    active: () => 'move',
    leave: () => moving.discard(),
    unkept: () => moving.turn !== 0 || moving.by.some((v) => v !== 0),
    help: () => 'topic:assemblies',
  }
  const choose: Layer = {
    name: 'assembly',
    open: () => true,
    wanted: () => 'face',
    marks: () => whole(asm.selected),
    counted() {
      const weight = (asm.built?.leaves ?? []).reduce((sum, l) => sum + (asm.selected.includes(l.component) ? l.mass : 0), 0)
      const words = amount(asm.selected.length)
      return words && weight > 0 ? `${words} · ${mass(weight)}` : words
    },
    pick(hit, add) {
      if (!hit) {
        if (!add) asm.selected = []
        return
      }
      const id = componentOf(hit.body)
      asm.selected = add ? (asm.selected.includes(id) ? asm.selected.filter((s) => s !== id) : [...asm.selected, id]) : [id]
    },
    verbs: () => verbs.value,
    key(event) {
      const wanted = KEYS[event.key.toLowerCase()]
      if (wanted) void tool(wanted)
      return wanted !== undefined
    },
  }
  return new Stack([join, copy, fasten, make, fit, replace, place, share, run, check, measure, looking, move, choose])
}
