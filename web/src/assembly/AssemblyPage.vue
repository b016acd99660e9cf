<script setup lang="ts">
// An assembly: rail, view with dragging, components and joints, drawer with results.
import { turns } from '../api/newest'
import { Box3, Matrix4, Object3D, Vector3 } from 'three'
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import type { Schemas } from '../api/client'
import { assemblyBodies } from '../document/bodies'
import { useDocument, useRegistries } from '../document/store'
import { useBringing } from '../exchange/bringing'
import StepTree from '../exchange/StepTree.vue'
import { useJobs } from '../jobs/store'
import type { Verb } from '../shell/VerbRail.vue'
import Workbench from '../shell/Workbench.vue'
import type { BodySpec, Hit } from '../viewport/body'
import type { Engine, Mark } from '../viewport/engine'
import { fineLength } from '../ui/units'
import StartCard from '../ui/StartCard.vue'
import AssemblyPanel from './AssemblyPanel.vue'
import { useEnds } from './ends'
import { useEnvelopes } from './envelopes'
import { useFit } from './fit'
import FitCard from './FitCard.vue'
import FitResults from './FitResults.vue'
import MeasureCard from '../measure/MeasureCard.vue'
import { useMeasuring } from '../measure/store'
import { measureLines } from '../viewport/aids'
import { componentOf, useAssemblyLayers } from './layers'
import { useCopying } from './copying'
import { useHardware } from './hardware'
import { useMaking } from './inplace'
import { useJoining } from './joining'
import { doubles } from './listing'
import LooseEnds from './LooseEnds.vue'
import PartsList from './PartsList.vue'
import TagsTable from './TagsTable.vue'
import { useMoving } from './moving'
import MiniBar from './MiniBar.vue'
import { alongAxis, pulled } from './apart'
import { originalOf } from './copyNames'
import type { Chosen } from '../members/ChooseMember.vue'
import type { Where } from './placing'
import { usePorts } from './ports'
import { useReplacing } from './replacing'
import RunResults from './RunResults.vue'
import { useRuns } from './runs'
import { useSharing } from './sharing'
import { useAssembly } from './store'
import { useTree } from './tree'

const ViewPane = defineAsyncComponent(() => import('../viewport/ViewPane.vue'))
const props = defineProps<{ drawer: string | null }>()
const emit = defineEmits<{ drawer: [key: string | null]; engine: [engine: Engine] }>()

const doc = useDocument()
const asm = useAssembly()
const joining = useJoining()
const copying = useCopying()
const hardware = useHardware()
const making = useMaking()
const moving = useMoving()
const sharing = useSharing()
const replacing = useReplacing()
const runs = useRuns()
const bringing = useBringing()
const ports = usePorts()
const jobs = useJobs()
const measuring = useMeasuring()
const registries = useRegistries()
const tree = useTree()
const fit = useFit()
const ends = useEnds()
const envelopes = useEnvelopes()
const engine = shallowRef<Engine | null>(null)
const tick = ref(0)
const every = shallowRef<BodySpec[]>([])
/** Bodies of the components that are shown. */
const bodies = computed(() => {
  const drawn = fit.drawn(tree.drawn(every.value))
  return envelopes.body ? [...drawn, envelopes.body] : drawn
})
const clash = shallowRef<{ a: string; b: string; faces_a: string[]; faces_b: string[] } | null>(null)
const placing = ref<Schemas['DocumentLine'][] | null>(null)

watch(
  () => doc.view?.revision,
  () => {
    void asm.rebuild()
    void jobs.review()
  },
  { immediate: true },
)
// A part this assembly uses changed in another window.
watch(
  () => doc.touched,
  () => {
    void asm.rebuild()
    void jobs.review()
  },
)
const turn = turns()
watch(
  () => asm.drawn,
  async (built) => {
    const newest = turn()
    const found = await assemblyBodies(built)
    if (newest()) every.value = found
  },
)
watch(
  () => asm.matrices,
  (m) => engine.value?.place(m),
)

const joints = (family: string) =>
  (registries.found?.joints ?? [])
    .filter((j) => j.family === family)
    .map((j) => ({ key: `join:${j.kind}`, label: j.label, icon: j.icon, line: j.line }))
const verbs = computed<Verb[]>(() => [
  {
    label: 'Place',
    icon: 'assembly',
    tools: [{ key: 'place', label: 'Place', icon: 'assembly', line: 'Bring a part or assembly in (P)' }],
  },
  {
    label: 'Refer',
    icon: 'refer',
    tools: [
      { key: 'in-place', label: 'Make a part in place', icon: 'plus', line: 'A new part, its origin on what is there (N)' },
      {
        key: 'refer',
        label: 'Take from neighbours',
        icon: 'refer',
        line: 'Edges, faces and cuts of what stands around the chosen part come into it',
      },
      {
        key: 'references',
        label: 'Who takes from whom',
        icon: 'link',
        line: 'Parts made after their neighbours, and whether they still fit',
      },
    ],
  },
  {
    label: 'Join',
    icon: 'link',
    tools: [
      { key: 'join:any', label: 'Join two picks', icon: 'link', line: 'Pick two ends: what fits them is proposed (J)' },
      ...joints('Joint'),
    ],
  },
  { label: 'Hold', icon: 'coplanar', tools: joints('Condition') },
  { label: 'Drive', icon: 'gear', tools: joints('Drive') },
  {
    label: 'Move',
    icon: 'move',
    tools: [{ key: 'move', label: 'Move', icon: 'move', line: 'Chosen components, by typed lengths and turns (V)' }],
  },
  {
    label: 'Hardware',
    icon: 'thread',
    tools: [{ key: 'hardware', label: 'Hardware', icon: 'thread', line: 'Screws, washers, nuts, pins and rings for picked holes (H)' }],
  },
  {
    label: 'Copy',
    icon: 'copies',
    tools: [
      ...(registries.found?.copies ?? []).map((k) => ({ key: `copy:${k.kind}`, label: k.label, icon: k.icon, line: k.line })),
      { key: 'copy-beside', label: 'Once, beside', icon: 'plus', line: 'The chosen components with the joints among them' },
    ],
  },
  {
    label: 'Group',
    icon: 'layers',
    tools: [
      { key: 'group', label: 'Move as one', icon: 'layers', line: 'The chosen components stand to each other as they do (G)' },
      { key: 'gather', label: 'Assembly of them', icon: 'assembly', line: 'The chosen components become an assembly of their own' },
    ],
  },
  {
    label: 'Check',
    icon: 'gauge',
    tools: [
      {
        key: 'interference',
        label: 'Interference',
        icon: 'combine',
        line: asm.selected.length > 1 ? 'Among the chosen components' : 'In the whole assembly',
      },
      { key: 'survey', label: 'Loose ends', icon: 'search', line: 'Holes out of line or empty, components loose, doubled, inside others' },
      { key: 'motion', label: 'Motion', icon: 'play', line: 'Drive a joint until something clashes' },
      { key: 'run', label: 'Run over time', icon: 'clock', line: 'Joints driven over time: speeds, forces, gaps, curves' },
    ],
  },
])

async function tool(key: string): Promise<void> {
  if (key === 'place') {
    placing.value = await replacing.placeable()
  } else if (key.startsWith('join:')) {
    joining.begin(key === 'join:any' ? null : key.slice(5))
  } else if (key.startsWith('copy:')) {
    copying.begin(key.slice(5))
  } else if (key === 'move') {
    moving.begin()
  } else if (key === 'in-place') {
    making.begin()
  } else if (key === 'refer') {
    const part =
      chosen(1, 'Choose the part that is to take from its neighbours first') &&
      doc.assembly?.components?.find((c) => c.id === asm.selected[0])
    if (part) await making.edit(part.document, part.id, true)
  } else if (key === 'references') {
    making.listed = !making.listed
  } else if (key === 'hardware') {
    await hardware.begin().catch(doc.refused)
  } else if (key === 'copy-beside') {
    if (chosen(1, 'Choose what is to be copied first')) await asm.copy(asm.selected)
  } else if (key === 'group') {
    if (chosen(2, 'Choose two components or more first: they then move as one')) await asm.group(asm.selected)
  } else if (key === 'gather') {
    if (chosen(2, 'Choose two components or more first: they become an assembly')) await asm.gather(asm.selected)
  } else if (key === 'interference') {
    emit('drawer', 'results')
    clash.value = null
    await fit.run()
  } else if (key === 'survey') {
    emit('drawer', 'ends')
    clash.value = null
    await ends.run()
  } else if (key === 'motion') emit('drawer', 'results')
  else if (key === 'run') {
    emit('drawer', 'runs')
    runs.begin()
  }
}
/** Whether enough is chosen for a tool; says so where it is not. */
function chosen(least: number, words: string): boolean {
  if (asm.selected.length < least) doc.say(words, 'bad')
  return asm.selected.length >= least
}
/** What waits to be set down by a click. */
const waiting = shallowRef<{ line: Placed; anchored: boolean } | null>(null)
watch(placing, (now) => !now && (waiting.value = null))
type Placed = { id: string; name: string; choice?: Chosen }
async function bringIn(line: Placed, anchored: boolean, where: Where): Promise<void> {
  if (where === 'click') waiting.value = { line, anchored }
  else await place(line, anchored, where === 'origin' ? [0, 0, 0] : undefined)
}
/** Set down what waits at a clicked place: a point of a face, the middle of an edge, a corner, else the ground. */
async function setDown(hit: Hit | null, x: number, y: number): Promise<void> {
  const wish = waiting.value
  const e = engine.value
  if (!wish || !e) return
  let at: Vector3 | null = null
  if (hit) {
    const t = bodies.value.find((b) => b.id === hit.body)?.mesh.topology
    const edge = hit.kind === 'edge' ? t?.edges[hit.index] : undefined
    const middle = edge ? (edge.centre ?? edge.at) : hit.kind === 'vertex' ? t?.vertices[hit.index]?.at : undefined
    at = middle ? new Vector3(...middle).applyMatrix4(e.matrixOf(hit.body)) : hit.point
  } else {
    const ray = e.camera.ray(x, y)
    const t = -ray.origin.z / ray.direction.z
    if (Number.isFinite(t)) at = ray.origin.clone().addScaledVector(ray.direction, t)
  }
  if (!at) return doc.say('There is no ground to be seen here: look from above', 'bad')
  await place(wish.line, wish.anchored, at.toArray())
}
async function place(line: Placed, anchored?: boolean, at?: number[]): Promise<void> {
  // Stand it beside what is there, so that it can be seen and picked; the first is anchored anyway.
  const box = engine.value?.box()
  const p = at ?? (box && !box.isEmpty() ? [Math.round(box.max.x + 60), 0, 0] : [0, 0, 0])
  const first = !doc.assembly?.components?.length
  const made = await doc.edit([
    {
      do: 'add_component',
      document: line.id,
      name: line.name,
      placement: { p },
      anchored: first || anchored || null,
      choice: line.choice ?? null,
    },
  ])
  // What it fits by its ports is offered at once; what fits nothing stays where it was set down.
  const id = doc.assembly?.components?.at(-1)?.id
  if (made && id && !first && !anchored) await ports.begin(id, true).catch(doc.refused)
}
/** Files dropped into the picture become parts of the project and stand in the assembly. */
async function dropped(event: DragEvent): Promise<void> {
  const project = doc.view?.project
  for (const file of event.dataTransfer?.files ?? []) {
    if (!project) return
    try {
      const brought = await bringing.bring(project, file)
      if (!brought) continue
      await place({ id: brought.id, name: file.name.replace(/\.\w{2,4}$/, '').slice(0, 80) || 'Imported' })
      for (const fault of brought.faults) doc.say(fault, 'bad')
      doc.say(`${file.name} stands in the assembly`, 'good')
    } catch (error) {
      doc.refused(error)
    }
  }
}

const stack = useAssemblyLayers(bodies, { placing, waiting, clash }, verbs, tool)
/** Where the last click was: the place in the model, and on the screen. */
const last = shallowRef<Vector3 | null>(null)
let pixel: [number, number] = [0, 0]
function press(event: PointerEvent): void {
  const box = engine.value?.canvas.getBoundingClientRect()
  if (box) pixel = [event.clientX - box.left, event.clientY - box.top]
}
function onPick(hit: Hit | null, add: boolean): void {
  clash.value = null
  // What both share is nothing one can choose.
  if (hit?.body === 'envelope' || (fit.row && (!hit || hit.body === 'overlap'))) return
  last.value = hit?.point.clone() ?? null
  if (waiting.value) return void setDown(hit, ...pixel)
  stack.pick(hit, add)
}
const measured = computed(() => [...measureLines(measuring.lines), ...trails.value, ...between.value, ...traces.value])
/** Ways of places that a run traces. */
const traces = computed(() => [
  ...runs.trails.map((pairs) => ({ pairs, tone: 'pick', width: 2, front: true })),
  ...(runs.near ? [{ pairs: new Float32Array(runs.near.flat()), tone: 'bad', width: 2.5, front: true }] : []),
])
/** From one of a pair that is looked at to the other, where they come nearest. */
const between = computed(() =>
  fit.row?.near ? [{ pairs: new Float32Array(fit.row.near.flat()), tone: 'bad', width: 2.5, front: true }] : [],
)
/** From where each component that is off was, to where it is. */
const trails = computed(() => {
  const pairs: number[] = []
  for (const leaf of asm.drawn?.leaves ?? []) {
    const [from, to] = [asm.settled.get(leaf.id), asm.matrices.get(leaf.id)]
    const spec = every.value.find((b) => b.id === leaf.id)
    if (!from || !to || !spec || !asm.shifts.size) continue
    const faces = spec.mesh.topology.faces
    const middle = [0, 1, 2].map((i) => faces.reduce((sum, f) => sum + f.at[i], 0) / Math.max(faces.length, 1))
    const at = (m: number[]): number[] => [0, 1, 2].map((i) => m[i] * middle[0] + m[4 + i] * middle[1] + m[8 + i] * middle[2] + m[12 + i])
    if (from !== to) pairs.push(...at(from), ...at(to))
  }
  return pairs.length ? [{ pairs: new Float32Array(pairs), tone: 'ink', width: 1 }] : []
})
const contacts = computed<Mark[]>(() => {
  // Where the body both share is drawn, faces that reach far beyond it say less.
  const c = clash.value ?? (fit.overlap ? null : fit.row)
  if (!c) return []
  return (
    [
      [c.a, c.faces_a],
      [c.b, c.faces_b],
    ] as const
  ).flatMap(([id, names]) => {
    const spec = bodies.value.find((b) => b.id === id)
    return spec
      ? spec.mesh.topology.faces.flatMap((f, index) => (names.includes(f.name) ? [{ body: id, kind: 'face' as const, index }] : []))
      : []
  })
})

// Dragging a free component: Alt-free left drag that starts on it.
interface Grabbed {
  component: string
  grip: [number, number, number]
  plane: Vector3
  through: Vector3
  moved: boolean
  /** Where it fits by its ports, as near as it is. */
  fits: ReturnType<typeof ports.near>
}
let grabbed: Grabbed | null = null
/** Where the pointer drags something, on the screen. */
const pointer = shallowRef<[number, number] | null>(null)
const titleOf = (leaf: string): string => asm.built?.leaves.find((l) => l.id === leaf)?.name ?? leaf
/** What meets while something is dragged, or how near the nearest is. */
const meeting = computed(() => {
  const m = asm.meets
  if (!m || !asm.live) return null
  const pair = `${titleOf(m.a)} – ${titleOf(m.b)}`
  return { met: m.met, text: m.met ? `touches: ${pair}` : `${fineLength(m.gap)} apart: ${pair}` }
})
watch(
  () => asm.meets,
  (m) => (clash.value = m?.met ? m : null),
)
let off: { ids: string[]; from: number[]; start: [number, number]; through: Vector3 } | null = null
function grab(event: PointerEvent): void {
  if (event.button !== 0 || stack.alone || waiting.value || !engine.value) return
  if ((event.target as Element).closest('button, input, select')) return
  const box = engine.value.canvas.getBoundingClientRect()
  if (event.clientY < box.top) return
  const hit = engine.value.pick(event.clientX - box.left, event.clientY - box.top, 'face')
  if (!hit) return
  const leaf = asm.built?.leaves.find((l) => l.id === hit.body)
  if (leaf && asm.isApart) {
    const own = originalOf(leaf.component)
    const chosen = [...new Set(asm.selected.map(originalOf))]
    const ids = chosen.includes(own) ? chosen : [own]
    asm.share = 1
    const start: [number, number] = [event.clientX - box.left, event.clientY - box.top]
    off = { ids, from: asm.shifts.get(own) ?? [0, 0, 0], start, through: hit.point.clone() }
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    event.stopPropagation()
    return
  }
  const id = leaf?.member ?? ''
  const view = asm.built?.components.find((c) => c.id === id)
  // A copy goes with its original.
  if (!view || view.freedom === 0 || leaf?.carried.length) return
  const component = asm.live?.[id]?.matrix ?? view.matrix
  const local = hit.point.clone().applyMatrix4(new Matrix4().fromArray(component).invert())
  grabbed = {
    component: id,
    grip: [local.x, local.y, local.z],
    plane: engine.value.camera.axes()[2],
    through: hit.point.clone(),
    moved: false,
    fits: [],
  }
  // What is free altogether goes to where its ports meet others.
  if (view.freedom === 6 && !id.includes('/')) void ports.lookAround(id)
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  event.stopPropagation()
}
/** What is pulled off the view goes along an axis, or with Shift as the screen lies. */
function pullOff(event: PointerEvent): void {
  if (!off || !engine.value) return
  const box = engine.value.canvas.getBoundingClientRect()
  const camera = engine.value.camera
  const move: [number, number] = [event.clientX - box.left - off.start[0], event.clientY - box.top - off.start[1]]
  if (Math.hypot(...move) < 3) return
  event.stopPropagation()
  const here = camera.project(off.through)
  const seen = [0, 1, 2].map((k): [number, number] => {
    const there = camera.project(off!.through.clone().setComponent(k, off!.through.getComponent(k) + 1))
    return [there[0] - here[0], there[1] - here[1]]
  })
  let by: number[] = alongAxis(move, seen)
  if (event.shiftKey) {
    const [right, up] = camera.axes()
    by = right.clone().multiplyScalar(move[0] * camera.unit).addScaledVector(up, -move[1] * camera.unit).toArray() // prettier-ignore
  }
  asm.apart = pulled(asm.apart, off.ids, off.from.map((v, k) => v + by[k])) // prettier-ignore
}
function pull(event: PointerEvent): void {
  if (off) return pullOff(event)
  if (!grabbed || !engine.value) return
  const box = engine.value.canvas.getBoundingClientRect()
  const ray = engine.value.camera.ray(event.clientX - box.left, event.clientY - box.top)
  const t = grabbed.through.clone().sub(ray.origin).dot(grabbed.plane) / ray.direction.dot(grabbed.plane)
  const at = ray.origin.clone().addScaledVector(ray.direction, t)
  if (!grabbed.moved && at.distanceTo(grabbed.through) < 3 * engine.value.camera.unit) return
  grabbed.moved = true
  event.stopPropagation()
  const camera = engine.value.camera
  const here = [event.clientX - box.left, event.clientY - box.top]
  grabbed.fits = ports.near(grabbed.component, grabbed.grip, (p) => {
    const [x, y] = camera.project(new Vector3(p[0], p[1], p[2]))
    return Math.hypot(x - here[0], y - here[1])
  })
  if (grabbed.fits.length) ports.look(grabbed.fits[0], grabbed.component)
  else
    asm.move({
      component: grabbed.component,
      grip: grabbed.grip,
      target: [at.x, at.y, at.z],
      // With Shift it goes on through what it met.
      contact: asm.contact && !event.shiftKey,
    })
  pointer.value = [here[0], here[1]]
}
async function drop(event: PointerEvent): Promise<void> {
  if (off) {
    const [ids, start] = [off.ids, off.start]
    off = null
    event.stopPropagation()
    const box = engine.value?.canvas.getBoundingClientRect()
    const still = box && Math.hypot(event.clientX - box.left - start[0], event.clientY - box.top - start[1]) < 3
    if (still) asm.selected = event.shiftKey ? [...new Set([...asm.selected, ...ids])] : ids
    return
  }
  const was = grabbed
  grabbed = pointer.value = null
  if (!was) return
  event.stopPropagation()
  if (was.fits.length) await ports.meet(was.component, was.fits)
  else if (was.moved) await asm.keepPlaces()
  else {
    const id = was.component.split('/')[0]
    asm.selected = event.shiftKey ? [...asm.selected, id] : [id]
  }
}

const running = computed(() =>
  ['interference', 'motion', 'survey', 'envelope']
    .map((k) => jobs.newest(k))
    .filter((j) => j && (j.state === 'running' || j.state === 'queued')),
)
function ready(e: Engine): void {
  engine.value = runs.engine = e
  asm.widthOf = (ids) => {
    const box = new Box3()
    for (const b of every.value) if (ids.includes(componentOf(b.id))) box.expandByObject(e.body(b.id)?.faces ?? new Object3D())
    return box.isEmpty() ? 60 : box.max.x - box.min.x
  }
  if (!bodies.value.length) e.fit(false)
  emit('engine', e)
}
const underway = computed(() => ['running', 'queued'].includes(jobs.newest('run')?.state ?? ''))
const tabs = computed(() => [
  { key: 'runs', label: 'Runs', badge: underway.value ? 1 : 0 },
  { key: 'ends', label: 'Loose ends', badge: ends.count, tone: 'bad' as const },
  { key: 'parts', label: 'Parts list' },
  { key: 'tags', label: 'Tags', badge: doubles(doc.assembly?.components ?? []).size },
])
const empty = computed(() => doc.assembly && !doc.assembly.components?.length)
defineExpose({ tool, stack })
</script>

<template>
  <StepTree />
  <Workbench
    :verbs="stack.verbs.value"
    :active="stack.active.value"
    :drawer="props.drawer"
    :values="asm.built?.parameters ?? {}"
    :more="tabs"
    :running="running.length"
    :engine="engine"
    :tick="tick"
    :bodies="sharing.after ?? bodies"
    :matrices="sharing.after ? null : asm.matrices"
    @tool="tool"
    @drawer="(k) => emit('drawer', k)"
  >
    <template #view>
      <div
        class="view"
        @pointerdown.capture="(e: PointerEvent) => (press(e), grab(e))"
        @pointermove.capture="pull"
        @pointerup.capture="drop"
        @dragover.prevent
        @drop.prevent="dropped"
      >
        <ViewPane
          :bodies="bodies"
          :picked="stack.marks.value"
          :contacts="contacts"
          :lines="measured"
          :wanted="stack.wanted.value"
          title="Assembly"
          :centre="measuring.centre"
          :caption="sharing.after ? 'As it is' : null"
          :counted="stack.counted.value"
          @pick="onPick"
          @ready="ready"
          @frame="tick++"
        >
          <template #bar
            ><button
              class="chip"
              :class="{ on: measuring.on }"
              title="Read sizes off (M)"
              data-testid="measure"
              @click="measuring.toggle()"
            >
              Measure
            </button></template
          >
          <FitCard v-if="engine && fit.row" :engine="engine" />
          <MeasureCard v-if="engine && (measuring.on || measuring.notes.length)" :engine="engine" :tick="tick" />
          <MiniBar v-if="engine && last && joining.open && joining.ends.a && joining.ends.b" :engine="engine" :at="last" :tick="tick" />
          <div
            v-if="meeting"
            class="meets"
            :class="{ met: meeting.met }"
            :style="pointer ? { left: `${pointer[0] + 16}px`, top: `${pointer[1] + 14}px` } : { left: '12px', bottom: '12px' }"
            data-testid="meets"
          >
            {{ meeting.text }}
          </div>
          <div v-if="asm.building" class="busy">putting together …</div>
          <StartCard v-if="empty" title="An empty assembly" action="Place a part" testid="first-place" @act="tool('place')">
            Bring parts in with <b>Place</b>: the first stands anchored. Then <b>Join</b> them, end to end.
          </StartCard>
        </ViewPane>
      </div>
    </template>
    <template #runs><RunResults @clash="(c) => (clash = c)" /></template>
    <template #ends><LooseEnds /></template>
    <template #parts><PartsList /></template>
    <template #tags><TagsTable /></template>
    <template #results><FitResults @clash="(c) => (clash = c)" /></template>
    <template #panel><AssemblyPanel :placing="placing" :waiting="waiting?.line.name" @place="bringIn" @leave="placing = null" /></template>
  </Workbench>
</template>

<style scoped>
.view {
  height: 100%;
}
.meets {
  position: absolute;
  z-index: 4;
  padding: 3px 8px;
  border-radius: 6px;
  background: var(--panel);
  border: 1px solid var(--line-2);
  font-size: 12px;
  pointer-events: none;
  white-space: nowrap;
}
.meets.met {
  border-color: var(--bad);
  color: var(--bad);
  font-weight: 600;
}
</style>
