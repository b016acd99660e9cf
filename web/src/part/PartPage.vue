<script setup lang="ts">
// A part: rail, view, build list, drawer. Chooses what is shown and what a click means.
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import { type BuildView, call, refusalOf, type Schemas, type Step } from '../api/client'
import { useChecks } from '../checks/store'
import { partBodies } from '../document/bodies'
import { useDocument, useRegistries } from '../document/store'
import type { Verb } from '../shell/VerbRail.vue'
import Workbench from '../shell/Workbench.vue'
import SketchPanel from '../sketch/SketchPanel.vue'
import { useLinks } from '../sketch/links'
import { extent } from '../sketch/model'
import { useSketch } from '../sketch/store'
import { keyName } from '../sketch/tool'
import type { BodySpec, Hit } from '../viewport/body'
import type { Engine, Mark, Wanted } from '../viewport/engine'
import { findPick, makePick, type StoredPick } from '../viewport/mesh'
import Icon from '../ui/Icon.vue'
import StartCard from '../ui/StartCard.vue'
import { aidLines, faultLines, ghostLines, measureLines } from './aids'
import BuildList from './BuildList.vue'
import { useCompare } from './compare'
import { useDraft } from './draft'
import { useShown } from './shown'
import { useMeasuring } from '../measure/store'
import { usePrinting } from '../exchange/printing'
import { useParameters } from '../parameters/store'
import { usePanes } from '../viewport/panes'

const ViewPane = defineAsyncComponent(() => import('../viewport/ViewPane.vue'))
const PlanePrompt = defineAsyncComponent(() => import('./PlanePrompt.vue'))
const RegionLayer = defineAsyncComponent(() => import('./RegionLayer.vue'))
const MeasureCard = defineAsyncComponent(() => import('../measure/MeasureCard.vue'))
const SketchLayer = defineAsyncComponent(() => import('../sketch/SketchLayer.vue'))

const props = defineProps<{ drawer: string | null }>()
const emit = defineEmits<{ drawer: [key: string | null]; engine: [engine: Engine] }>()
const doc = useDocument()
const draft = useDraft()
const sketch = useSketch()
const links = useLinks()
const checks = useChecks()
const registries = useRegistries()
const sees = useShown()
const measuring = useMeasuring()
const compare = useCompare()
const panes = usePanes()
const parameters = useParameters()
const printing = usePrinting()
watch(() => doc.view?.id, () => printing.close())
watch(() => parameters.jump, (jump) => {
  const step = jump?.kind === 'step' ? doc.part?.steps?.find((s) => s.id === jump.id) : undefined
  if (!step || sketch.open) return
  parameters.jump = null
  if (step.kind === 'sketch') void openSketch(step.id)
  else void draft.edit(step.id)
})
watch(() => draft.open || sketch.open || measuring.on, (busy) => busy && compare.close())

const engine = shallowRef<Engine | null>(null)
const tick = ref(0)
const choosingPlane = ref(false)
const picked = ref<{ pick: StoredPick; mark: Mark }[]>([])

// --- rail
const GROUP_ICON: Record<string, string> = { Sketch: 'sketch', Grow: 'extrude', Cut: 'cut', Edges: 'fillet', Faces: 'faces', Copy: 'copies', Refer: 'refer' }
const verbs = computed<Verb[]>(() => {
  if (sketch.open) return sketchVerbs.value
  const groups = new Map<string, Verb>()
  for (const k of registries.steps) {
    if (k.group === 'Hidden') continue
    const verb = groups.get(k.group) ?? { label: k.group, icon: GROUP_ICON[k.group] ?? k.icon, tools: [] }
    verb.tools.push({ key: k.kind, label: k.label, icon: k.icon, line: k.line })
    groups.set(k.group, verb)
  }
  const extrude = registries.kind('extrude')
  if (extrude) groups.get('Cut')?.tools.unshift({ key: 'extrude:cut', label: 'Cut with a profile', icon: 'extrude', line: 'Take away what regions of a sketch sweep' })
  const order = ['Sketch', 'Grow', 'Cut', 'Edges', 'Faces', 'Copy', 'Refer']
  const rank = (v: Verb): number => (order.includes(v.label) ? order.indexOf(v.label) : order.length)
  return [...groups.values()].sort((a, b) => rank(a) - rank(b))
})
/** Groups of sketch tools in the rail, each with the icon it shows. */
const SKETCH_GROUPS: [string, string][] = [['Line', 'line'], ['Box', 'rectangle'], ['Circle', 'circle'], ['Arc', 'arc'], ['Spline', 'curve'], ['Point', 'point'], ['Change', 'trim'], ['Copy', 'copies']]
/** Bodies as they stand before the open sketch: what it can take edges from. */
const beneath = shallowRef<BodySpec[]>([])
const linkable = computed(() => sketch.underlays.length > 0 || links.others.length > 0 || ((doc.part?.steps ?? []).findIndex((s) => s.id === sketch.step) > 0 && bodies.value.length > 0))
watch(
  () => sketch.open && sketch.tool === 'bring',
  async (on) => {
    if (!on) {
      beneath.value = []
      return
    }
    try {
      const upto = doc.part!.steps.findIndex((s) => s.id === sketch.step)
      const found = await call('get', '/api/documents/{id}/build', { path: { id: doc.view!.id }, query: { revision: doc.view!.revision, upto } })
      beneath.value = await partBodies(found)
    } catch (error) {
      doc.refused(error)
    }
  },
)
const sketchVerbs = computed<Verb[]>(() => {
  const own = (key: string, label: string, icon: string, line: string): Verb => ({ label, icon, tools: [{ key: `draw:${key}`, label, icon, line }] })
  const listed = registries.found?.tools ?? []
  const groups = SKETCH_GROUPS.map(([label, icon]) => ({
    label, icon,
    tools: listed.filter((t) => t.group === label).map((t) => ({ key: `draw:${t.name}`, label: t.label, icon: t.icon, line: t.key ? `${t.line} (${keyName(t.key)})` : t.line })),
  }))
  return [
    own('select', 'Select', 'hand', 'Select and drag (Esc)'),
    ...groups.filter((g) => g.tools.length),
    ...(linkable.value ? [own('bring', 'Link', 'link', 'Take edges, faces, cuts, other sketches or layouts: they come in and follow (I)')] : []),
    own('measure', 'Measure', 'ruler', 'Read sizes off: one thing, two, a closed run (M)'),
    own('dimension', 'Size', 'dimension', 'Click what to measure, then where the size stands (D)'),
    own('construction', 'Aid', 'construction', 'Curves that only help (G)'),
  ]
})
const active = computed(() => {
  if (sketch.open) return sketch.construction ? 'draw:construction' : `draw:${sketch.tool}`
  return choosingPlane.value ? 'sketch' : draft.kindName
})

async function tool(key: string): Promise<void> {
  if (key === 'draw:construction') await sketch.toggleConstruction()
  else if (key.startsWith('draw:')) {
    const name = key.slice(5)
    // What is selected is what tools like mirror and offset work on.
    if (!registries.found?.tools.find((t) => t.name === name)?.wants.length && name !== 'measure') sketch.selected = []
    sketch.tool = name
  } else if (key === 'sketch') {
    draft.discard()
    // A face that is already picked is where the sketch is meant to lie.
    const face = picked.value.find((p) => p.pick.kind === 'face')
    const edge = picked.value.find((p) => p.pick.kind === 'edge')
    if (face && faceKind(face.mark) === 'plane') await beginSketch({ base: null, face: face.pick })
    else if (edge && (await throughEdge(edge.mark, edge.pick))) return
    else choosingPlane.value = true
  } else if (key === 'import') {
    chooser.value?.click()
  } else {
    choosingPlane.value = false
    const taking = key === 'extrude:cut'
    const kind = taking ? 'extrude' : key
    const taker = registries.kind(kind)?.fields.find((f) => f.type === 'picks')
    const given: Record<string, unknown> = taking ? { result: 'cut' } : {}
    if (taker) {
      const fitting = picked.value.map((p) => p.pick).filter((p) => p.kind === taker.accepts)
      if (fitting.length) given[taker.name] = fitting
    }
    picked.value = []
    await draft.begin(kind, given)
  }
}

/** A file is kept with the project first; the step that reads it then opens as any other. */
const SHAPES = '.step,.stp,.igs,.iges,.brep,.brp,.stl,.3mf'
const chooser = ref<HTMLInputElement | null>(null)
async function bringFile(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  ;(event.target as HTMLInputElement).value = ''
  if (!chosen) return
  try {
    const response = await fetch(`/api/documents/${doc.view!.id}/bring`, { method: 'POST', body: chosen, headers: { 'X-File-Name': encodeURIComponent(chosen.name) } })
    if (!response.ok) throw await refusalOf(response)
    await draft.begin('import', (await response.json()) as Schemas['BroughtFileView'])
  } catch (error) {
    doc.refused(error)
  }
}

/** A sketch on a plane through a straight edge, at a right angle to the flat face beside it. */
async function throughEdge(mark: { body: string; index: number }, edge: StoredPick): Promise<boolean> {
  const topology = bodies.value.find((b) => b.id === mark.body)?.mesh.topology
  const found = topology?.edges[mark.index]
  const flat = found?.faces.find((f: number) => topology!.faces[f].kind === 'plane')
  if (!topology || found?.kind !== 'line' || flat === undefined) return false
  const face = makePick(topology, mark.body, 'face', flat)
  await beginSketch({ base: null, face, edge, angle: { formula: '90 deg' } })
  return true
}

const planes = computed(() => (doc.part?.steps ?? []).slice(0, doc.part?.marker ?? undefined).filter((s) => ['plane', 'frame', 'port'].includes(s.kind) && !s.asleep).map((s) => ({ id: s.id, name: s.name })))
async function beginSketch(plane: { base: string | null; face: StoredPick | null; plane?: string; edge?: StoredPick; angle?: { formula: string } }): Promise<void> {
  choosingPlane.value = false
  picked.value = []
  const known = new Set(doc.part?.steps.map((s) => s.id))
  if (!(await doc.edit([{ do: 'add_step', kind: 'sketch', fields: { plane } }]))) return
  const made = doc.part?.steps.find((s) => !known.has(s.id))
  if (made) await openSketch(made.id, true)
}

async function openSketch(id: string, fresh = false): Promise<void> {
  draft.discard()
  picked.value = []
  await sketch.start(id, fresh)
  faceSketch()
}
let goBack: (() => void) | null = null
watch(
  () => sketch.open,
  (open) => {
    if (open) return
    goBack?.()
    goBack = null
  },
)
function faceSketch(): void {
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
  if (!box.isEmpty()) {
    const c = box.getCenter(new V())
    at.copy(c.sub(z.clone().multiplyScalar(c.clone().sub(at).dot(z))))
  }
  // What is drawn already decides how near one looks; an empty sketch shows the whole body.
  const drawn = extent(sketch.drawing)
  if (drawn) {
    at.set(...f.origin).addScaledVector(new V(...f.x), drawn.middle[0]).addScaledVector(new V(...f.y), drawn.middle[1])
    e.camera.face(z, new V(...f.y), at, Math.max(drawn.size * 1.7, 10))
    return
  }
  e.camera.face(z, new V(...f.y), at, Math.max(size, 40))
}

// --- what is shown
const shownBuild = computed<BuildView | null>(() => (draft.open && draft.trial && !draft.error ? draft.trial : doc.build))
const GREYED = '#c9ccc6'
const built = shallowRef<BodySpec[]>([])
const bodies = computed(() => (sees.hidden.size ? built.value.filter((b) => !sees.hidden.has(b.id)) : built.value))
const pickBodies = shallowRef<BodySpec[] | null>(null)
const focusOn = (type: string): boolean => draft.kind?.fields.find((f) => f.name === draft.focus)?.type === type
let asked = 0

watch(
  [shownBuild, () => draft.before, () => draft.open, () => draft.focus, () => draft.error, () => sketch.open],
  async () => {
    const ask = ++asked
    try {
      const shown = await partBodies(shownBuild.value, sketch.open)
      const before = draft.open && draft.before && draft.focus && !focusOn('numbers') ? await partBodies(draft.before) : null
      if (ask !== asked) return
      // While an open step cannot be built, the part as it was stands greyed behind it.
      built.value = draft.open && draft.error && !draft.missing ? shown.map((b) => ({ ...b, colour: GREYED, paints: undefined })) : shown
      pickBodies.value = before
    } catch (error) {
      if (ask === asked) doc.refused(error)
    }
  },
  { immediate: true },
)

/** Ids of the sketches a step is built from, by its declaration. */
function sketchesOf(step: Step): string[] {
  const fields = step.fields as Record<string, unknown>
  return (registries.kind(step.kind)?.fields ?? []).flatMap((f) => (f.type === 'sketch' ? [fields[f.name] as string] : f.type === 'sketches' ? ((fields[f.name] as string[]) ?? []) : []))
}
/** Sketches nothing was built from yet, and the one the open step uses. */
const lines = computed(() => {
  const build = shownBuild.value
  if (!build || sketch.open) return []
  const used = new Set((doc.part?.steps ?? []).flatMap((s) => sketchesOf(s)))
  return [...aidLines(build, engine.value?.box() ?? null, (id) => used.has(id) && draft.fields.sketch !== id), ...faultLines(build, draft.error, engine.value?.box() ?? null), ...ghostLines(Object.values(sees.ghosts).flat()), ...measureLines(measuring.lines)]
})

// --- picking
const wanted = computed<Wanted>(() => {
  if (sketch.open) return sketch.tool === 'bring' ? links.wanted : 'none'
  if (choosingPlane.value || checks.picking) return 'any'
  if (draft.open) {
    const field = draft.kind?.fields.find((f) => f.name === draft.focus)
    if (field?.type === 'spots' || field?.type === 'numbers') return 'face'
    return field?.type === 'picks' ? (field.accepts as Wanted) : 'none'
  }
  return 'any'
})
const faceKind = (m: Mark): string | undefined => bodies.value.find((b) => b.id === m.body)?.mesh.topology.faces[m.index]?.kind

function pickOf(hit: { body: string; kind: Mark['kind']; index: number }): StoredPick | null {
  const spec = (pickBodies.value ?? bodies.value).find((b) => b.id === hit.body)
  return spec ? makePick(spec.mesh.topology, hit.body, hit.kind, hit.index) : null
}

async function onPick(hit: Hit | null, add: boolean): Promise<void> {
  if (sketch.open) {
    const spec = hit && beneath.value.find((b) => b.id === hit.body)
    if (spec && links.whole && links.takes.includes('body')) await links.bring({ body: hit.body })
    else if (spec) await links.bring({ pick: makePick(spec.mesh.topology, hit.body, hit.kind, hit.index) as Schemas['Pick'] })
    return
  }
  if (choosingPlane.value) {
    if (!hit) return
    if (hit.kind === 'edge') {
      const edge = pickOf(hit)
      if (!edge || !(await throughEdge(hit, edge))) doc.say('A plane is laid through a straight edge beside a flat face', 'bad')
      return
    }
    if (faceKind(hit) !== 'plane') {
      doc.say('A sketch needs a flat face; that one is curved', 'bad')
      return
    }
    const face = pickOf(hit)
    if (face) await beginSketch({ base: null, face })
    return
  }
  if (draft.open) {
    const pick = hit && pickOf(hit)
    if (pick && draft.focus && focusOn('spots')) draft.addSpot(draft.focus, pick, hit.point.toArray())
    else if (pick && draft.focus && focusOn('numbers')) draft.leaveOut(draft.focus, pick)
    else if (pick && draft.focus) draft.togglePick(draft.focus, pick)
    return
  }
  if (!hit) {
    if (measuring.on && !add) measuring.picks = []
    if (!add) picked.value = []
    return
  }
  const pick = pickOf(hit)
  if (!pick) return
  const mark: Mark = { body: hit.body, kind: hit.kind, index: hit.index }
  if (checks.picking) {
    checks.take(pick as unknown as Record<string, unknown>)
    return
  }
  if (measuring.on) {
    measuring.take(pick as unknown as Record<string, unknown>, add)
    return
  }
  const old = picked.value.findIndex((p) => p.mark.body === mark.body && p.mark.kind === mark.kind && p.mark.index === mark.index)
  if (add) picked.value = old >= 0 ? picked.value.filter((_, i) => i !== old) : [...picked.value, { pick, mark }]
  else picked.value = [{ pick, mark }]
}
function onBox(marks: Mark[], add: boolean): void {
  const found = marks.map((mark) => ({ pick: pickOf(mark)!, mark })).filter((p) => p.pick)
  if (draft.open && draft.focus) {
    const old = add ? ((draft.fields[draft.focus] as StoredPick[]) ?? []) : []
    draft.set(draft.focus, [...old, ...found.map((f) => f.pick)])
  } else picked.value = add ? [...picked.value, ...found] : found
}

const marks = computed<Mark[]>(() => {
  if (draft.open && draft.focus) {
    const list = focusOn('picks') ? ((draft.fields[draft.focus] as StoredPick[] | undefined) ?? []) : []
    const from = pickBodies.value ?? bodies.value
    return list.flatMap((p) => {
      const spec = from.find((b) => b.id === p.body)
      if (!spec || !p.kind) return []
      const index = findPick(spec.mesh.topology, p)
      return index >= 0 ? [{ body: p.body, kind: p.kind as Mark['kind'], index }] : []
    })
  }
  if (checks.picking) return (checks.picked as unknown as StoredPick[]).flatMap(markOf)
  if (measuring.on) return (measuring.picks as unknown as StoredPick[]).flatMap(markOf)
  return picked.value.map((p) => p.mark)
})
function markOf(p: StoredPick): Mark[] {
  const spec = bodies.value.find((b) => b.id === p.body)
  const index = spec ? findPick(spec.mesh.topology, p) : -1
  return index >= 0 ? [{ body: p.body, kind: p.kind as Mark['kind'], index }] : []
}
/** What a candidate of a lost pick is, in the bodies as they are. */
const looked = computed<Mark[]>(() => sees.looked.flatMap(markOf))
const painting = computed(() => !measuring.on && !draft.open && !sketch.open && picked.value.some((p) => p.pick.kind === 'face'))
function paint(colour: string | null): void {
  const picks = picked.value.map((p) => p.pick).filter((p) => p.kind === 'face')
  void doc.edit([{ do: 'paint_faces', picks, colour }], colour ? `paint ${picks.length} faces` : 'take paint off')
}
watch(() => doc.build, () => (picked.value = []))
watch(picked, (now) => (sees.picked = now.map((p) => p.pick)))

function ready(e: Engine): void {
  engine.value = e
  if (!doc.build?.bodies.length) e.fit(false)
  emit('engine', e)
}
const regionStep = computed(() => {
  const field = draft.shownFields.find((f) => ['regions', 'points', 'curves'].includes(f.type))
  const id = draft.fields.sketch as string | undefined
  return field && id ? (doc.build?.steps.find((s) => s.id === id)?.sketch ?? null) : null
})
/** The lines of the model, and the triangles a print would have. */
const drawnLines = computed(() => (printing.mesh ? [...lines.value, { pairs: printing.mesh, tone: 'accent', width: 1 }] : lines.value))
defineExpose({ openSketch, tool, cancel: () => (choosingPlane.value = false), faceSketch })
</script>

<template>
  <Workbench
    :verbs="verbs" :active="active" :drawer="props.drawer" :values="doc.build?.parameters ?? {}" :engine="engine" :tick="tick" :bodies="compare.before ?? bodies"
    @tool="tool" @drawer="(k) => emit('drawer', k)"
  >
    <template #view>
      <ViewPane
        :bodies="compare.after ?? bodies" :pick-bodies="sketch.tool === 'bring' && beneath.length ? beneath : pickBodies" :lines="drawnLines" :spots="printing.places" :centre="measuring.centre" :picked="marks" :candidates="looked" :wanted="compare.after ? 'none' : wanted" :floor="!sketch.open" :taken="sketch.open && sketch.tool !== 'bring'"
        :title="sketch.open ? sketch.name : 'Model'" :caption="compare.captions?.[0]" @pick="onPick" @box="onBox" @ready="ready" @frame="tick++"
      >
        <template #bar>
          <button v-if="sketch.open" class="chip" title="Look straight at the sketch" @click="faceSketch()">Straight on</button>
          <button v-if="compare.captions" class="chip on" title="End comparing" data-testid="end-compare" @click="panes.close()">End</button>
          <button v-else-if="!sketch.open" class="chip" :class="{ on: measuring.on }" title="Read sizes off (M)" data-testid="measure" @click="measuring.toggle()">Measure</button>
          <template v-if="painting">
            <label class="chip paint" title="A colour for the picked faces"><Icon name="paint" :size="15" /> Paint<input type="color" value="#2f7d5b" data-testid="paint" @change="paint(($event.target as HTMLInputElement).value)" /></label>
            <button class="chip" title="The colour of the body again" @click="paint(null)">No paint</button>
          </template>
        </template>
        <SketchLayer v-if="sketch.open && engine" :engine="engine" :tick="tick" />
        <RegionLayer v-else-if="engine && regionStep && draft.open" :engine="engine" :tick="tick" :sketch="regionStep" />
        <MeasureCard v-if="engine && !sketch.open && (measuring.on || measuring.notes.length)" :engine="engine" :tick="tick" />
        <PlanePrompt v-if="choosingPlane && engine" :engine="engine" :tick="tick" :bodies="bodies.length > 0" :steps="planes" @plane="(base: string) => beginSketch({ base, face: null })" @step="(id: string) => beginSketch({ base: null, face: null, plane: id })" @cancel="choosingPlane = false" />
        <div v-if="doc.building || draft.trying" class="busy" role="status">
          <template v-if="doc.searching">looking for the largest that fits <button class="btn small" data-testid="stop-search" @click="doc.stopSearch()">Stop</button></template>
          <template v-else>building {{ doc.stage || '…' }}</template>
        </div>
        <StartCard
          v-if="!bodies.length && !sketch.open && !choosingPlane && !draft.open && doc.part && !doc.part.steps?.length" title="An empty part"
          action="Start a sketch" testid="first-sketch" @act="tool('sketch')"
        >Choose <b>Sketch</b>, a plane, and draw an outline. Then <b>Grow</b> it into a body.</StartCard>
      </ViewPane>
    </template>
    <template #panel>
      <input ref="chooser" type="file" :accept="SHAPES" hidden data-testid="bring-file" @change="bringFile" />
      <SketchPanel v-if="sketch.open" />
      <BuildList v-else @sketch="(id: string) => openSketch(id)" />
    </template>
  </Workbench>
</template>

<style scoped>
.paint { display: inline-flex; align-items: center; gap: 5px; cursor: pointer; }
.paint input { width: 20px; height: 16px; padding: 0; border: 0; background: none; cursor: pointer; }
.busy { display: flex; align-items: center; gap: 8px; }
</style>
