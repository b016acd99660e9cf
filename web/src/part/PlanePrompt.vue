<script setup lang="ts">
// Choosing where a sketch lies: the three base planes to click, or a flat face.
import { Vector3 } from 'three'
import { computed } from 'vue'
import type { Engine } from '../viewport/engine'

const props = defineProps<{ engine: Engine; tick: number; bodies: boolean; steps: { id: string; name: string }[] }>()
const emit = defineEmits<{ plane: [base: string]; step: [id: string]; cancel: [] }>()

const AXES: Record<string, [Vector3, Vector3, string]> = {
  XY: [new Vector3(1, 0, 0), new Vector3(0, 1, 0), 'lying (XY)'],
  XZ: [new Vector3(1, 0, 0), new Vector3(0, 0, 1), 'front (XZ)'],
  YZ: [new Vector3(0, 1, 0), new Vector3(0, 0, 1), 'side (YZ)'],
}
const planes = computed(() => {
  void props.tick
  const size = Math.max(props.engine.camera.height * 0.2, 1)
  const towards = props.engine.camera.axes()[2]
  return Object.entries(AXES)
    .map(([base, [u, v, word]]) => {
      const corners = [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ].map(([a, b]) =>
        props.engine.camera.project(
          u
            .clone()
            .multiplyScalar(a * size)
            .addScaledVector(v, b * size),
        ),
      )
      const facing = Math.abs(new Vector3().crossVectors(u, v).dot(towards))
      const label = props.engine.camera.project(
        u
          .clone()
          .multiplyScalar(size * 0.72)
          .addScaledVector(v, size * 0.86),
      )
      return {
        base,
        word,
        facing,
        label,
        d: corners.map(([x, y], i) => `${i ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`).join('') + 'Z',
      }
    })
    .sort((a, b) => a.facing - b.facing)
})
</script>

<template>
  <svg class="planes" @pointerdown.self.stop>
    <g
      v-for="p in planes"
      :key="p.base"
      class="plane"
      :data-testid="`plane-${p.base}`"
      @pointerdown.stop
      @pointerup.stop
      @click="emit('plane', p.base)"
    >
      <path :d="p.d" />
    </g>
  </svg>
  <div class="ask">
    <span>{{ bodies ? 'Where does the sketch lie? Click a flat face, a straight edge or a plane:' : 'Where does the sketch lie?' }}</span>
    <button
      v-for="(a, base) in AXES"
      :key="base"
      class="btn small"
      :data-testid="`choose-${base}`"
      @pointerdown.stop
      @click="emit('plane', String(base))"
    >
      {{ a[2] }}
    </button>
    <button v-for="s in steps" :key="s.id" class="btn small" :data-testid="`choose-${s.id}`" @pointerdown.stop @click="emit('step', s.id)">
      {{ s.name }}
    </button>
    <button class="btn small" @pointerdown.stop @click="emit('cancel')">Cancel</button>
  </div>
</template>

<style scoped>
.planes {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.plane path {
  pointer-events: visiblePainted;
  cursor: pointer;
  fill: var(--accent);
  fill-opacity: 0.07;
  stroke: var(--accent);
  stroke-width: 1.2;
}
.plane:hover path {
  fill-opacity: 0.25;
  stroke-width: 2;
}
.ask {
  position: absolute;
  left: 50%;
  top: 12px;
  transform: translateX(-50%);
  display: flex;
  gap: 7px;
  align-items: center;
  white-space: nowrap;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 9px;
  padding: 6px 10px;
  box-shadow: var(--shadow);
}
</style>
