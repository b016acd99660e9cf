// The sketch being drawn: drawing, solution, own undo, selection, tool.
import { Pump } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, Refusal, type Constraint, type Drawing, type RegionView, type Report, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import {
  chainOf,
  constraint,
  constraints,
  dimensionFor,
  empty,
  entities,
  formOf,
  fragment,
  Ids,
  type Pair,
  paste,
  pointAt,
  remove,
  standsOn,
} from './model'
import { runsOf } from './paths'
import { typed } from '../ui/units'

type Solved = Schemas['SolvedView']
export type Brought = Schemas['Brought']
export type Underlay = Schemas['Underlay']
/** `select`, `dimension`, or the name of a tool in the registry. */
export type ToolName = string
export type Proposal = Schemas['ProposalView'] & { ticked: boolean }

export const useSketch = defineStore('sketch', () => {
  const doc = useDocument()
  const step = ref<string | null>(null)
  const fresh = ref(false)
  const drawing = shallowRef<Drawing>(empty())
  /** What links bring in from elsewhere, and the layouts lying under the sketch. */
  const brought = shallowRef<Brought[]>([])
  const underlays = shallowRef<Underlay[]>([])
  const solved = shallowRef<Solved | null>(null)
  const regions = shallowRef<RegionView[]>([])
  const gaps = shallowRef<Schemas['GapView'][]>([])
  /** How free curves run: the server draws them. */
  const free = computed(() => runsOf(solved.value?.curves ?? []))
  /** What would settle the sketch, shown until it is taken or left. */
  const proposals = ref<Proposal[] | null>(null)
  const motions = shallowRef<Schemas['MotionView'][]>([])
  const past = shallowRef<Drawing[]>([])
  const future = shallowRef<Drawing[]>([])
  const tool = ref<ToolName>('select')
  const construction = ref(false)
  const selected = ref<string[]>([])
  const refusal = shallowRef<{ report: Report; culprits: string[]; tried: Drawing } | null>(null)
  /** The dimension whose value is being typed. */
  const typing = ref<string | null>(null)
  const busy = ref(false)

  const open = computed(() => step.value !== null)
  const name = computed(() => doc.part?.steps.find((s) => s.id === step.value)?.name ?? 'Sketch')
  const frame = computed(() => doc.build?.steps.find((s) => s.id === step.value)?.sketch?.frame ?? null)

  async function start(id: string, isNew = false): Promise<void> {
    const found = doc.part?.steps.find((s) => s.id === id)
    if (!found) return
    step.value = id
    fresh.value = isNew
    past.value = []
    future.value = []
    selected.value = []
    refusal.value = null
    typing.value = null
    tool.value = isNew ? 'line' : 'select'
    drawing.value = ((found.fields as { drawing?: Drawing }).drawing ?? empty()) as Drawing
    const kept = found.fields as { brought?: Brought[]; underlays?: Underlay[] }
    brought.value = kept.brought ?? []
    underlays.value = kept.underlays ?? []
    solved.value = null
    const stored = localStorage.getItem(key(id))
    if (stored) {
      // An unfinished sketch of an earlier visit: nothing drawn is lost with the page.
      const left = JSON.parse(stored) as { drawing: Drawing; brought: Brought[]; underlays?: Underlay[] }
      past.value = [drawing.value]
      drawing.value = left.drawing
      brought.value = left.brought
      underlays.value = left.underlays ?? []
    }
    await settle(drawing.value)
  }

  const key = (id: string): string => `vireo-drawing-${doc.view?.id}-${id}`

  function stop(): void {
    if (step.value) localStorage.removeItem(key(step.value))
    step.value = null
    solved.value = null
    regions.value = []
    gaps.value = []
    proposals.value = null
    motions.value = []
    selected.value = []
  }

  async function ask(d: Drawing, pull: Record<string, Pair> = {}, full = true, edited: string | null = null): Promise<Solved> {
    return call('post', '/api/sketch/solve', { body: { document: doc.view!.id, drawing: d, pull, full, edited } })
  }

  async function settle(d: Drawing): Promise<boolean> {
    try {
      const found = await ask(d)
      solved.value = found
      if (found.holds) drawing.value = found.drawing
      void findRegions()
      return found.holds
    } catch (error) {
      doc.refused(error)
      return false
    }
  }

  async function findRegions(): Promise<void> {
    const d = drawing.value
    try {
      const found = await call('post', '/api/sketch/regions', { body: { document: doc.view!.id, drawing: d } })
      if (d !== drawing.value) return
      regions.value = found.regions
      gaps.value = found.gaps
    } catch {
      regions.value = []
    }
  }

  /** Try a changed drawing. When it does not hold nothing changes and the culprit is named. */
  async function apply(next: Drawing, edited: string | null = null): Promise<boolean> {
    if (next === drawing.value) return true
    busy.value = true
    refusal.value = null
    try {
      const found = await ask(next, {}, true, edited)
      proposals.value = null
      motions.value = []
      const added = constraints(next).filter((c) => !constraints(drawing.value).some((o) => o.id === c.id))
      const clash = found.culprits.filter((c) => added.some((a) => a.id === c))
      if (!found.holds || clash.length || found.troubles.length) {
        const names = clash.length ? clash : found.culprits
        const report = found.troubles[0] ?? {
          code: 'redundant',
          text: `${words(next, names[0])} says nothing new: ${others(next, found.loop, names[0])} already hold it`,
          where: [],
          offers: [],
        }
        refusal.value = {
          report,
          culprits: [...new Set([...names, ...found.loop])].filter((i) => constraints(next).some((c) => c.id === i)),
          tried: next,
        }
        return false
      }
      past.value = [...past.value, drawing.value].slice(-200)
      future.value = []
      drawing.value = found.drawing
      solved.value = found
      remember()
      void findRegions()
      return true
    } catch (error) {
      refusal.value = {
        report: error instanceof Refusal ? error.report : { code: 'internal', text: String(error), where: [], offers: [] },
        culprits: [],
        tried: next,
      }
      return false
    } finally {
      busy.value = false
    }
  }

  function words(d: Drawing, id: string | undefined): string {
    const c = constraints(d).find((x) => x.id === id)
    return c ? `${c.type.replace('_', ' ')} ${c.id}` : 'this'
  }
  const others = (d: Drawing, loop: string[], not: string | undefined): string =>
    loop
      .filter((i) => i !== not && constraints(d).some((c) => c.id === i))
      .slice(0, 4)
      .map((i) => words(d, i))
      .join(', ') || 'the others'

  function remember(): void {
    if (step.value)
      localStorage.setItem(key(step.value), JSON.stringify({ drawing: drawing.value, brought: brought.value, underlays: underlays.value }))
  }

  /** Keep what was refused, without one of the clashing constraints. */
  async function dropOne(id: string): Promise<void> {
    const r = refusal.value
    if (r) await apply(remove(r.tried, new Set([id])))
  }
  /** Keep a refused dimension as one that only reads out. */
  async function asReference(): Promise<void> {
    const r = refusal.value
    if (!r) return
    const known = new Set(constraints(drawing.value).map((c) => c.id))
    const next = constraints(r.tried).map((c) => (known.has(c.id) ? c : { ...c, reference: true }))
    await apply({ ...r.tried, constraints: next })
  }

  async function undo(): Promise<void> {
    const last = past.value.at(-1)
    if (!last) return
    future.value = [...future.value, drawing.value]
    past.value = past.value.slice(0, -1)
    await settle(last)
    remember()
  }
  async function redo(): Promise<void> {
    const next = future.value.at(-1)
    if (!next) return
    past.value = [...past.value, drawing.value]
    future.value = future.value.slice(0, -1)
    await settle(next)
    remember()
  }

  // Dragging: only the newest place is sent, one request at a time.
  const pump = new Pump<{ id: string; at: Pair }>(pullTo)
  let beforeDrag: Drawing | null = null
  /** Points of a curve that is dragged as a whole, where they were; where it was taken hold of. */
  let hung: Map<string, Pair> | null = null
  let grip: Pair = [0, 0]
  /** Pull a point or a rim to a place; other curves go along whole, by how far the pointer went. */
  function drag(id: string, at: Pair, from: Pair): void {
    if (!beforeDrag) {
      beforeDrag = drawing.value
      const e = entities(drawing.value).find((x) => x.id === id)
      const alone = !e || ['point', 'circle', 'arc'].includes(e.type)
      hung = alone
        ? null
        : new Map(
            standsOn(e)
              .filter((p) => formOf(drawing.value, p) === 'point')
              .map((p) => [p, pointAt(drawing.value, p)]),
          )
      grip = from
    }
    pump.wish({ id, at })
  }
  async function pullTo(now: { id: string; at: Pair }): Promise<void> {
    try {
      const by: Pair = [now.at[0] - grip[0], now.at[1] - grip[1]]
      const pull = hung ? Object.fromEntries([...hung].map(([p, q]) => [p, [q[0] + by[0], q[1] + by[1]] as Pair])) : { [now.id]: now.at }
      const found = await ask(drawing.value, pull, false)
      if (!found.holds) return
      drawing.value = found.drawing
      if (solved.value) solved.value = { ...solved.value, values: found.values, curves: found.curves }
    } catch {
      // The drawing stays as it was; letting go settles it and says what is wrong.
    }
  }
  async function dropped(): Promise<void> {
    await pump.settled()
    if (beforeDrag && beforeDrag !== drawing.value) {
      past.value = [...past.value, beforeDrag].slice(-200)
      future.value = []
      await settle(drawing.value)
      remember()
    }
    beforeDrag = null
  }

  function select(id: string | null, add: boolean): void {
    if (id === null) {
      if (!add) selected.value = []
      return
    }
    if (add) selected.value = selected.value.includes(id) ? selected.value.filter((s) => s !== id) : [...selected.value, id]
    else selected.value = [id]
  }

  async function constrain(type: string): Promise<void> {
    const ids = new Ids(drawing.value)
    const c = constraint(ids.next('k'), type, [...selected.value])
    if (await apply({ ...drawing.value, constraints: [...constraints(drawing.value), c] })) selected.value = []
  }

  async function dimension(on: string[], at: Pair | null, type?: string): Promise<void> {
    const kind = type ?? dimensionFor(drawing.value, on)
    if (!kind) return
    const id = new Ids(drawing.value).next('d')
    const c = constraint(id, kind, on, { at })
    const kept = await apply({ ...drawing.value, constraints: [...constraints(drawing.value), c] })
    if (kept) {
      selected.value = []
      typing.value = id
    }
  }

  async function setFormula(id: string, text: string): Promise<boolean> {
    typing.value = null
    const c = constraints(drawing.value).find((x) => x.id === id)
    if (!c) return false
    const formula = typed(text, c.type === 'angle' ? 'angle' : c.type === 'ratio' ? 'number' : 'length')
    if (!formula || formula === c.formula) return true
    return apply({ ...drawing.value, constraints: constraints(drawing.value).map((x) => (x.id === id ? { ...x, formula } : x)) }, id)
  }

  function moveLabel(id: string, at: Pair): void {
    drawing.value = { ...drawing.value, constraints: constraints(drawing.value).map((c) => (c.id === id ? { ...c, at } : c)) }
    remember()
  }

  /** Take an offered value for the size that was just refused. */
  async function takeOffer(offer: { fields?: Record<string, unknown> }): Promise<void> {
    const id = refusal.value?.report.where?.find((w) => w.startsWith('constraint:'))?.slice(11)
    if (id && typeof offer.fields?.formula === 'string') await setFormula(id, offer.fields.formula)
  }
  async function toggleReference(id: string): Promise<void> {
    await apply({
      ...drawing.value,
      constraints: constraints(drawing.value).map((c) => (c.id === id ? { ...c, reference: !c.reference } : c)),
    })
  }

  type Plane = { edge?: unknown; offset?: { formula: string } | null; angle?: { formula: string } | null }
  /** The plane: how far the sketch lies off it, the angle it is turned by about an edge. */
  const plane = computed<Plane>(
    () => (doc.part?.steps.find((s) => s.id === step.value)?.fields as { plane?: Plane } | undefined)?.plane ?? {},
  )
  async function setPlane(field: 'offset' | 'angle', text: string): Promise<void> {
    const formula = typed(text, field === 'offset' ? 'length' : 'angle')
    const next = { ...plane.value, [field]: formula ? { formula } : null }
    await doc.edit([{ do: 'edit_step', id: step.value!, fields: { plane: next } }], `place ${name.value}`)
  }

  /** Take over a drawing that the server worked out and solved apart (links brought up to date). */
  async function renew(next: Drawing): Promise<void> {
    if (await settle(next)) remember()
  }

  // --- help
  async function propose(): Promise<void> {
    busy.value = true
    try {
      const found = await call('post', '/api/sketch/settle', { body: { document: doc.view!.id, drawing: drawing.value } })
      proposals.value = found.proposals.map((p) => ({ ...p, ticked: true }))
    } catch (error) {
      doc.refused(error)
    } finally {
      busy.value = false
    }
  }
  async function takeProposals(): Promise<void> {
    const taken = (proposals.value ?? []).filter((p) => p.ticked).map((p) => p.constraint as Constraint)
    if (taken.length) await apply({ ...drawing.value, constraints: [...constraints(drawing.value), ...taken] })
    proposals.value = null
  }
  async function wiggle(): Promise<void> {
    if (motions.value.length) {
      motions.value = []
      return
    }
    try {
      motions.value = (await call('post', '/api/sketch/motions', { body: { document: doc.view!.id, drawing: drawing.value } })).motions
    } catch (error) {
      doc.refused(error)
    }
  }

  // --- picking more
  function pickChain(id: string): void {
    selected.value = chainOf(drawing.value, id)
  }
  function pickAlike(): void {
    const first = entities(drawing.value).find((e) => e.id === selected.value[0])
    if (!first) return
    selected.value = entities(drawing.value)
      .filter((e) => formOf(drawing.value, e.id) === formOf(drawing.value, first.id) && e.construction === first.construction)
      .map((e) => e.id)
  }
  const CLIPBOARD = 'vireo-sketch-clipboard'
  function copy(): void {
    if (selected.value.length) localStorage.setItem(CLIPBOARD, JSON.stringify(fragment(drawing.value, selected.value)))
  }
  /** Put in what was copied, here or in another sketch, with its lower left at a place. */
  async function putIn(at: Pair): Promise<void> {
    const text = localStorage.getItem(CLIPBOARD)
    if (!text) return
    const piece = JSON.parse(text) as Drawing
    const points = entities(piece)
      .filter((e) => e.type === 'point')
      .map((e) => pointAt(piece, e.id))
    if (!points.length) return
    const low: Pair = [Math.min(...points.map((p) => p[0])), Math.min(...points.map((p) => p[1]))]
    const { drawing: next, added } = paste(drawing.value, piece, [at[0] - low[0], at[1] - low[1]])
    if (await apply(next)) selected.value = added
  }

  async function erase(): Promise<void> {
    if (selected.value.length && (await apply(remove(drawing.value, new Set(selected.value))))) selected.value = []
  }
  async function toggleConstruction(): Promise<void> {
    const ids = new Set(selected.value)
    if (!ids.size) construction.value = !construction.value
    else
      await apply({
        ...drawing.value,
        entities: entities(drawing.value).map((e) => (ids.has(e.id) ? { ...e, construction: !e.construction } : e)),
      })
  }

  async function keep(): Promise<boolean> {
    const id = step.value
    if (!id) return false
    const kept = await doc.edit(
      [
        {
          do: 'edit_step',
          id,
          fields: {
            drawing: drawing.value,
            brought: brought.value.filter((b) => entities(drawing.value).some((e) => e.source === b.id)),
            underlays: underlays.value,
          },
        },
      ],
      `draw ${name.value}`,
    )
    if (kept) stop()
    return kept
  }
  async function discard(): Promise<void> {
    const id = step.value
    const unused = fresh.value
    stop()
    if (id && unused) await doc.edit([{ do: 'remove_step', id }], 'leave sketch')
  }

  return {
    plane,
    setPlane,
    brought,
    underlays,
    renew,
    remember,
    free,
    gaps,
    proposals,
    motions,
    propose,
    takeProposals,
    wiggle,
    pickChain,
    pickAlike,
    copy,
    putIn,
    takeOffer,
    toggleReference,
    step,
    open,
    name,
    frame,
    drawing,
    solved,
    regions,
    past,
    future,
    tool,
    construction,
    selected,
    refusal,
    typing,
    busy,
    start,
    stop,
    apply,
    dropOne,
    asReference,
    undo,
    redo,
    drag,
    dropped,
    select,
    constrain,
    dimension,
    setFormula,
    moveLabel,
    erase,
    toggleConstruction,
    keep,
    discard,
  }
})
