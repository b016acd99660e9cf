<script setup lang="ts">
// A pane with a 3D view: chips, picking, hover tooltip, triad. What is shown comes in as props.
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { Vector3 } from 'three'
import { gesture } from '../settings/mouse'
import { useHabits } from '../settings/store'
import Icon from '../ui/Icon.vue'
import type { Schemas } from '../api/client'
import { dark } from '../ui/theme'
import type { BodySpec, Hit } from './body'
import type { ViewName } from './camera'
import { Engine, type Mark, type Wanted } from './engine'
import LegendCard from './LegendCard.vue'
import { useLook } from './look'
import type { EdgeInfo, FaceInfo, Triple } from './mesh'
import { type PaneControl, usePanes } from './panes'
import PlaceMarks from './PlaceMarks.vue'
import SectionCard from './SectionCard.vue'
import { type Cut, planeThrough } from './sections'
import StyleField from './StyleField.vue'
import ViewMenu from './ViewMenu.vue'
import { area, bare, length } from '../ui/units'

const props = withDefaults(
  defineProps<{
    bodies: BodySpec[]
    pickBodies?: BodySpec[] | null
    lines?: { pairs: Float32Array; tone: string; width?: number; front?: boolean }[]
    picked?: Mark[]
    errors?: Mark[]
    contacts?: Mark[]
    /** What a choice in a list would take, shown like what is under the pointer. */
    candidates?: Mark[]
    wanted?: Wanted
    title?: string
    floor?: boolean
    /** Left drags go to whoever asked (sketching, dragging components). */
    taken?: boolean
    /** Chips for the styles of bodies. */
    styles?: boolean
    /** What the count chip says instead of counting picks. */
    counted?: string | null
    /** The pane beside: it cannot open another. */
    secondary?: boolean
    /** The panes are those of the page: none is opened or shut. */
    fixed?: boolean
    /** Places to be pointed at with numbers (mm). */
    spots?: Triple[]
    /** The centre of gravity, while it is looked at. */
    centre?: Triple | null
    /** What is shown, when that takes more words than the bar has room for. */
    caption?: string | null
    /** Named views of another document that is shown here. */
    views?: Schemas['SavedView'][] | null
    /** The camera is led from elsewhere: new bodies do not move it. */
    keepCamera?: boolean
  }>(),
  {
    pickBodies: null,
    lines: () => [],
    picked: () => [],
    errors: () => [],
    contacts: () => [],
    candidates: () => [],
    wanted: 'any',
    title: 'Model',
    floor: true,
    taken: false,
    styles: true,
    counted: null,
    spots: () => [],
    centre: null,
    caption: null,
    secondary: false,
    fixed: false,
    views: null,
    keepCamera: false,
  },
)
const emit = defineEmits<{
  pick: [hit: Hit | null, add: boolean]
  ready: [engine: Engine]
  frame: []
  box: [marks: Mark[], add: boolean]
  hide: [ids: string[]]
}>()

const panes = usePanes()
const stage = ref<HTMLDivElement | null>(null)
const canvas = ref<HTMLCanvasElement | null>(null)
const engine = shallowRef<Engine | null>(null)
const look = useLook(engine, () => props.bodies)
const style = look.style
const section = shallowRef<Cut | null>(null)
const hover = shallowRef<{ hit: Hit; x: number; y: number } | null>(null)
const view = ref<ViewName | null>('iso')
const axes = ref<{ name: string; x: number; y: number }[]>([])
const dragBox = ref<{ x: number; y: number; w: number; h: number } | null>(null)
/** Counts what was drawn: what lies over the picture moves along. */
const drawn = ref(0)
let observer: ResizeObserver | null = null
let fitted = false

const VIEWS: [ViewName, string][] = [
  ['front', 'Front'],
  ['back', 'Back'],
  ['left', 'Left'],
  ['right', 'Right'],
  ['top', 'Top'],
  ['under', 'Under'],
  ['iso', 'Iso'],
]

/** The picked flat face, as it lies in the space. */
const flatFace = computed<{ normal: Triple; at: Triple } | null>(() => {
  void drawn.value
  const e = engine.value
  for (const mark of [...props.picked].reverse()) {
    const f =
      mark.kind === 'face' ? (props.pickBodies ?? props.bodies).find((b) => b.id === mark.body)?.mesh.topology.faces[mark.index] : undefined
    if (!e || f?.kind !== 'plane' || !f.direction) continue
    const matrix = e.matrixOf(mark.body)
    return {
      normal: new Vector3(...f.direction).transformDirection(matrix).toArray(),
      at: new Vector3(...f.at).applyMatrix4(matrix).toArray(),
    }
  }
  return null
})
/** The places the map of the shown bodies points at, the worst first. */
const places = computed(() =>
  [...(look.fields.value ?? [])]
    .flatMap(([body, field]) => field.told.places.map((place) => ({ body, place })))
    .filter(({ place }) => style.value === 'undercut' || place.value > 0)
    .sort((a, b) => (style.value === 'undercut' ? b.place.value - a.place.value : a.place.value - b.place.value))
    .slice(0, style.value === 'stripes' ? 0 : 6),
)
function goToPlace(i: number): void {
  const e = engine.value
  const found = places.value[i]
  if (!e || !found) return
  const at = new Vector3(...found.place.at).applyMatrix4(e.matrixOf(found.body))
  const size = e.box().getSize(new Vector3()).length()
  const stand = e.camera.stand()
  e.camera.go({ ...stand, target: at.toArray(), height: Math.min(stand.height, size / 4) })
}

onMounted(() => {
  const made = new Engine(canvas.value!)
  engine.value = made
  made.onframe = onFrame
  observer = new ResizeObserver(() => {
    const box = stage.value!.getBoundingClientRect()
    made.resize(box.width, box.height)
  })
  observer.observe(stage.value!)
  const box = stage.value!.getBoundingClientRect()
  made.resize(box.width, box.height)
  show()
  emit('ready', made)
})
onUnmounted(() => {
  observer?.disconnect()
  engine.value?.dispose()
  engine.value = null
})

function onFrame(): void {
  const e = engine.value
  if (!e) return
  view.value = e.camera.named()
  const [right, up] = e.camera.axes()
  axes.value = (['x', 'y', 'z'] as const).map((k) => ({ name: k.toUpperCase(), x: right[k] * 30, y: -up[k] * 30 }))
  drawn.value++
  emit('frame')
}

const habits = useHabits()
function show(): void {
  const e = engine.value
  if (!e) return
  e.setBodies(props.bodies)
  e.setPickBodies(props.pickBodies)
  e.setLines(props.lines)
  e.setFloorVisible(props.floor)
  e.setShading(habits.shading)
  e.mark('pick', props.picked)
  e.mark('error', props.errors)
  e.mark('contact', props.contacts)
  if (!fitted && props.bodies.length) {
    fitted = true
    if (!props.keepCamera) e.fit(false)
  }
}

watch(() => props.bodies, show)
watch(() => props.pickBodies, show)
watch(
  () => props.lines,
  () => engine.value?.setLines(props.lines),
)
watch(
  () => props.floor,
  () => engine.value?.setFloorVisible(props.floor),
)
watch(
  () => props.picked,
  () => engine.value?.mark('pick', props.picked),
)
watch(
  () => props.errors,
  () => engine.value?.mark('error', props.errors),
)
watch(
  () => props.contacts,
  () => engine.value?.mark('contact', props.contacts),
)
watch(
  () => props.candidates,
  () => engine.value?.mark('hover', props.candidates),
)
watch(
  () => habits.shading,
  (on) => engine.value?.setShading(on),
)
watch(section, (cut) => engine.value?.setCut(cut))
// A sketch is drawn in parallel projection, and is left as it was looked at.
let coned = false
watch(
  () => props.taken,
  (taken) => {
    const camera = engine.value?.camera
    if (!camera) return
    if (taken) coned = camera.perspective
    camera.perspective = taken ? false : coned
  },
)
watch(dark, () => {
  engine.value?.retint()
  show()
})

function orient(name: ViewName): void {
  engine.value?.camera.view(name)
}
function toggleSection(): void {
  const box = engine.value?.box()
  section.value = section.value || !box ? null : { kind: 'planes', planes: [planeThrough(box, 1)], corner: false }
}

// Pointer: the view moves as the person has it in the settings, the wheel zooms, left picks or
// draws a pick box.
let mode: 'none' | 'turn' | 'shift' | 'zoom' | 'pick' = 'none'
let last = [0, 0]
let start = [0, 0]
let travelled = 0
const local = (event: PointerEvent | WheelEvent): [number, number] => {
  const box = stage.value!.getBoundingClientRect()
  return [event.clientX - box.left, event.clientY - box.top]
}

function down(event: PointerEvent): void {
  // Buttons and fields that stand over the picture keep their own clicks.
  if ((event.target as Element).closest('a, button, input, select, label, .section, .legend')) return
  const [x, y] = local(event)
  last = start = [x, y]
  travelled = 0
  const does = gesture(event, habits.bindings)
  if (does) mode = does
  else if (event.button === 0 && !props.taken) mode = 'pick'
  else return
  stage.value!.setPointerCapture(event.pointerId)
  if (mode !== 'pick') event.preventDefault()
}
function move(event: PointerEvent): void {
  const [x, y] = local(event)
  const e = engine.value
  if (!e) return
  travelled += Math.abs(x - last[0]) + Math.abs(y - last[1])
  if (mode === 'turn') e.camera.turn(x - last[0], y - last[1])
  else if (mode === 'shift') e.camera.shift(x - last[0], y - last[1])
  else if (mode === 'zoom') e.camera.zoom(Math.exp((y - last[1]) * 0.008), start[0], start[1])
  else if (mode === 'pick' && travelled > 5)
    dragBox.value = { x: Math.min(x, start[0]), y: Math.min(y, start[1]), w: Math.abs(x - start[0]), h: Math.abs(y - start[1]) }
  else if (mode === 'none' && event.buttons === 0) hoverAt(x, y)
  last = [x, y]
}
function up(event: PointerEvent): void {
  const [x, y] = local(event)
  if (mode === 'pick') {
    if (dragBox.value) boxPick(event.shiftKey)
    else emit('pick', engine.value?.pick(x, y, props.wanted) ?? null, event.shiftKey)
  }
  dragBox.value = null
  mode = 'none'
}
function wheel(event: WheelEvent): void {
  const [x, y] = local(event)
  engine.value?.camera.zoom(Math.exp(Math.max(-1, Math.min(1, event.deltaY * 0.0016))), x, y)
}
function hoverAt(x: number, y: number): void {
  const e = engine.value
  if (!e || props.wanted === 'none' || props.taken) return
  const hit = e.pick(x, y, props.wanted)
  const old = hover.value?.hit
  if (hit?.body !== old?.body || hit?.kind !== old?.kind || hit?.index !== old?.index)
    e.mark('hover', hit ? [{ body: hit.body, kind: hit.kind, index: hit.index }] : [])
  hover.value = hit ? { hit, x, y } : null
}
function leave(): void {
  if (hover.value) engine.value?.mark('hover', [])
  hover.value = null
}

/** Everything of the wanted kind whose middle lies in the box. */
function boxPick(add: boolean): void {
  const e = engine.value
  const b = dragBox.value
  if (!e || !b) return
  const kind = props.wanted === 'edge' || props.wanted === 'vertex' ? props.wanted : 'face'
  const marks: Mark[] = []
  for (const spec of props.pickBodies ?? props.bodies) {
    const t = spec.mesh.topology
    const group = kind === 'face' ? t.faces : kind === 'edge' ? t.edges : t.vertices
    const matrix = e.matrixOf(spec.id)
    for (const [i, item] of group.entries()) {
      const world = new Vector3(...item.at).applyMatrix4(matrix)
      const [x, y] = e.camera.project(world)
      if (x >= b.x && x <= b.x + b.w && y >= b.y && y <= b.y + b.h) marks.push({ body: spec.id, kind, index: i })
    }
  }
  emit('box', marks, add)
}

const tip = computed(() => {
  const h = hover.value
  if (!h) return null
  const spec = (props.pickBodies ?? props.bodies).find((b) => b.id === h.hit.body)
  if (!spec) return null
  const t = spec.mesh.topology
  if (h.hit.kind === 'face') return faceWords(t.faces[h.hit.index])
  if (h.hit.kind === 'edge') return edgeWords(t.edges[h.hit.index])
  const at = t.vertices[h.hit.index]?.at
  return at ? ['vertex', at.map((v) => bare(v)).join(', ')] : null
})
function faceWords(f: FaceInfo | undefined): string[] | null {
  if (!f) return null
  const round = f.radius ? ` · ⌀ ${bare(2 * f.radius)}` : ''
  const kind = f.kind === 'plane' ? 'flat face' : f.kind === 'freeform' ? 'free-form face' : `${f.kind}${f.hollow ? ', hollow' : ''}`
  return [kind, `area ${area(f.area)}${round}`]
}
function edgeWords(edge: EdgeInfo | undefined): string[] | null {
  if (!edge) return null
  const round = edge.radius ? ` · R ${bare(edge.radius)}` : ''
  return [edge.kind === 'line' ? 'straight edge' : edge.kind === 'circle' ? 'round edge' : 'curved edge', `${length(edge.length)}${round}`]
}
const chosen = computed(() => {
  if (props.counted) return props.counted
  const n = props.picked.length
  if (!n) return null
  const kinds = new Set(props.picked.map((p) => p.kind))
  const word = kinds.size === 1 ? [...kinds][0] : 'pick'
  return `${n} ${n === 1 ? word : word === 'vertex' ? 'vertices' : `${word}s`}`
})

function faceOn(): void {
  const f = flatFace.value
  if (f) engine.value?.camera.faceOn(new Vector3(...f.normal), new Vector3(...f.at))
}
const control: PaneControl = {
  toggleSection,
  cutAt: (plane) => (section.value = { kind: 'planes', planes: [plane], corner: false }),
  toggleSeeThrough: () => (style.value = style.value === 'seethrough' ? 'shaded' : 'seethrough'),
  togglePerspective: () => {
    const camera = engine.value?.camera
    if (camera) camera.perspective = !camera.perspective
  },
  faceOn,
  previous: () => engine.value?.camera.previous(),
}
if (!props.secondary && !props.fixed) panes.control = control
onUnmounted(() => {
  if (panes.control === control) panes.control = null
})
</script>

<template>
  <div class="pane">
    <div class="bar">
      <slot name="name"
        ><b>{{ title }}</b></slot
      >
      <select
        class="field narrow"
        aria-label="Orientation"
        :value="view ?? ''"
        @change="orient(($event.target as HTMLSelectElement).value as ViewName)"
      >
        <option value="" disabled>View</option>
        <option v-for="[key, word] in VIEWS" :key="key" :value="key">{{ word }}</option>
      </select>
      <span class="chips wide" role="group" aria-label="Orientation">
        <button v-for="[key, word] in VIEWS" :key="key" class="chip" :class="{ on: view === key && !taken }" @click="orient(key)">
          {{ word }}
        </button>
      </span>
      <span class="grow" />
      <StyleField v-if="styles" v-model="style" />
      <span class="chips"><button class="chip" :class="{ on: section }" @click="toggleSection">Section</button></span>
      <ViewMenu
        v-if="engine && !taken"
        v-model:cut="section"
        :engine="engine"
        :look="look"
        :face="flatFace"
        :tick="drawn"
        :keeps="styles && !(secondary && panes.shows)"
        :of-other="views"
        @face-on="faceOn"
        @hide="(ids) => emit('hide', ids)"
      />
      <slot name="bar" />
      <button
        v-if="!taken && !fixed"
        class="icon-btn"
        :aria-label="secondary ? 'Shut this pane' : 'Second pane'"
        :title="secondary ? 'Shut this pane (B)' : 'Second pane (B)'"
        :data-testid="secondary ? 'shut-beside' : 'open-beside'"
        @click="panes.toggle()"
      >
        <Icon :name="secondary ? 'close' : 'panes'" :size="16" />
      </button>
    </div>
    <div
      ref="stage"
      class="stage"
      data-testid="stage"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointerleave="leave"
      @wheel.prevent="wheel"
      @contextmenu.prevent
    >
      <canvas ref="canvas" />
      <slot />
      <div
        v-if="dragBox"
        class="drag-box"
        :style="{ left: dragBox.x + 'px', top: dragBox.y + 'px', width: dragBox.w + 'px', height: dragBox.h + 'px' }"
      />
      <div v-if="hover && tip" class="tip" :style="{ left: hover.x + 18 + 'px', top: hover.y + 14 + 'px' }">
        <div>{{ tip[0] }}</div>
        <div class="second">{{ tip[1] }}</div>
      </div>
      <p v-if="caption" class="caption" :data-testid="secondary ? 'beside-caption' : 'caption'">{{ caption }}</p>
      <div v-if="chosen" class="count">{{ chosen }}</div>
      <svg class="triad" viewBox="-44 -44 88 88" width="88" height="88" aria-hidden="true">
        <g v-for="a in axes" :key="a.name" :class="a.name">
          <line x1="0" y1="0" :x2="a.x" :y2="a.y" />
          <text :x="a.x * 1.32" :y="a.y * 1.32 + 4">{{ a.name }}</text>
        </g>
      </svg>
      <PlaceMarks
        v-if="engine && (centre || places.length + spots.length)"
        :engine="engine"
        :centre="centre"
        :places="[...places, ...spots.map((at) => ({ body: '', place: { value: 0, at, to: null } }))]"
        :tick="drawn"
      />
      <LegendCard :look="look" :places="places" @place="goToPlace" />
      <SectionCard v-if="engine" v-model="section" :engine="engine" :tick="drawn" :face="flatFace" />
    </div>
  </div>
</template>

<style scoped>
.pane {
  container-type: inline-size;
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  height: 100%;
}
.bar {
  height: 38px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 0 12px;
  background: var(--paper);
  overflow: hidden;
}
.bar b {
  font-weight: 600;
  white-space: nowrap;
}
.grow {
  flex: 1;
}
.caption {
  position: absolute;
  left: 12px;
  top: 6px;
  margin: 0;
  padding: 3px 9px;
  border-radius: 6px;
  background: var(--panel);
  border: 1px solid var(--line);
  font-weight: 600;
  pointer-events: none;
}
.narrow {
  display: none;
}
@container (max-width: 660px) {
  .bar {
    gap: 5px;
    padding: 0 8px;
  }
  .bar :deep(.chip) {
    padding: 0 6px;
  }
  .narrow {
    display: block;
    flex: none;
    width: 66px;
    padding: 0 2px;
  }
  .wide {
    display: none;
  }
}
@container (max-width: 430px) {
  .bar {
    height: auto;
    min-height: 38px;
    flex-wrap: wrap;
    padding: 4px 8px;
  }
}
.stage {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
  background: var(--paper);
}
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  display: block;
}
.tip {
  position: absolute;
  z-index: 5;
  background: var(--head);
  color: var(--head-ink);
  border-radius: 6px;
  padding: 5px 9px;
  font-size: 12px;
  pointer-events: none;
  white-space: nowrap;
}
.second {
  opacity: 0.85;
}
.count {
  position: absolute;
  right: 12px;
  top: 8px;
  background: var(--pick-soft);
  color: var(--pick);
  border: 1px solid var(--pick);
  border-radius: 12px;
  padding: 1px 10px;
  font-size: 12px;
  font-weight: 600;
  pointer-events: none;
}
.triad {
  position: absolute;
  left: 8px;
  bottom: 6px;
  pointer-events: none;
}
.triad line {
  stroke-width: 2;
  stroke: var(--ink-2);
  stroke-linecap: round;
}
.triad text {
  font-size: 11px;
  font-weight: 600;
  text-anchor: middle;
  fill: var(--ink-2);
}
.triad .X line {
  stroke: var(--down);
}
.triad .Y line {
  stroke: var(--accent);
}
.triad .Z line {
  stroke: var(--slate);
}
.drag-box {
  position: absolute;
  border: 1px dashed var(--pick);
  background: color-mix(in srgb, var(--pick) 10%, transparent);
  pointer-events: none;
}
</style>
