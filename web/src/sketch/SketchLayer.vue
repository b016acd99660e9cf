<script setup lang="ts">
// The sketch as it is drawn, over the 3D view: curves, points, hints, and what the pointer means.
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { edgesInPlane } from './beneath'
import DimensionMarks from './DimensionMarks.vue'
import HelpMarks from './HelpMarks.vue'
import { infer, type Inferred } from './infer'
import { useSketchKeys } from './keys'
import { placed, useLinks } from './links'
import { constraints, entities, type Entity, formOf, type Pair, pointAt, type Spot, standsOn, usedPoints } from './model'
import { drawnRuns, nearestOf, placesOf, polyline as pathOf, runsOf } from './paths'
import { usePlaces } from './places'
import { usePlane } from './plane'
import { useSketch } from './store'
import { useTool } from './tool'
import UnderlayMarks from './UnderlayMarks.vue'
import { displaced, useWiggle } from './wiggle'
import { bare } from '../ui/units'

const props = defineProps<{ engine: Engine; tick: number; beneath: BodySpec[] }>()
const sketch = useSketch()
const tool = useTool()
const links = useLinks()
const places = usePlaces()
const svg = ref<SVGSVGElement | null>(null)

const { affine, px, toPane, toPlane } = usePlane(props)
const polyline = (points: Pair[], close = false): string => pathOf(points, toPane, close)

const swing = useWiggle()
/** What is shown: the drawing, or one of its free motions at a moment. */
const drawing = computed(() => (swing.value ? displaced(sketch.drawing, swing.value, 14 / px.value) : sketch.drawing))
const loose = computed(() => sketch.solved?.loose ?? {})
const clash = computed(
  () => new Set(sketch.refusal?.culprits.flatMap((id) => constraints(sketch.refusal!.tried).find((c) => c.id === id)?.on ?? []) ?? []),
)
const isLoose = (e: Entity): boolean => e.id in loose.value || standsOn(e).some((p) => p in loose.value)

const curves = computed(() =>
  entities(drawing.value)
    .filter((e) => e.type !== 'point')
    .map((e) => ({ e, runs: placesOf(drawing.value, e, sketch.free) })),
)
const points = computed(() => {
  const used = usedPoints(entities(drawing.value))
  return entities(drawing.value)
    .filter((e) => e.type === 'point')
    .map((e) => ({
      id: e.id,
      at: toPane(pointAt(drawing.value, e.id)),
      own: !used.has(e.id) && !e.source,
      brought: Boolean(e.source),
      way: loose.value[e.id] ?? '',
    }))
})
const fills = computed(() =>
  sketch.regions.map((r) => polyline(r.outer as Pair[], true) + (r.holes as Pair[][]).map((h) => polyline(h, true)).join('')),
)

// --- what the pointer means
const now = ref<Inferred>({ at: [0, 0], hint: '' })
const hover = ref<string | null>(null)
/** Ends and centres of the layouts shown: they catch the pointer. */
const catches = computed<Pair[]>(() =>
  sketch.underlays
    .filter((u) => u.shown !== false)
    .flatMap((u) =>
      (links.files[u.file]?.items ?? [])
        .filter((i) => !(u.hidden ?? []).includes(i.layer ?? ''))
        .flatMap((i) => [i.points[0], i.points.at(-1)!, ...(i.form === 'circle' ? [i.at!] : [])].map((p) => placed(u, p as Pair))),
    ),
)
const model = computed(() => (sketch.frame ? edgesInPlane(props.beneath, sketch.frame) : []))
const snapped = (plane: Pair, from: Spot | null): Inferred =>
  infer(sketch.drawing, plane, 9 / px.value, from, sketch.free, catches.value, model.value)
const drawingTool = computed(() => Boolean(tool.tool?.spots.length) && !tool.picking)
const preview = computed(() => {
  const found = tool.drawn
  if (!drawingTool.value && !tool.tool) return []
  if (!found) return tool.spots.length ? [polyline([...tool.spots.map((s) => s.at), tool.target.at])] : []
  const d = found.drawing
  const free = runsOf(found.curves)
  return entities(d)
    .filter((e) => e.type !== 'point' && free.has(e.id))
    .map((e) => drawnRuns(placesOf(d, e, free), toPane))
})

const local = (event: PointerEvent): Pair => {
  const box = svg.value!.getBoundingClientRect()
  return [event.clientX - box.left, event.clientY - box.top]
}

/** The entity under the pointer: points before curves. */
function under(at: Pair): string | null {
  let best: string | null = null
  let least = 9
  for (const p of points.value) {
    const gap = Math.hypot(p.at[0] - at[0], p.at[1] - at[1])
    if (gap < least) [best, least] = [p.id, gap]
  }
  const origin = toPane([0, 0])
  if (Math.hypot(origin[0] - at[0], origin[1] - at[1]) < Math.min(least, 9)) return 'origin'
  if (best) return best
  least = 7
  const plane = toPlane(...at)
  for (const { e, runs } of curves.value) {
    const gap = nearestOf(runs, plane).gap * px.value
    if (gap < least) [best, least] = [e.id, gap]
  }
  if (best) return best
  for (const [id, k] of [
    ['x_axis', 1],
    ['y_axis', 0],
  ] as const)
    if (Math.abs(plane[k]) * px.value < 5) return id
  return null
}

/** What is being dragged. */
const held = ref<string | null>(null)
let gripped: Pair = [0, 0]
let boxFrom: Pair | null = null
const box = ref<{ x: number; y: number; w: number; h: number } | null>(null)
let moved = false
let lastAt: Pair = [0, 0]

function move(event: PointerEvent): void {
  const at = local(event)
  const plane = toPlane(...at)
  lastAt = plane
  if (places.open) now.value = event.ctrlKey ? { at: plane, hint: '' } : snapped(plane, null)
  else if (held.value) {
    moved = true
    sketch.drag(held.value, plane, gripped)
  } else if (boxFrom) {
    if (Math.hypot(at[0] - boxFrom[0], at[1] - boxFrom[1]) > 5)
      box.value = {
        x: Math.min(at[0], boxFrom[0]),
        y: Math.min(at[1], boxFrom[1]),
        w: Math.abs(at[0] - boxFrom[0]),
        h: Math.abs(at[1] - boxFrom[1]),
      }
  } else if (drawingTool.value) {
    const from = tool.tool?.chain || tool.tool?.more ? (tool.spots.at(-1) ?? null) : (tool.spots[0] ?? null)
    now.value = event.ctrlKey ? { at: plane, hint: '' } : snapped(plane, from)
    tool.move({ at: now.value.at, snap: now.value.snap, level: now.value.level })
  } else hover.value = under(at)
}

function down(event: PointerEvent): void {
  if (event.button !== 0 || drawingTool.value || places.open) return
  const at = local(event)
  const id = under(at)
  if (!id && sketch.tool === 'select') {
    boxFrom = at
    svg.value!.setPointerCapture(event.pointerId)
  } else if (id && sketch.tool === 'select' && id !== 'origin' && !id.endsWith('_axis')) {
    const e = entities(sketch.drawing).find((x) => x.id === id)
    held.value = e && !e.source ? id : null
    gripped = toPlane(...at)
    moved = false
    if (held.value) svg.value!.setPointerCapture(event.pointerId)
  }
}
async function up(event: PointerEvent): Promise<void> {
  if (event.button !== 0) return
  const at = local(event)
  if (places.open) {
    move(event)
    places.give(now.value.at)
    return
  }
  if (held.value) {
    const was = held.value
    held.value = null
    if (moved) await sketch.dropped()
    else sketch.select(was, event.shiftKey)
    return
  }
  const wasBox = box.value
  boxFrom = null
  box.value = null
  if (wasBox) {
    boxPick(wasBox, event.shiftKey)
    return
  }
  if (drawingTool.value) {
    move(event)
    if (now.value.edge) {
      // The place is then one of the linked curve, and follows it.
      await links.bring({ pick: now.value.edge.pick() as unknown as Schemas['Pick'] }, 'seen')
      move(event)
    }
    await tool.click((a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]) * px.value < 3)
    return
  }
  const id = under(at)
  if (sketch.tool === 'dimension') {
    if (id && !(sketch.selected.length === 1 && sketch.selected[0] === id) && sketch.selected.length < 2) sketch.select(id, true)
    else if (sketch.selected.length) await sketch.dimension(sketch.selected, toPlane(...at))
    return
  }
  if (id || sketch.tool !== 'measure') sketch.select(id, event.shiftKey || Boolean(tool.tool) || sketch.tool === 'measure')
}
/** Everything that lies wholly in the box. */
function boxPick(b: { x: number; y: number; w: number; h: number }, add: boolean): void {
  const inside = (p: Pair): boolean => p[0] >= b.x && p[0] <= b.x + b.w && p[1] >= b.y && p[1] <= b.y + b.h
  const found = curves.value.filter(({ runs }) => runs.length && runs.flat().every((p) => inside(toPane(p)))).map(({ e }) => e.id)
  found.push(...points.value.filter((p) => p.own && inside(p.at)).map((p) => p.id))
  sketch.selected = add ? [...new Set([...sketch.selected, ...found])] : found
}
function chain(event: MouseEvent): void {
  const id = drawingTool.value ? null : under(local(event as PointerEvent))
  if (id && formOf(sketch.drawing, id) !== 'point') sketch.pickChain(id)
}

const sizeField = ref<HTMLInputElement[]>([])
const shownSize = (name: string, kind: string): string => {
  const value = tool.drawn?.read[name]
  return value === undefined
    ? ''
    : kind === 'angle'
      ? `${((value * 180) / Math.PI).toFixed(1)}°`
      : kind === 'number'
        ? value.toFixed(2)
        : bare(Number(value.toPrecision(5)))
}
async function sizeKey(event: KeyboardEvent, i: number): Promise<void> {
  event.stopPropagation()
  if (event.key === 'Enter') {
    event.preventDefault()
    await tool.enter()
  } else if (event.key === 'Escape') tool.reset()
  else if (event.key === 'Tab') {
    event.preventDefault()
    sizeField.value[(i + (event.shiftKey ? tool.atPointer.length - 1 : 1)) % tool.atPointer.length]?.focus()
  }
}

useSketchKeys(
  () => lastAt,
  () => sizeField.value[0]?.focus(),
)

const hintAt = computed(() => toPane(tool.target.at))
const said = computed(() => [now.value.hint, tool.spots.length || tool.tool?.more ? '' : tool.prompt].filter(Boolean).join(' · '))
const axesPaths = computed(() => {
  const far = 4000 / px.value
  return [
    polyline([
      [-far, 0],
      [far, 0],
    ]),
    polyline([
      [0, -far],
      [0, far],
    ]),
  ]
})
</script>

<template>
  <svg
    ref="svg"
    class="layer"
    :class="{ drawing: drawingTool || places.open, pulling: held, through: sketch.tool === 'bring' && !places.open }"
    data-testid="sketch-layer"
    @pointermove="move"
    @pointerdown="down"
    @pointerup="up"
    @pointerleave="hover = null"
    @dblclick="chain"
  >
    <UnderlayMarks :affine="affine" :px="px" :to-pane="toPane" :to-plane="toPlane" :svg="svg" />
    <path v-for="(d, i) in fills" :key="i" :d="d" class="region" fill-rule="evenodd" />
    <path
      v-for="(d, i) in axesPaths"
      :key="'a' + i"
      :d="d"
      class="axis"
      :class="{ selected: sketch.selected.includes(i ? 'y_axis' : 'x_axis') }"
    />
    <g v-for="{ e, runs } in curves" :key="e.id">
      <path v-if="clash.has(e.id)" :d="drawnRuns(runs, toPane)" class="clash" />
      <path
        :d="drawnRuns(runs, toPane)"
        class="curve"
        :class="{
          brought: e.source,
          text: e.type === 'text',
          loose: isLoose(e),
          construction: e.construction,
          hover: hover === e.id,
          selected: sketch.selected.includes(e.id),
        }"
        :data-testid="`curve-${e.id}`"
      />
    </g>
    <HelpMarks :to-pane="toPane" :curves="curves" />
    <g
      v-for="p in points"
      :key="p.id"
      :transform="`translate(${p.at[0].toFixed(2)} ${p.at[1].toFixed(2)})`"
      class="point"
      :class="{ loose: p.way, own: p.own, hover: hover === p.id, selected: sketch.selected.includes(p.id) }"
    >
      <path v-if="p.way.includes('x')" d="M-11 0h6M5 0h6" class="tick" />
      <path v-if="p.way.includes('y')" d="M0 -11v6M0 5v6" class="tick" />
      <circle v-if="p.brought" r="6" class="ring" />
      <circle r="3" />
      <path v-if="p.own" d="M-6 0h12M0 -6v12" class="cross" />
    </g>
    <circle
      :cx="toPane([0, 0])[0]"
      :cy="toPane([0, 0])[1]"
      r="4"
      class="origin"
      :class="{ selected: sketch.selected.includes('origin'), hover: hover === 'origin' }"
    />
    <DimensionMarks v-if="!swing" :to-pane="toPane" :to-plane="toPlane" :px="px" />
    <path v-for="(d, i) in preview" :key="'p' + i" :d="d" class="preview" />
    <circle v-for="(s, i) in tool.spots" :key="'s' + i" :cx="toPane(s.at)[0]" :cy="toPane(s.at)[1]" r="3.5" class="spot" />
    <circle v-for="(p, i) in places.got" :key="'g' + i" :cx="toPane(p)[0]" :cy="toPane(p)[1]" r="4" class="spot" />
    <circle v-if="places.open" :cx="toPane(now.at)[0]" :cy="toPane(now.at)[1]" r="6" class="snap" />
    <circle v-if="drawingTool && now.snap" :cx="hintAt[0]" :cy="hintAt[1]" r="6" class="snap" />
    <rect v-if="box" :x="box.x" :y="box.y" :width="box.w" :height="box.h" class="box" />
  </svg>
  <div
    v-if="drawingTool && (said || tool.trouble)"
    class="hint"
    :class="{ bad: tool.trouble }"
    :style="{ left: hintAt[0] + 14 + 'px', top: hintAt[1] - 30 + 'px' }"
    data-testid="hint"
  >
    {{ tool.trouble || said }}
  </div>
  <div v-if="tool.atPointer.length" class="sizes" :style="{ left: hintAt[0] + 18 + 'px', top: hintAt[1] + 14 + 'px' }">
    <label v-for="(s, i) in tool.atPointer" :key="s.name">
      <span>{{ s.label }}</span>
      <input
        :ref="
          (el) => {
            if (el) sizeField[i] = el as HTMLInputElement
          }
        "
        v-model="tool.texts[s.name]"
        class="field"
        :placeholder="shownSize(s.name, s.kind)"
        spellcheck="false"
        autocomplete="off"
        :data-testid="`size-${i}`"
        @keydown="sizeKey($event, i)"
        @pointerdown.stop
      />
    </label>
  </div>
</template>

<style scoped>
.layer {
  user-select: none;
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: hidden;
}
.layer.drawing {
  cursor: crosshair;
}
.layer.through {
  pointer-events: none;
}
.layer.pulling :deep(.glyph) {
  display: none;
}
.curve.brought {
  stroke: var(--slate);
}
.region {
  fill: var(--accent);
  fill-opacity: 0.09;
  pointer-events: none;
}
.axis {
  stroke: var(--ink-3);
  stroke-width: 1;
  opacity: 0.45;
  fill: none;
}
.curve {
  fill: none;
  stroke: var(--settled);
  stroke-width: 1.8;
}
.curve.loose {
  stroke: var(--loose);
  stroke-dasharray: 7 4;
}
.curve.text {
  stroke-width: 1.2;
  stroke-dasharray: none;
}
.curve.construction {
  stroke-width: 1.1;
  stroke-dasharray: 11 3 2 3;
}
.curve.hover {
  stroke: var(--hover);
  stroke-width: 2.6;
}
.curve.selected,
.axis.selected {
  stroke: var(--pick);
  stroke-width: 2.8;
  opacity: 1;
}
.clash {
  fill: none;
  stroke: var(--bad);
  stroke-width: 7;
  opacity: 0.55;
}
.point circle {
  fill: var(--panel);
  stroke: var(--settled);
  stroke-width: 1.4;
}
.point .ring {
  fill: none;
  stroke: var(--slate);
  stroke-width: 1.2;
}
.point.loose circle {
  stroke: var(--loose);
}
.point.hover circle {
  stroke: var(--hover);
  fill: var(--hover);
}
.point.selected circle {
  stroke: var(--pick);
  fill: var(--pick);
}
.cross {
  stroke: var(--settled);
  stroke-width: 1.2;
}
.tick {
  stroke: var(--loose);
  stroke-width: 1.5;
  fill: none;
}
.origin {
  fill: var(--ink);
  stroke: var(--panel);
  stroke-width: 1.5;
}
.origin.hover {
  fill: var(--hover);
}
.origin.selected {
  fill: var(--pick);
}
.preview {
  fill: none;
  stroke: var(--accent);
  stroke-width: 1.8;
  pointer-events: none;
}
.snap {
  fill: none;
  stroke: var(--hover);
  stroke-width: 1.8;
  pointer-events: none;
}
.spot {
  fill: var(--accent);
  stroke: var(--panel);
  stroke-width: 1;
  pointer-events: none;
}
.box {
  fill: color-mix(in srgb, var(--pick) 10%, transparent);
  stroke: var(--pick);
  stroke-dasharray: 4 3;
  pointer-events: none;
}
.hint {
  position: absolute;
  pointer-events: none;
  background: var(--hover);
  color: var(--panel);
  font-size: 11px;
  font-weight: 600;
  border-radius: 4px;
  padding: 0 6px;
  white-space: nowrap;
}
.hint.bad {
  background: var(--bad);
}
.sizes {
  position: absolute;
  display: flex;
  flex-direction: column;
  gap: 4px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 7px;
  padding: 5px 7px;
  box-shadow: var(--shadow);
}
.sizes label {
  display: flex;
  gap: 7px;
  align-items: center;
  justify-content: space-between;
  font-size: 12px;
  color: var(--ink-2);
}
.sizes .field {
  width: 84px;
  height: 23px;
}
</style>
