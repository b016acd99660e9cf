<script setup lang="ts">
// Regions and loose points of the open step's sketch, to be clicked on and off.
import { Vector3 } from 'three'
import { computed, ref } from 'vue'
import type { SketchView } from '../api/client'
import type { Engine } from '../viewport/engine'
import { useEdited } from './edited'
import { area } from '../ui/units'

const props = defineProps<{ engine: Engine; tick: number; sketch: SketchView }>()
const edited = useEdited()
const hover = ref<string | null>(null)

type Pair = [number, number]
interface RegionPick {
  id: string
  at: Pair
  area: number
  curves?: string[]
}
const shown = (type: string): string | null => edited.shownFields.find((f) => f.type === type)?.name ?? null
const regionField = computed(() => shown('regions'))
const curveField = computed(() => shown('curves'))
const pointField = computed(() => shown('points'))

const project = computed(() => {
  void props.tick
  const f = props.sketch.frame
  const o = new Vector3(...f.origin)
  const at = (p: Vector3): [number, number] => props.engine.camera.project(p)
  const [ox, oy] = at(o)
  const [ax, ay] = at(o.clone().add(new Vector3(...f.x)))
  const [bx, by] = at(o.clone().add(new Vector3(...f.y)))
  return (p: Pair): Pair => [ox + p[0] * (ax - ox) + p[1] * (bx - ox), oy + p[0] * (ay - oy) + p[1] * (by - oy)]
})
const path = (points: Pair[]): string =>
  points
    .map((p, i) => {
      const [x, y] = project.value(p)
      return `${i ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`
    })
    .join('') + 'Z'

/** Ids of the regions that count: as the step was built, before that as they were chosen. */
const counted = computed<Set<string>>(() => {
  const built = edited.report?.status === 'ok' && !edited.trying ? edited.report.counted : null
  if (built?.length) return new Set(built)
  const wholes = props.sketch.wholes ?? []
  if (!chosen.value.length) return new Set(props.sketch.regions.filter((r) => r.depth % 2 === 0).map((r) => r.id))
  return new Set(
    chosen.value.flatMap((c) =>
      props.sketch.regions.some((r) => r.id === c.id) ? [c.id] : (wholes.find((w) => w.id === c.id)?.covers ?? []),
    ),
  )
})
const chosen = computed(() => ((regionField.value ? edited.fields[regionField.value] : []) as RegionPick[] | undefined) ?? [])
const regions = computed(() =>
  regionField.value
    ? props.sketch.regions.map((r) => ({
        r,
        d: path(r.outer as Pair[]) + (r.holes as Pair[][]).map(path).join(''),
        on: counted.value.has(r.id),
        picked: chosen.value.length > 0 && counted.value.has(r.id),
      }))
    : [],
)
/** What can be taken as everything inside an outline; the small ones lie on top. */
const wholes = computed(() =>
  regionField.value && edited.whole
    ? [...(props.sketch.wholes ?? [])]
        .sort((a, b) => b.area - a.area)
        .map((w) => ({ w, d: path(w.outer as Pair[]), picked: chosen.value.some((c) => c.id === w.id) }))
    : [],
)
function toggleRegion(r: SketchView['regions'][number]): void {
  const list = chosen.value.some((c) => c.id === r.id)
    ? chosen.value.filter((c) => c.id !== r.id)
    : [...chosen.value, { id: r.id, at: r.at as Pair, area: r.area, curves: r.curves }]
  edited.set(regionField.value!, list)
}
const chosenCurves = computed(() => ((curveField.value ? edited.fields[curveField.value] : []) as string[] | undefined) ?? [])
const curves = computed(() =>
  curveField.value
    ? props.sketch.curves.map((c) => ({
        id: c.id,
        d: path(c.points as Pair[]).slice(0, -1),
        on: !chosenCurves.value.length || chosenCurves.value.includes(c.id),
      }))
    : [],
)
/** The curves that hang together with one end to end. */
function chainOf(id: string): string[] {
  const ends = new Map(props.sketch.curves.map((c) => [c.id, [c.points[0], c.points.at(-1)!] as Pair[]]))
  const meet = (a: Pair[], b: Pair[]): boolean => a.some((p) => b.some((q) => Math.hypot(p[0] - q[0], p[1] - q[1]) < 1e-5))
  const chain = [id]
  for (const one of chain) for (const [other, at] of ends) if (!chain.includes(other) && meet(ends.get(one)!, at)) chain.push(other)
  return chain
}
const reach = (id: string): string[] => (edited.whole ? chainOf(id) : [id])
const hovered = computed(() =>
  hover.value && curveField.value && props.sketch.curves.some((c) => c.id === hover.value) ? reach(hover.value) : [],
)
function toggleCurve(id: string): void {
  const now = chosenCurves.value
  const some = reach(id)
  edited.set(curveField.value!, now.includes(id) ? now.filter((p) => !some.includes(p)) : [...now, ...some.filter((p) => !now.includes(p))])
}
const chosenPoints = computed(() => ((pointField.value ? edited.fields[pointField.value] : []) as string[] | undefined) ?? [])
const points = computed(() =>
  pointField.value
    ? Object.entries(props.sketch.points).map(([id, p]) => ({
        id,
        at: project.value(p as Pair),
        on: !chosenPoints.value.length || chosenPoints.value.includes(id),
      }))
    : [],
)
function togglePoint(id: string): void {
  const now = chosenPoints.value
  edited.set(pointField.value!, now.includes(id) ? now.filter((p) => p !== id) : [...now, id])
}
</script>

<template>
  <svg
    v-if="(edited.focus && [regionField, pointField, curveField].includes(edited.focus)) || regions.length > 1 || curves.length > 1"
    class="regions"
  >
    <path
      v-for="x in regions"
      :key="x.r.id"
      :d="x.d"
      fill-rule="evenodd"
      :class="{ on: x.on, picked: x.picked, hover: hover === x.r.id }"
      :data-testid="`region-${x.r.id}`"
      @pointerenter="hover = x.r.id"
      @pointerleave="hover = null"
      @pointerdown.stop
      @click.stop="toggleRegion(x.r)"
    >
      <title>region, {{ area(x.r.area) }}</title>
    </path>
    <path
      v-for="x in wholes"
      :key="`w${x.w.id}`"
      :d="x.d"
      class="whole"
      :class="{ picked: x.picked, hover: hover === x.w.id }"
      :data-testid="`whole-${x.w.curves?.join('-')}`"
      @pointerenter="hover = x.w.id"
      @pointerleave="hover = null"
      @pointerdown.stop
      @click.stop="toggleRegion(x.w)"
    >
      <title>everything inside, {{ area(x.w.area) }}</title>
    </path>
    <g
      v-for="c in curves"
      :key="c.id"
      class="curve"
      :class="{ on: c.on, near: hovered.includes(c.id) }"
      :data-testid="`wall-${c.id}`"
      @pointerenter="hover = c.id"
      @pointerleave="hover = null"
      @pointerdown.stop
      @click.stop="toggleCurve(c.id)"
    >
      <path :d="c.d" class="wide" />
      <path :d="c.d" class="thin" />
    </g>
    <g
      v-for="p in points"
      :key="p.id"
      :class="{ on: p.on }"
      :transform="`translate(${p.at[0]} ${p.at[1]})`"
      @pointerdown.stop
      @click.stop="togglePoint(p.id)"
    >
      <circle r="7" />
    </g>
  </svg>
</template>

<style scoped>
.regions {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
path {
  pointer-events: visiblePainted;
  cursor: pointer;
  fill: var(--accent);
  fill-opacity: 0.04;
  stroke: var(--accent);
  stroke-opacity: 0.35;
  stroke-width: 1;
}
path.on {
  fill-opacity: 0.14;
  stroke-opacity: 0.8;
}
path.picked {
  fill: var(--pick);
  stroke: var(--pick);
  fill-opacity: 0.22;
}
path.hover {
  fill: var(--hover);
  fill-opacity: 0.25;
}
path.whole,
path.whole.picked {
  fill: transparent;
  stroke: none;
}
path.whole.picked {
  stroke: var(--pick);
  stroke-width: 2.5;
  stroke-opacity: 1;
}
path.whole.hover {
  fill: var(--hover);
  fill-opacity: 0.2;
  stroke: var(--hover);
  stroke-width: 2.5;
  stroke-opacity: 1;
}
path.wide {
  fill: none;
  stroke: transparent;
  stroke-width: 12;
  pointer-events: stroke;
}
path.thin {
  fill: none;
  stroke: var(--ink-3);
  stroke-opacity: 1;
  stroke-width: 1.5;
  pointer-events: none;
}
.curve.on .thin {
  stroke: var(--pick);
  stroke-width: 2.6;
}
.curve.near .thin {
  stroke: var(--hover);
  stroke-width: 3;
}
circle {
  pointer-events: visiblePainted;
  cursor: pointer;
  fill: transparent;
  stroke: var(--ink-3);
  stroke-width: 1.5;
}
g.on circle {
  stroke: var(--pick);
  fill: var(--pick);
  fill-opacity: 0.25;
}
</style>
