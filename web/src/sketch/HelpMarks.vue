<script setup lang="ts">
// Over the sketch: open ends with the size of the gap, curvature combs of selected free curves.
import { computed } from 'vue'
import { useMeasure } from './measure'
import { type Entity, extent, formOf, type Pair, pointAt } from './model'
import { comb, polyline } from './paths'
import { useSketch } from './store'
import { bare, length } from '../ui/units'

const props = defineProps<{ toPane: (p: Pair) => Pair; curves: { e: Entity; runs: Pair[][] }[] }>()
const sketch = useSketch()
const measure = useMeasure()

const WORDS: Record<string, (size: string) => string> = {
  gap: (s) => `gap ${s}`,
  overhang: (s) => `sticks out ${s}`,
  double: (s) => `${s} there twice`,
  loop: (s) => `crosses itself, loop ${s}`,
}
/** Gaps small enough to be meant as joints, and what else keeps outlines from closing. */
const gaps = computed(() => {
  const size = extent(sketch.drawing)?.size ?? 0
  return sketch.gaps
    .filter((g) => g.size !== null && (g.kind !== 'gap' || g.size < 0.05 * size))
    .map((g) => ({ at: props.toPane(g.at as Pair), text: WORDS[g.kind](length(g.size as number)) }))
})
const combs = computed(() =>
  props.curves
    .filter(
      ({ e, runs }) =>
        sketch.selected.includes(e.id) && ['spline', 'ellipse'].includes(formOf(sketch.drawing, e.id)) && runs[0]?.length > 2,
    )
    .map(({ runs }) => {
      const found = comb(runs[0])
      return {
        teeth: found.teeth.map((t) => polyline(t, props.toPane)).join(''),
        rim: polyline(
          found.teeth.map((t) => t[1]),
          props.toPane,
        ),
        least: found.least && { at: props.toPane(found.least.at), text: `least R ${bare(found.least.radius)}` },
      }
    }),
)
/** From spline points to their handles, and along control points, where one is at work on them. */
const stems = computed(() => {
  const d = sketch.drawing
  const line = (...ids: string[]): string =>
    polyline(
      ids.map((i) => pointAt(d, i)),
      props.toPane,
    )
  return props.curves.flatMap(({ e }) => {
    if (e.type === 'spline') {
      const held = [
        ...(e.start_handle ? [[e.through[0], e.start_handle]] : []),
        ...(e.end_handle ? [[e.through.at(-1)!, e.end_handle]] : []),
        ...(e.inner_handles ?? []),
      ]
      return held.map(([p, h]) => line(p, h))
    }
    if (e.type === 'control_spline' && !e.source && e.poles.length < 60) return [line(...e.poles)]
    return e.type === 'conic' ? [line(e.start, e.apex, e.end)] : []
  })
})
const reading = computed(() => {
  const ends = measure.line
  if (!ends) return null
  const [a, b] = ends.map(props.toPane)
  return {
    d: `M${a[0]} ${a[1]}L${b[0]} ${b[1]}`,
    at: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2],
    text: measure.readings[0]?.shown ?? '',
  }
})
</script>

<template>
  <path v-for="(d, i) in stems" :key="'h' + i" :d="d" class="stem" />
  <g v-if="reading" class="reading"
    ><path :d="reading.d" /><text :x="reading.at[0] + 8" :y="reading.at[1] - 8">{{ reading.text }}</text></g
  >
  <g v-for="(c, i) in combs" :key="'c' + i" class="comb">
    <path :d="c.teeth" /><path :d="c.rim" class="rim" />
    <template v-if="c.least"
      ><circle :cx="c.least.at[0]" :cy="c.least.at[1]" r="4" /><text
        :x="c.least.at[0] + 8"
        :y="c.least.at[1] - 8"
        data-testid="least-radius"
        >{{ c.least.text }}</text
      ></template
    >
  </g>
  <g v-for="(g, i) in gaps" :key="'g' + i" class="gap" data-testid="gap">
    <circle :cx="g.at[0]" :cy="g.at[1]" r="9" /><text :x="g.at[0] + 13" :y="g.at[1] - 9">{{ g.text }}</text>
  </g>
</template>

<style scoped>
path {
  fill: none;
  stroke: var(--hover);
  stroke-width: 0.8;
  opacity: 0.75;
  pointer-events: none;
}
.stem {
  stroke: var(--ink-3);
  stroke-dasharray: 2 3;
  stroke-width: 1.2;
  opacity: 1;
}
.rim {
  stroke-width: 1.2;
  opacity: 1;
}
.reading path {
  stroke: var(--pick);
  stroke-width: 2;
  opacity: 1;
}
.reading text {
  fill: var(--pick);
  font-size: 12px;
  font-weight: 600;
}
.comb circle {
  fill: none;
  stroke: var(--hover);
  stroke-width: 1.6;
}
.comb text {
  fill: var(--hover);
  font-size: 12px;
  font-weight: 600;
}
.gap circle {
  fill: none;
  stroke: var(--bad);
  stroke-width: 1.6;
  stroke-dasharray: 3 2;
  pointer-events: none;
}
.gap text {
  fill: var(--bad);
  font-size: 12px;
  font-weight: 600;
}
text {
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
  stroke-linejoin: round;
}
</style>
