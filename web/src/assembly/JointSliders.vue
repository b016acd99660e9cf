<script setup lang="ts">
// Sliders that drive what a joint leaves to move.
import type { Schemas } from '../api/client'
import { useAssembly } from './store'

type Coordinate = Schemas['CoordinateView']
defineProps<{ joint: { id: string; name: string }; coordinates: Coordinate[] }>()
const emit = defineEmits<{ keep: [coordinate: string, value: number] }>()
const asm = useAssembly()
function range(c: Coordinate): { least: number; most: number; step: number } {
  const turn = c.unit === 'deg'
  // Without limits a slide reaches well beyond where it stands.
  const room = turn ? 180 : Math.max(100, 50 * Math.ceil((1.5 * Math.abs(c.value)) / 50))
  return { least: c.least ?? -room, most: c.most ?? room, step: turn ? 0.5 : 0.2 }
}
const typed = (e: Event): number => Number((e.target as HTMLInputElement).value)
</script>

<template>
  <input
    v-for="(c, n) in coordinates"
    :key="c.name"
    class="slider"
    type="range"
    :min="range(c).least"
    :max="range(c).most"
    :step="range(c).step"
    :value="asm.values[joint.id]?.[c.name]"
    :title="c.label"
    :aria-label="`Drive ${joint.name}: ${c.label}`"
    :data-testid="n ? `drive-${joint.id}-${c.name}` : `drive-${joint.id}`"
    @input="asm.move({ joint: joint.id, coordinate: c.name, value: typed($event) })"
    @change="emit('keep', c.name, typed($event))"
  />
</template>

<style scoped>
.slider {
  grid-column: 1 / -1;
  margin: 0 6px 2px 2px;
  accent-color: var(--accent);
}
</style>
