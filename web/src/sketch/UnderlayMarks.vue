<script setup lang="ts">
// Under the sketch: layouts and other sketches, faint; lit where the pointer would take a curve.
import { computed, onUnmounted, ref, watch } from 'vue'
import { type LayoutItem, placed, useLinks } from './links'
import type { Pair } from './model'
import { nearest } from './paths'
import { type Underlay, useSketch } from './store'

const props = defineProps<{
  affine: number[]
  px: number
  toPane: (p: Pair) => Pair
  toPlane: (x: number, y: number) => Pair
  svg: SVGSVGElement | null
}>()
const sketch = useSketch()
const links = useLinks()

const raw = (points: number[][]): string => points.map((p, i) => `${i ? 'L' : 'M'}${p[0]} ${p[1]}`).join('')
/** Paths per layer in the file's own numbers; made once per file. */
const kept = new Map<string, Map<string, string>>()
function pathsOf(file: string): Map<string, string> {
  const found = kept.get(file)
  if (found) return found
  const parts = new Map<string, string[]>()
  for (const i of links.files[file]?.items ?? []) {
    const list = parts.get(i.layer ?? '') ?? []
    list.push(i.points.length > 1 ? raw(i.points) : `M${i.points[0][0]} ${i.points[0][1]}h0`)
    parts.set(i.layer ?? '', list)
  }
  const made = new Map([...parts].map(([layer, list]) => [layer, list.join('')]))
  if (links.files[file]) kept.set(file, made)
  return made
}
const matrix = (m: number[]): string => `matrix(${m.map((v) => v.toPrecision(9)).join(' ')})`
function own(u: Underlay): string {
  const t = ((u.turn ?? 0) * Math.PI) / 180
  const [c, s] = [Math.cos(t) * (u.scale ?? 1), Math.sin(t) * (u.scale ?? 1)]
  return matrix([c, s, -s, c, ...((u.at ?? [0, 0]) as Pair)])
}
const layers = computed(() =>
  sketch.underlays
    .filter((u) => u.shown !== false && links.files[u.file])
    .flatMap((u) =>
      [...pathsOf(u.file)]
        .filter(([layer]) => !(u.hidden ?? []).includes(layer))
        .map(([layer, d]) => ({ key: `${u.id} ${layer}`, d, at: own(u) })),
    ),
)

/** Curves of other sketches in this plane, seen straight on. */
const others = computed(() => {
  const f = sketch.frame
  if (!f || sketch.tool !== 'bring' || !links.takes.includes('curve')) return []
  const y = [f.z[1] * f.x[2] - f.z[2] * f.x[1], f.z[2] * f.x[0] - f.z[0] * f.x[2], f.z[0] * f.x[1] - f.z[1] * f.x[0]]
  const dot = (a: number[], b: number[]): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  return links.others.flatMap(({ id, name, sketch: s }) => {
    const g = s.frame
    const gy = [g.z[1] * g.x[2] - g.z[2] * g.x[1], g.z[2] * g.x[0] - g.z[0] * g.x[2], g.z[0] * g.x[1] - g.z[1] * g.x[0]]
    const here = (p: number[]): Pair => {
      const d = [0, 1, 2].map((k) => g.origin[k] + p[0] * g.x[k] + p[1] * gy[k] - f.origin[k])
      return [dot(d, f.x), dot(d, y)]
    }
    const curves = s.curves.map((c) => ({ sketch: id, name, id: c.id, points: c.points.map(here) }))
    const points = Object.entries(s.points).map(([k, p]) => ({ sketch: id, name, id: k, points: [here(p), here(p)] }))
    return [...curves, ...points]
  })
})

type Found = { points: Pair[]; words: string; take: () => Promise<void> }
const hover = ref<Found | null>(null)
const items = computed(() =>
  sketch.tool === 'bring'
    ? sketch.underlays
        .filter((u) => u.shown !== false)
        .flatMap((u) =>
          (links.files[u.file]?.items ?? []).filter((i) => !(u.hidden ?? []).includes(i.layer ?? '')).map((item) => boxed(u, item)),
        )
    : [],
)
function boxed(u: Underlay, item: LayoutItem): { u: Underlay; item: LayoutItem; points: Pair[]; low: Pair; high: Pair } {
  const points = item.points.map((p) => placed(u, p as Pair))
  const xs = points.map((p) => p[0])
  const ys = points.map((p) => p[1])
  return { u, item, points, low: [Math.min(...xs), Math.min(...ys)], high: [Math.max(...xs), Math.max(...ys)] }
}

function under(event: PointerEvent): Found | null {
  if (sketch.tool !== 'bring' || !props.svg) return null
  const box = props.svg.getBoundingClientRect()
  const at = props.toPlane(event.clientX - box.left, event.clientY - box.top)
  let least = 7 / props.px
  let best: Found | null = null
  for (const o of others.value) {
    const gap = o.points.length > 1 ? nearest(o.points, at).gap : Infinity
    if (gap < least) {
      least = gap
      best = { points: o.points, words: o.name, take: () => links.bring({ sketch: o.sketch, curves: links.whole ? [] : [o.id] }) }
    }
  }
  for (const i of items.value) {
    if (at[0] < i.low[0] - least || at[0] > i.high[0] + least || at[1] < i.low[1] - least || at[1] > i.high[1] + least) continue
    const gap = i.points.length > 1 ? nearest(i.points, at).gap : Math.hypot(i.points[0][0] - at[0], i.points[0][1] - at[1])
    if (gap < least) {
      least = gap
      best = { points: i.points, words: `layer ${i.item.layer}`, take: () => links.take(i.u, i.item) }
    }
  }
  return best
}
// The picture below takes edges and faces of bodies: curves lying nearer are taken before it hears.
let pressed: Found | null = null
function move(event: PointerEvent): void {
  hover.value = event.buttons ? null : under(event)
  if (hover.value) event.stopPropagation()
}
function down(event: PointerEvent): void {
  if (event.button !== 0) return
  pressed = under(event)
  if (pressed) event.stopPropagation()
}
function up(event: PointerEvent): void {
  const was = pressed
  pressed = null
  if (!was) return
  event.stopPropagation()
  hover.value = null
  void was.take()
}
const HEARD = { pointermove: move, pointerdown: down, pointerup: up } as const
watch(
  () => props.svg?.parentElement ?? null,
  (pane, was) => {
    for (const [name, heard] of Object.entries(HEARD)) {
      was?.removeEventListener(name, heard as EventListener, true)
      pane?.addEventListener(name, heard as EventListener, true)
    }
  },
  { immediate: true },
)
onUnmounted(() => {
  for (const [name, heard] of Object.entries(HEARD)) props.svg?.parentElement?.removeEventListener(name, heard as EventListener, true)
})

const line = (points: Pair[]): string =>
  points
    .map((p, i) => {
      const [x, y] = props.toPane(p)
      return `${i ? 'L' : 'M'}${x.toFixed(2)} ${y.toFixed(2)}`
    })
    .join('')
const differs = computed(() => {
  const found = links.replacing
  if (!found) return []
  const under = (list: LayoutItem[], tone: string): { d: string; tone: string }[] => {
    const u = sketch.underlays.find((x) => found.underlays.some((n) => n.id === x.id && n.file !== x.file))
    return u ? list.map((i) => ({ d: line(i.points.map((p) => placed(u, p as Pair))), tone })) : []
  }
  return [...under(found.gone, 'gone'), ...under(found.changed, 'changed'), ...under(found.new, 'new')]
})
</script>

<template>
  <g :transform="matrix(affine)" class="layouts">
    <path v-for="l in layers" :key="l.key" :d="l.d" :transform="l.at" class="layout" data-testid="layout" />
  </g>
  <path v-for="(o, i) in others" :key="'o' + i" :d="line(o.points)" class="other" />
  <path v-for="(d, i) in differs" :key="'d' + i" :d="d.d" class="differs" :class="d.tone" />
  <g v-if="hover" class="hover">
    <path :d="line(hover.points)" />
    <text :x="toPane(hover.points[0])[0] + 10" :y="toPane(hover.points[0])[1] - 8">{{ hover.words }}</text>
  </g>
</template>

<style scoped>
path {
  fill: none;
  pointer-events: none;
}
.layout {
  stroke: var(--slate);
  stroke-width: 1.1;
  opacity: 0.75;
  vector-effect: non-scaling-stroke;
  stroke-linecap: round;
}
.other {
  stroke: var(--slate);
  stroke-width: 1.6;
  stroke-dasharray: 2 3;
}
.hover path {
  stroke: var(--hover);
  stroke-width: 3.2;
}
.hover text {
  fill: var(--hover);
  font-size: 12px;
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
}
.differs {
  stroke-width: 2.4;
}
.differs.gone {
  stroke: var(--bad);
  stroke-dasharray: 4 4;
}
.differs.changed {
  stroke: var(--loose);
}
.differs.new {
  stroke: var(--up);
  stroke-dasharray: 9 3;
}
</style>
