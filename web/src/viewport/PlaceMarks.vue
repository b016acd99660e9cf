<script setup lang="ts">
// Numbered marks on the places a map points at, with what was measured across.
import { computed } from 'vue'
import { Vector3 } from 'three'
import type { Engine } from './engine'
import type { Place } from './fields'

const props = defineProps<{
  engine: Engine
  places: { body: string; place: Place }[]
  centre: [number, number, number] | null
  tick: number
}>()
const marks = computed(() => {
  void props.tick
  return props.places.map(({ body, place }) => {
    const matrix = props.engine.matrixOf(body)
    const on = (p: [number, number, number]): [number, number] => props.engine.camera.project(new Vector3(...p).applyMatrix4(matrix))
    return { at: on(place.at), to: place.to ? on(place.to) : null }
  })
})
/** The centre of gravity, seen through everything. */
const heavy = computed(() => (void props.tick, props.centre && props.engine.camera.project(new Vector3(...props.centre))))
</script>

<template>
  <svg class="marks" aria-hidden="true">
    <g v-for="(m, i) in marks" :key="i">
      <line v-if="m.to" :x1="m.at[0]" :y1="m.at[1]" :x2="m.to[0]" :y2="m.to[1]" />
      <circle :cx="m.at[0]" :cy="m.at[1]" r="9" :class="{ first: i === 0 }" />
      <text :x="m.at[0]" :y="m.at[1] + 4">{{ i + 1 }}</text>
    </g>
    <g v-if="heavy" class="heavy" :transform="`translate(${heavy[0]} ${heavy[1]})`" data-testid="gravity">
      <circle r="9" />
      <path d="M0 0V-9A9 9 0 0 1 9 0ZM0 0V9A9 9 0 0 1 -9 0Z" />
    </g>
  </svg>
</template>

<style scoped>
.marks {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
line {
  stroke: var(--ink);
  stroke-width: 2.5;
}
circle {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 1.4;
}
circle.first {
  fill: var(--bad);
  stroke: var(--bad);
}
text {
  font-size: 11px;
  font-weight: 600;
  text-anchor: middle;
  fill: var(--ink);
}
circle.first + text {
  fill: #fff;
}
.heavy circle {
  stroke-width: 1.6;
}
.heavy path {
  fill: var(--ink);
}
</style>
