<script setup lang="ts">
// The sketch as it is drawn: lines over the 3D view, hints at the pointer, sizes typed while drawing.
// Parallel projection makes the sketch plane an affine picture, so one SVG matrix carries it.
import { Vector3 } from 'three'
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import type { Engine } from '../viewport/engine'
import DimensionMarks from './DimensionMarks.vue'
import { infer, type Inferred } from './infer'
import {
  addArc, addArc3, addCircle, addLine, addPoint, addRectangle, constraints, entities, type Entity, formOf, lineEnds, type Pair, pointAt, roundOf, type Spot, usedPoints,
} from './model'
import { useSketch } from './store'

const props = defineProps<{ engine: Engine; tick: number }>()
const sketch = useSketch()
const svg = ref<SVGSVGElement | null>(null)

const frame = computed(() => sketch.frame)
/** Plane (mm) to pane (pixels): a b c d e f. */
const affine = computed<[number, number, number, number, number, number]>(() => {
  void props.tick
  const f = frame.value
  if (!f) return [1, 0, 0, -1, 0, 0]
  const o = new Vector3(...f.origin)
  const [ox, oy] = props.engine.camera.project(o)
  const [ax, ay] = props.engine.camera.project(o.clone().add(new Vector3(...f.x)))
  const [bx, by] = props.engine.camera.project(o.clone().add(new Vector3(...f.y)))
  return [ax - ox, ay - oy, bx - ox, by - oy, ox, oy]
})
const px = computed(() => Math.sqrt(Math.abs(affine.value[0] * affine.value[3] - affine.value[1] * affine.value[2])) || 1)
const toPane = (p: Pair): Pair => {
  const [a, b, c, d, e, f] = affine.value
  return [a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f]
}
const toPlane = (x: number, y: number): Pair => {
  const [a, b, c, d, e, f] = affine.value
  const det = a * d - b * c || 1e-9
  const u = x - e
  const v = y - f
  return [(d * u - c * v) / det, (a * v - b * u) / det]
}

const drawing = computed(() => sketch.drawing)
const loose = computed(() => sketch.solved?.loose ?? {})
const clash = computed(() => new Set(sketch.refusal?.culprits.flatMap((id) => constraints(sketch.refusal!.tried).find((c) => c.id === id)?.on ?? []) ?? []))

function pointsOf(e: Entity): string[] {
  return e.type === 'line' ? [e.a, e.b] : e.type === 'circle' ? [e.centre] : e.type === 'arc' ? [e.centre, e.start, e.end] : [e.id]
}
const isLoose = (e: Entity): boolean => e.id in loose.value || pointsOf(e).some((p) => p in loose.value)

/** SVG path of a curve in pane pixels. */
function path(e: Entity): string {
  if (e.type === 'line') {
    const [a, b] = [toPane(pointAt(drawing.value, e.a)), toPane(pointAt(drawing.value, e.b))]
    return `M${a[0].toFixed(2)} ${a[1].toFixed(2)}L${b[0].toFixed(2)} ${b[1].toFixed(2)}`
  }
  const round = roundOf(drawing.value, e.id)
  if (!round) return ''
  let first = 0
  let last = 2 * Math.PI
  if (e.type === 'arc') {
    const s = pointAt(drawing.value, e.start)
    const t = pointAt(drawing.value, e.end)
    first = Math.atan2(s[1] - round.centre[1], s[0] - round.centre[0])
    last = Math.atan2(t[1] - round.centre[1], t[0] - round.centre[0])
    if (last <= first + 1e-9) last += 2 * Math.PI
  }
  return polyline(arcPoints(round.centre, round.radius, first, last))
}
function arcPoints(c: Pair, r: number, first: number, last: number): Pair[] {
  const n = Math.max(8, Math.ceil((Math.abs(last - first) / (2 * Math.PI)) * 72))
  return Array.from({ length: n + 1 }, (_, i) => {
    const t = first + ((last - first) * i) / n
    return [c[0] + r * Math.cos(t), c[1] + r * Math.sin(t)] as Pair
  })
}
const polyline = (points: Pair[], close = false): string =>
  points.map((p, i) => { const [x, y] = toPane(p); return `${i ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}` }).join('') + (close ? 'Z' : '')

const curves = computed(() => entities(drawing.value).filter((e) => e.type !== 'point'))
const points = computed(() => {
  const used = usedPoints(entities(drawing.value))
  return entities(drawing.value).filter((e) => e.type === 'point').map((e) => ({ id: e.id, at: toPane(pointAt(drawing.value, e.id)), own: !used.has(e.id), way: loose.value[e.id] ?? '' }))
})
const fills = computed(() => sketch.regions.map((r) => polyline(r.outer as Pair[], true) + (r.holes as Pair[][]).map((h) => polyline(h, true)).join('')))

// Drawing tools: spots clicked so far, the place under the pointer, sizes typed.
const spots = ref<Spot[]>([])
const now = ref<Inferred>({ at: [0, 0], hint: '' })
const pointer = ref<Pair>([0, 0])
const sizes = ref<string[]>(['', ''])
const turn = ref(0)
const sizeField = ref<HTMLInputElement[]>([])
const hover = ref<string | null>(null)

const drawingTool = computed(() => sketch.tool !== 'select' && sketch.tool !== 'dimension')
watch(() => sketch.tool, reset)
function reset(): void {
  spots.value = []
  sizes.value = ['', '']
  turn.value = 0
}
watch(() => sketch.step, reset)

const value = (text: string): string => (/^[\d.]+$/.test(text.trim()) ? `${text.trim()} mm` : text.trim())
const numeric = (text: string): number | null => {
  const found = /^([\d.]+)\s*(mm)?$/.exec(text.trim())
  return found ? Number.parseFloat(found[1]) : null
}

const asked = computed<string[]>(() => {
  if (!spots.value.length) return []
  switch (sketch.tool) {
    case 'line': return ['Length']
    case 'rectangle': case 'centre_rectangle': return ['Width', 'Height']
    case 'circle': return ['Diameter']
    case 'arc': return spots.value.length === 1 ? [] : ['Radius']
    case 'arc3': return spots.value.length === 2 ? ['Radius'] : []
    default: return []
  }
})

/** Where the pointer is taken to be, once typed sizes are respected. */
const target = computed<Spot>(() => {
  const from = spots.value[0]
  const spot: Spot = { at: now.value.at, snap: now.value.snap, level: now.value.level }
  if (!from) return spot
  const dx = spot.at[0] - from.at[0]
  const dy = spot.at[1] - from.at[1]
  const [one, two] = sizes.value.map(numeric)
  if (sketch.tool === 'line' && one) {
    const length = Math.hypot(dx, dy) || 1
    return { at: [from.at[0] + (dx / length) * one, from.at[1] + (dy / length) * one], level: spot.level }
  }
  if ((sketch.tool === 'rectangle' || sketch.tool === 'centre_rectangle') && (one || two)) {
    const half = sketch.tool === 'centre_rectangle' ? 0.5 : 1
    return { at: [from.at[0] + (one ? Math.sign(dx || 1) * one * half : dx), from.at[1] + (two ? Math.sign(dy || 1) * two * half : dy)] }
  }
  if (sketch.tool === 'circle' && one) {
    const length = Math.hypot(dx, dy) || 1
    return { at: [from.at[0] + ((dx || 1) / length) * (one / 2), from.at[1] + (dy / length) * (one / 2)] }
  }
  return spot
})

const preview = computed(() => {
  const from = spots.value[0]
  if (!from || !drawingTool.value) return ''
  const to = target.value.at
  switch (sketch.tool) {
    case 'line': return polyline([from.at, to])
    case 'rectangle': return polyline([from.at, [to[0], from.at[1]], to, [from.at[0], to[1]]], true)
    case 'centre_rectangle': {
      const o: Pair = [2 * from.at[0] - to[0], 2 * from.at[1] - to[1]]
      return polyline([o, [to[0], o[1]], to, [o[0], to[1]]], true)
    }
    case 'circle': return polyline(arcPoints(from.at, Math.hypot(to[0] - from.at[0], to[1] - from.at[1]), 0, 2 * Math.PI))
    case 'arc': {
      if (spots.value.length === 1) return polyline([from.at, to])
      const s = spots.value[1].at
      const first = Math.atan2(s[1] - from.at[1], s[0] - from.at[0])
      return polyline(arcPoints(from.at, Math.hypot(s[0] - from.at[0], s[1] - from.at[1]), first, first + turn.value))
    }
    case 'arc3': {
      if (spots.value.length === 1) return polyline([from.at, to])
      const d = addArc3({ entities: [], constraints: [] }, spots.value[0], spots.value[1], { at: to }, '', false)
      const arc = entities(d).find((e) => e.type === 'arc')
      if (arc?.type !== 'arc') return ''
      const c = pointAt(d, arc.centre)
      const s = pointAt(d, arc.start)
      const t = pointAt(d, arc.end)
      const first = Math.atan2(s[1] - c[1], s[0] - c[0])
      let last = Math.atan2(t[1] - c[1], t[0] - c[0])
      if (last <= first) last += 2 * Math.PI
      return polyline(arcPoints(c, Math.hypot(s[0] - c[0], s[1] - c[1]), first, last))
    }
    default: return ''
  }
})

const previewSizes = computed(() => {
  const from = spots.value[0]
  if (!from) return ['', '']
  const to = target.value.at
  const dx = Math.abs(to[0] - from.at[0])
  const dy = Math.abs(to[1] - from.at[1])
  switch (sketch.tool) {
    case 'line': return [Math.hypot(dx, dy).toFixed(1)]
    case 'rectangle': return [dx.toFixed(1), dy.toFixed(1)]
    case 'centre_rectangle': return [(2 * dx).toFixed(1), (2 * dy).toFixed(1)]
    case 'circle': return [(2 * Math.hypot(dx, dy)).toFixed(1)]
    case 'arc': return spots.value[1] ? [Math.hypot(spots.value[1].at[0] - from.at[0], spots.value[1].at[1] - from.at[1]).toFixed(1)] : ['']
    default: return ['']
  }
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
  for (const e of curves.value) {
    let gap = Infinity
    const ends = lineEnds(drawing.value, e.id)
    if (ends) {
      const [a, b] = ends.map(toPane)
      const dx = b[0] - a[0]
      const dy = b[1] - a[1]
      const t = Math.min(1, Math.max(0, ((at[0] - a[0]) * dx + (at[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)))
      gap = Math.hypot(at[0] - a[0] - t * dx, at[1] - a[1] - t * dy)
    } else {
      const round = roundOf(drawing.value, e.id)
      if (round) gap = Math.abs(Math.hypot(plane[0] - round.centre[0], plane[1] - round.centre[1]) - round.radius) * px.value
      if (e.type === 'arc' && gap < least && !withinArc(e, plane)) gap = Infinity
    }
    if (gap < least) [best, least] = [e.id, gap]
  }
  if (best) return best
  for (const [id, k] of [['x_axis', 1], ['y_axis', 0]] as const) if (Math.abs(plane[k]) * px.value < 5) return id
  return null
}
function withinArc(e: Extract<Entity, { type: 'arc' }>, p: Pair): boolean {
  const c = pointAt(drawing.value, e.centre)
  const angle = (q: Pair): number => Math.atan2(q[1] - c[1], q[0] - c[0])
  const span = (x: number): number => ((x % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI)
  const first = angle(pointAt(drawing.value, e.start))
  return span(angle(p) - first) <= span(angle(pointAt(drawing.value, e.end)) - first)
}

let dragging: string | null = null
let moved = false

function move(event: PointerEvent): void {
  const at = local(event)
  pointer.value = at
  const plane = toPlane(...at)
  if (dragging) {
    moved = true
    sketch.drag(dragging, plane)
    return
  }
  if (drawingTool.value) {
    const last = spots.value.at(-1) ?? null
    now.value = event.ctrlKey ? { at: plane, hint: '' } : infer(drawing.value, plane, 9 / px.value, sketch.tool === 'line' ? last : (spots.value[0] ?? null))
    if (sketch.tool === 'arc' && spots.value.length === 2) follow(plane)
  } else hover.value = under(at)
}
/** Keep count of how far round the pointer went, so that large arcs can be drawn. */
function follow(plane: Pair): void {
  const c = spots.value[0].at
  const s = spots.value[1].at
  const to = Math.atan2(plane[1] - c[1], plane[0] - c[0]) - Math.atan2(s[1] - c[1], s[0] - c[0])
  let delta = to - turn.value
  delta -= Math.round(delta / (2 * Math.PI)) * 2 * Math.PI
  turn.value = Math.max(-6.25, Math.min(6.25, turn.value + delta))
}

function down(event: PointerEvent): void {
  if (event.button !== 0) return
  const at = local(event)
  if (drawingTool.value) return
  const id = under(at)
  if (id && sketch.tool === 'select' && id !== 'origin' && !id.endsWith('_axis')) {
    dragging = formOf(drawing.value, id) === 'line' ? null : id
    moved = false
    if (dragging) svg.value!.setPointerCapture(event.pointerId)
  }
}
async function up(event: PointerEvent): Promise<void> {
  if (event.button !== 0) return
  const at = local(event)
  if (dragging) {
    const was = dragging
    dragging = null
    if (moved) {
      await sketch.dropped()
      return
    }
    sketch.select(was, event.shiftKey)
    return
  }
  if (drawingTool.value) {
    move(event)
    await click()
    return
  }
  const id = under(at)
  if (sketch.tool === 'dimension') {
    if (id && !(sketch.selected.length === 1 && sketch.selected[0] === id) && sketch.selected.length < 2) sketch.select(id, true)
    else if (sketch.selected.length) await sketch.dimension(sketch.selected, toPlane(...at))
    return
  }
  sketch.select(id, event.shiftKey)
}

async function click(): Promise<void> {
  const spot = target.value
  const d = drawing.value
  const c = sketch.construction
  const [one, two] = sizes.value.map(value)
  const from = spots.value[0]
  const same = from && Math.hypot(spot.at[0] - from.at[0], spot.at[1] - from.at[1]) * px.value < 3
  switch (sketch.tool) {
    case 'point': await sketch.apply(addPoint(d, spot)); return
    case 'line': {
      if (!from) { spots.value = [spot]; break }
      if (same) { reset(); return }
      const made = addLine(d, from, spot, one, c)
      const kept = await sketch.apply(made.drawing)
      sizes.value = ['', '']
      // The next line begins where this one ended, unless that closed the outline.
      spots.value = kept && spot.snap?.kind !== 'point' ? [{ at: pointAt(sketch.drawing, made.end), snap: { kind: 'point', id: made.end } }] : []
      break
    }
    case 'rectangle': case 'centre_rectangle':
      if (!from) { spots.value = [spot]; break }
      if (same) return
      await sketch.apply(addRectangle(d, from, spot, one, two, c, sketch.tool === 'centre_rectangle'))
      reset()
      return
    case 'circle':
      if (!from) { spots.value = [spot]; break }
      if (same) return
      await sketch.apply(addCircle(d, from, spot, one, c))
      reset()
      return
    case 'arc':
      if (spots.value.length < 2) { if (!same) spots.value = [...spots.value, spot]; turn.value = 0; break }
      await sketch.apply(addArc(d, from, spots.value[1], spot, turn.value, one, c))
      reset()
      return
    case 'arc3':
      if (spots.value.length < 2) { if (!same) spots.value = [...spots.value, spot]; break }
      await sketch.apply(addArc3(d, from, spots.value[1], spot, one, c))
      reset()
      return
  }
  await nextTick()
}

async function sizeKey(event: KeyboardEvent, i: number): Promise<void> {
  event.stopPropagation()
  if (event.key === 'Enter') {
    event.preventDefault()
    await click()
  } else if (event.key === 'Escape') reset()
  else if (event.key === 'Tab') {
    event.preventDefault()
    sizeField.value[(i + 1) % asked.value.length]?.focus()
  }
}

/** Digits typed while drawing go into the first size. */
function key(event: KeyboardEvent): void {
  const typing = /^(INPUT|SELECT|TEXTAREA)$/.test((event.target as HTMLElement).tagName)
  if (typing) return
  if (/^[\d.]$/.test(event.key) && asked.value.length) {
    event.preventDefault()
    event.stopPropagation()
    sizes.value[0] = sizes.value[0] + event.key
    sizeField.value[0]?.focus()
  } else if (event.key === 'Tab' && asked.value.length) {
    event.preventDefault()
    event.stopPropagation()
    sizeField.value[0]?.focus()
  } else if (event.key === 'Escape') {
    event.stopPropagation()
    if (spots.value.length) reset()
    else if (sketch.tool !== 'select') sketch.tool = 'select'
    else sketch.select(null, false)
  } else if ((event.key === 'Delete' || event.key === 'Backspace') && sketch.selected.length) void sketch.erase()
}
onMounted(() => window.addEventListener('keydown', key, true))
onUnmounted(() => window.removeEventListener('keydown', key, true))

const hintAt = computed(() => toPane(target.value.at))
const axesPaths = computed(() => {
  const far = 4000 / px.value
  return [polyline([[-far, 0], [far, 0]]), polyline([[0, -far], [0, far]])]
})
defineExpose({ toPane, toPlane })
</script>

<template>
  <svg
    ref="svg" class="layer" :class="{ drawing: drawingTool }" data-testid="sketch-layer"
    @pointermove="move" @pointerdown="down" @pointerup="up" @pointerleave="hover = null"
  >
    <path v-for="(d, i) in fills" :key="i" :d="d" class="region" fill-rule="evenodd" />
    <path v-for="(d, i) in axesPaths" :key="'a' + i" :d="d" class="axis" :class="{ selected: sketch.selected.includes(i ? 'y_axis' : 'x_axis') }" />
    <g v-for="e in curves" :key="e.id">
      <path v-if="clash.has(e.id)" :d="path(e)" class="clash" />
      <path
        :d="path(e)" class="curve"
        :class="{ loose: isLoose(e), construction: e.construction, hover: hover === e.id, selected: sketch.selected.includes(e.id) }"
        :data-testid="`curve-${e.id}`"
      />
    </g>
    <g v-for="p in points" :key="p.id" :transform="`translate(${p.at[0].toFixed(2)} ${p.at[1].toFixed(2)})`" class="point" :class="{ loose: p.way, own: p.own, hover: hover === p.id, selected: sketch.selected.includes(p.id) }">
      <path v-if="p.way.includes('x')" d="M-11 0h6M5 0h6" class="tick" />
      <path v-if="p.way.includes('y')" d="M0 -11v6M0 5v6" class="tick" />
      <circle r="3" />
      <path v-if="p.own" d="M-6 0h12M0 -6v12" class="cross" />
    </g>
    <circle :cx="toPane([0, 0])[0]" :cy="toPane([0, 0])[1]" r="4" class="origin" :class="{ selected: sketch.selected.includes('origin'), hover: hover === 'origin' }" />
    <DimensionMarks :to-pane="toPane" :to-plane="toPlane" :px="px" />
    <path v-if="preview" :d="preview" class="preview" />
    <circle v-if="drawingTool && now.snap" :cx="hintAt[0]" :cy="hintAt[1]" r="6" class="snap" />
  </svg>
  <div v-if="drawingTool && now.hint" class="hint" :style="{ left: hintAt[0] + 14 + 'px', top: hintAt[1] - 30 + 'px' }" data-testid="hint">{{ now.hint }}</div>
  <div v-if="asked.length" class="sizes" :style="{ left: hintAt[0] + 18 + 'px', top: hintAt[1] + 14 + 'px' }">
    <label v-for="(word, i) in asked" :key="word">
      <span>{{ word }}</span>
      <input
        :ref="(el) => { if (el) sizeField[i] = el as HTMLInputElement }" v-model="sizes[i]" class="field" :placeholder="previewSizes[i]" spellcheck="false"
        autocomplete="off" :data-testid="`size-${i}`" @keydown="sizeKey($event, i)" @pointerdown.stop
      />
    </label>
  </div>
</template>

<style scoped>
.layer { position: absolute; inset: 0; width: 100%; height: 100%; overflow: hidden; }
.layer.drawing { cursor: crosshair; }
.region { fill: var(--accent); fill-opacity: 0.09; pointer-events: none; }
.axis { stroke: var(--ink-3); stroke-width: 1; opacity: 0.45; fill: none; }
.curve { fill: none; stroke: var(--settled); stroke-width: 1.8; }
.curve.loose { stroke: var(--loose); stroke-dasharray: 7 4; }
.curve.construction { stroke-width: 1.1; stroke-dasharray: 11 3 2 3; }
.curve.hover { stroke: var(--hover); stroke-width: 2.6; }
.curve.selected, .axis.selected { stroke: var(--pick); stroke-width: 2.8; opacity: 1; }
.clash { fill: none; stroke: var(--bad); stroke-width: 7; opacity: 0.55; }
.point circle { fill: var(--panel); stroke: var(--settled); stroke-width: 1.4; }
.point.loose circle { stroke: var(--loose); }
.point.hover circle { stroke: var(--hover); fill: var(--hover); }
.point.selected circle { stroke: var(--pick); fill: var(--pick); }
.cross { stroke: var(--settled); stroke-width: 1.2; }
.tick { stroke: var(--loose); stroke-width: 1.5; fill: none; }
.origin { fill: var(--ink); stroke: var(--panel); stroke-width: 1.5; }
.origin.hover { fill: var(--hover); } .origin.selected { fill: var(--pick); }
.preview { fill: none; stroke: var(--accent); stroke-width: 1.8; pointer-events: none; }
.snap { fill: none; stroke: var(--hover); stroke-width: 1.8; pointer-events: none; }
.hint { position: absolute; pointer-events: none; background: var(--hover); color: var(--panel); font-size: 11px; font-weight: 600; border-radius: 4px; padding: 0 6px; white-space: nowrap; }
.sizes { position: absolute; display: flex; flex-direction: column; gap: 4px; background: var(--panel); border: 1px solid var(--line); border-radius: 7px; padding: 5px 7px; box-shadow: var(--shadow); }
.sizes label { display: flex; gap: 7px; align-items: center; justify-content: space-between; font-size: 12px; color: var(--ink-2); }
.sizes .field { width: 84px; height: 23px; }
</style>
