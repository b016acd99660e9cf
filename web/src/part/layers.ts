// What a click in the picture of a part means: the sketch, the question for a plane, the open step, a
// check or a reading being picked, or plain choosing, each a layer over the page.
import { computed, watch, type ComputedRef, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { useChecks } from '../checks/store'
import { useDocument, useRegistries } from '../document/store'
import { useShown } from '../document/shown'
import { useMeasuring } from '../measure/store'
import { type Layer, Stack } from '../shell/layers'
import { useLinks } from '../sketch/links'
import SketchPanel from '../sketch/SketchPanel.vue'
import { useSketch } from '../sketch/store'
import type { BodySpec } from '../viewport/body'
import type { Mark } from '../viewport/engine'
import { findPick, pickAt, type StoredPick } from '../viewport/mesh'
import BuildList from './BuildList.vue'
import { useEdited } from './edited'
import { useInPlace } from './inplace'
import type { Placing } from './placing'
import { useRail } from './rail'

export interface Picked {
  pick: StoredPick
  mark: Mark
}

export interface Grounds {
  bodies: ComputedRef<BodySpec[]>
  /** Bodies before the open step, where its picks are found. */
  before: Ref<BodySpec[] | null>
  /** Bodies before the open sketch, which it takes edges from. */
  beneath: Ref<BodySpec[]>
}

const same = (a: Mark, b: Mark): boolean => a.body === b.body && a.kind === b.kind && a.index === b.index

export function usePartLayers(
  picked: Ref<Picked[]>,
  { bodies, before, beneath }: Grounds,
  placing: Placing,
  tool: (key: string) => Promise<void>,
) {
  const doc = useDocument()
  const edited = useEdited()
  const sketch = useSketch()
  const links = useLinks()
  const checks = useChecks()
  const measuring = useMeasuring()
  const sees = useShown()
  const registries = useRegistries()
  const inplace = useInPlace()
  const rail = useRail(() => bodies.value.length > 0)

  const faceKind = (m: Mark): string | undefined => bodies.value.find((b) => b.id === m.body)?.mesh.topology.faces[m.index]?.kind
  function pickOf(mark: Mark): StoredPick | null {
    const spec = (before.value ?? bodies.value).find((b) => b.id === mark.body)
    return spec ? pickAt(spec.mesh.topology, mark.body, mark.kind, mark.index) : null
  }
  function marksOf(picks: StoredPick[], among: BodySpec[] = bodies.value): Mark[] {
    return picks.flatMap((p) => {
      const spec = p.kind && among.find((b) => b.id === p.body)
      const index = spec ? findPick(spec.mesh.topology, p) : -1
      return index >= 0 ? [{ body: p.body, kind: p.kind as Mark['kind'], index }] : []
    })
  }
  /** Every face of some bodies. */
  function wholeOf(ids: string[]): Mark[] {
    return (before.value ?? bodies.value)
      .filter((b) => ids.includes(b.id))
      .flatMap((b) => b.mesh.topology.faces.map((_, index): Mark => ({ body: b.id, kind: 'face', index })))
  }

  const SKETCH_KEYS: Record<string, string> = { d: 'dimension', g: 'construction', i: 'bring', m: 'measure' }
  const sketching: Layer = {
    name: 'sketch',
    open: () => sketch.open,
    wanted: () => (sketch.tool === 'bring' ? links.wanted : 'none'),
    async pick(hit) {
      const spec = hit && beneath.value.find((b) => b.id === hit.body)
      if (!spec) return
      if (links.whole && links.takes.includes('body')) await links.bring({ body: hit.body })
      else await links.bring({ pick: pickAt(spec.mesh.topology, hit.body, hit.kind, hit.index) as Schemas['Pick'] })
    },
    box: () => {},
    verbs: () => rail.sketch.value,
    active: () => (sketch.construction ? 'draw:construction' : `draw:${sketch.tool}`),
    panel: SketchPanel,
    key(event) {
      const k = event.shiftKey ? event.key.toUpperCase() : event.key.toLowerCase()
      const name = SKETCH_KEYS[k] ?? registries.found?.tools.find((t) => t.key === k)?.name
      if (name) void tool(`draw:${name}`)
      return name !== undefined
    },
    undo: () => sketch.undo(),
    redo: () => sketch.redo(),
    fit: () => placing.face(),
    unkept: () => sketch.past.length > 0,
    alone: () => true,
  }

  const plane: Layer = {
    name: 'plane',
    open: () => placing.choosing.value,
    wanted: () => 'any',
    async pick(hit) {
      const pick = hit && pickOf(hit)
      if (!pick) return
      if (hit.kind === 'edge') {
        if (!(await placing.throughEdge(hit, pick))) doc.say('A plane is laid through a straight edge beside a flat face', 'bad')
      } else if (faceKind(hit) === 'plane') await placing.begin({ base: null, face: pick })
      else doc.say('A sketch needs a flat face; that one is curved', 'bad')
    },
    active: () => 'sketch',
    leave: () => (placing.choosing.value = false),
  }

  const chosenBodies = (): string[] => (edited.asked && edited.holder.bodies?.(edited.fields[edited.asked.name])) ?? []
  const step: Layer = {
    name: 'step',
    open: () => edited.open,
    wanted: () => (edited.asked && edited.holder.wanted?.(edited.asked)) ?? 'none',
    marks() {
      if (edited.holder.around) return inplace.marks
      if (edited.holder.bodies) return wholeOf(chosenBodies())
      return edited.focus ? marksOf(edited.focused, before.value ?? bodies.value) : []
    },
    /** Whole bodies are counted as such, not by their faces. */
    counted() {
      const n = chosenBodies().length
      return n ? `${n} ${n === 1 ? 'body' : 'bodies'}` : null
    },
    async pick(hit) {
      if (edited.holder.around) return void (hit && (await inplace.take(hit)))
      const pick = hit && pickOf(hit)
      if (pick) edited.takeClick(pick, hit)
    },
    box(marks, add) {
      if (edited.holder.picks) edited.setFocused([...(add ? edited.focused : []), ...marks.map((m) => pickOf(m)!).filter(Boolean)])
    },
    active: () => edited.kindName,
    key(event) {
      if (event.key === 'Enter') void edited.keep()
      return event.key === 'Enter'
    },
    leave: () => edited.discard(),
    unkept: () => edited.touched,
    help: () => `step:${edited.kindName}`,
    alone: () => true,
  }

  const check: Layer = {
    name: 'check',
    open: () => checks.picking,
    wanted: () => 'any',
    marks: () => marksOf(checks.picked as unknown as StoredPick[]),
    pick(hit) {
      const pick = hit && pickOf(hit)
      if (pick) checks.take(pick as unknown as Record<string, unknown>)
    },
  }

  const measure: Layer = {
    name: 'measure',
    open: () => measuring.on,
    marks: () => marksOf(measuring.picks as unknown as StoredPick[]),
    pick(hit, add) {
      const pick = hit && pickOf(hit)
      if (pick) measuring.take(pick as unknown as Record<string, unknown>, add)
      else if (!add) measuring.picks = []
    },
    leave: () => measuring.stop(),
  }

  const choose: Layer = {
    name: 'part',
    open: () => true,
    wanted: () => 'any',
    marks: () => picked.value.map((p) => p.mark),
    pick(hit, add) {
      const pick = hit && pickOf(hit)
      if (!pick) {
        if (!add) picked.value = []
        return
      }
      const mark: Mark = { body: hit.body, kind: hit.kind, index: hit.index }
      if (!add) picked.value = [{ pick, mark }]
      else if (picked.value.some((p) => same(p.mark, mark))) picked.value = picked.value.filter((p) => !same(p.mark, mark))
      else picked.value = [...picked.value, { pick, mark }]
    },
    box(marks, add) {
      const found = marks.map((mark) => ({ pick: pickOf(mark)!, mark })).filter((p) => p.pick)
      picked.value = add ? [...picked.value, ...found] : found
    },
    verbs: () => rail.steps.value,
    panel: BuildList,
  }

  /** What a candidate of a lost pick is, in the bodies as they are. */
  const looked = computed<Mark[]>(() => marksOf(sees.looked))
  watch(
    () => doc.build,
    () => (picked.value = []),
  )
  watch(picked, (now) => (sees.picked = now.map((p) => p.pick)))
  return { stack: new Stack([sketching, plane, step, check, measure, choose]), looked, faceKind }
}
