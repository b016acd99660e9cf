<script setup lang="ts">
// Over the sketch: open ends with the size of the gap, curvature combs of selected free curves.
import { computed } from 'vue'
import { trim } from '../ui/format'
import { type Entity, extent, formOf, type Pair } from './model'
import { comb, polyline } from './paths'
import { useSketch } from './store'

const props = defineProps<{ toPane: (p: Pair) => Pair; curves: { e: Entity; places: Pair[] }[] }>()
const sketch = useSketch()

/** Gaps small enough to be meant as joints. */
const gaps = computed(() => {
  const size = extent(sketch.drawing)?.size ?? 0
  return sketch.gaps
    .filter((g) => g.size !== null && g.size < 0.05 * size)
    .map((g) => ({ at: props.toPane(g.at as Pair), text: `gap ${trim(g.size as number, 4)} mm` }))
})
const combs = computed(() =>
  props.curves
    .filter(({ e, places }) => sketch.selected.includes(e.id) && ['spline', 'ellipse'].includes(formOf(sketch.drawing, e.id)) && places.length > 2)
    .map(({ places }) => {
      const found = comb(places)
      return {
        teeth: found.teeth.map((t) => polyline(t, props.toPane)).join(''),
        rim: polyline(found.teeth.map((t) => t[1]), props.toPane),
        least: found.least && { at: props.toPane(found.least.at), text: `least R ${trim(found.least.radius, 2)}` },
      }
    }),
)
</script>

<template>
  <g v-for="(c, i) in combs" :key="'c' + i" class="comb">
    <path :d="c.teeth" /><path :d="c.rim" class="rim" />
    <template v-if="c.least"><circle :cx="c.least.at[0]" :cy="c.least.at[1]" r="4" /><text :x="c.least.at[0] + 8" :y="c.least.at[1] - 8" data-testid="least-radius">{{ c.least.text }}</text></template>
  </g>
  <g v-for="(g, i) in gaps" :key="'g' + i" class="gap" data-testid="gap">
    <circle :cx="g.at[0]" :cy="g.at[1]" r="9" /><text :x="g.at[0] + 13" :y="g.at[1] - 9">{{ g.text }}</text>
  </g>
</template>

<style scoped>
path { fill: none; stroke: var(--hover); stroke-width: 0.8; opacity: 0.75; pointer-events: none; }
.rim { stroke-width: 1.2; opacity: 1; }
.comb circle { fill: none; stroke: var(--hover); stroke-width: 1.6; }
.comb text { fill: var(--hover); font-size: 12px; font-weight: 600; }
.gap circle { fill: none; stroke: var(--bad); stroke-width: 1.6; stroke-dasharray: 3 2; pointer-events: none; }
.gap text { fill: var(--bad); font-size: 12px; font-weight: 600; }
text { paint-order: stroke; stroke: var(--paper); stroke-width: 4px; stroke-linejoin: round; }
</style>
