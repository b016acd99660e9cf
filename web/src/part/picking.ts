// What a click in the picture of a part means, and what is marked there.
import { computed, watch, type ComputedRef, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { useChecks } from '../checks/store'
import { useDocument } from '../document/store'
import { useMeasuring } from '../measure/store'
import { useLinks } from '../sketch/links'
import { useSketch } from '../sketch/store'
import type { BodySpec, Hit } from '../viewport/body'
import type { Mark, Wanted } from '../viewport/engine'
import { findPick, makePick, type StoredPick } from '../viewport/mesh'
import { useDraft } from './draft'
import type { Placing } from './placing'
import { useShown } from './shown'

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

export function usePicking(picked: Ref<Picked[]>, { bodies, before, beneath }: Grounds, placing: Placing) {
  const doc = useDocument()
  const draft = useDraft()
  const sketch = useSketch()
  const links = useLinks()
  const checks = useChecks()
  const measuring = useMeasuring()
  const sees = useShown()

  const wanted = computed<Wanted>(() => {
    if (sketch.open) return sketch.tool === 'bring' ? links.wanted : 'none'
    if (placing.choosing.value || checks.picking) return 'any'
    if (!draft.open) return 'any'
    const asked = draft.asked
    if (['spots', 'numbers', 'bodies'].includes(asked?.type ?? '')) return 'face'
    return asked?.type === 'picks' || asked?.type === 'sized' ? (asked.accepts as Wanted) : 'none'
  })

  const faceKind = (m: Mark): string | undefined => bodies.value.find((b) => b.id === m.body)?.mesh.topology.faces[m.index]?.kind
  function pickOf(mark: Mark): StoredPick | null {
    const spec = (before.value ?? bodies.value).find((b) => b.id === mark.body)
    return spec ? makePick(spec.mesh.topology, mark.body, mark.kind, mark.index) : null
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

  async function linkTo(hit: Hit | null): Promise<void> {
    const spec = hit && beneath.value.find((b) => b.id === hit.body)
    if (!spec) return
    if (links.whole && links.takes.includes('body')) await links.bring({ body: hit.body })
    else await links.bring({ pick: makePick(spec.mesh.topology, hit.body, hit.kind, hit.index) as Schemas['Pick'] })
  }

  async function layPlane(hit: Hit | null): Promise<void> {
    const pick = hit && pickOf(hit)
    if (!pick) return
    if (hit.kind === 'edge') {
      if (!(await placing.throughEdge(hit, pick))) doc.say('A plane is laid through a straight edge beside a flat face', 'bad')
    } else if (faceKind(hit) === 'plane') await placing.begin({ base: null, face: pick })
    else doc.say('A sketch needs a flat face; that one is curved', 'bad')
  }

  function toStep(hit: Hit | null): void {
    const pick = hit && pickOf(hit)
    if (!pick || !draft.focus) return
    if (draft.asked?.type === 'spots') draft.addSpot(draft.focus, pick, hit.point.toArray())
    else if (draft.asked?.type === 'numbers') draft.leaveOut(draft.focus, pick)
    else if (draft.asked?.type === 'bodies') draft.toggleBody(hit.body)
    else draft.togglePick(pick)
  }

  async function onPick(hit: Hit | null, add: boolean): Promise<void> {
    if (sketch.open) return linkTo(hit)
    if (placing.choosing.value) return layPlane(hit)
    if (draft.open) return toStep(hit)
    if (!hit) {
      if (measuring.on && !add) measuring.picks = []
      if (!add) picked.value = []
      return
    }
    const pick = pickOf(hit)
    if (!pick) return
    if (checks.picking) return checks.take(pick as unknown as Record<string, unknown>)
    if (measuring.on) return measuring.take(pick as unknown as Record<string, unknown>, add)
    const mark: Mark = { body: hit.body, kind: hit.kind, index: hit.index }
    if (!add) picked.value = [{ pick, mark }]
    else if (picked.value.some((p) => same(p.mark, mark))) picked.value = picked.value.filter((p) => !same(p.mark, mark))
    else picked.value = [...picked.value, { pick, mark }]
  }

  function onBox(marks: Mark[], add: boolean): void {
    const found = marks.map((mark) => ({ pick: pickOf(mark)!, mark })).filter((p) => p.pick)
    if (draft.open && (draft.asked?.type === 'picks' || draft.asked?.type === 'sized'))
      draft.setFocused([...(add ? draft.focused : []), ...found.map((f) => f.pick)])
    else if (!draft.open) picked.value = add ? [...picked.value, ...found] : found
  }

  const marks = computed<Mark[]>(() => {
    if (draft.open && draft.asked?.type === 'bodies') return wholeOf((draft.fields[draft.asked.name] as string[] | undefined) ?? [])
    if (draft.open && draft.focus) return marksOf(draft.focused, before.value ?? bodies.value)
    if (checks.picking) return marksOf(checks.picked as unknown as StoredPick[])
    if (measuring.on) return marksOf(measuring.picks as unknown as StoredPick[])
    return picked.value.map((p) => p.mark)
  })
  /** What a candidate of a lost pick is, in the bodies as they are. */
  const looked = computed<Mark[]>(() => marksOf(sees.looked))

  watch(
    () => doc.build,
    () => (picked.value = []),
  )
  watch(picked, (now) => (sees.picked = now.map((p) => p.pick)))
  return { wanted, marks, looked, faceKind, onPick, onBox }
}
