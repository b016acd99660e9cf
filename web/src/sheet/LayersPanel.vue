<script setup lang="ts">
// Layers of the DXF: what each is called, and whether it is drawn.
import { good, useLayers } from './layers'

const emit = defineEmits<{ shut: [] }>()
const { layers } = useLayers()
function plain(): void {
  layers.forEach((l) => Object.assign(l, { name: l.kind, on: true }))
}
</script>

<template>
  <div class="layers" data-testid="layers">
    <p class="muted">Layers of the DXF, as this browser hands it over.</p>
    <div class="list">
      <label v-for="l in layers" :key="l.kind">
        <input v-model="l.on" type="checkbox" :aria-label="`Draw ${l.label}`" />
        <span>{{ l.label }}</span>
        <input
          v-model="l.name"
          class="field"
          maxlength="31"
          :disabled="!l.on"
          :class="{ bad: !good(l.name) }"
          :aria-label="`Layer of ${l.label}`"
          :data-testid="`layer-${l.kind}`"
          @keydown.stop
        />
      </label>
    </div>
    <p class="row">
      <button class="btn small" @click="plain">As they are by themselves</button>
      <button class="btn small main" @click="emit('shut')">Done</button>
    </p>
  </div>
</template>

<style scoped>
.layers {
  flex: none;
  max-height: 46%;
  overflow: auto;
  padding: 8px 12px 12px;
  border-top: 1px solid var(--line);
}
.list {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 6px 14px;
}
.list label {
  display: grid;
  grid-template-columns: auto 1fr 96px;
  align-items: center;
  gap: 6px;
}
.list .bad {
  border-color: var(--bad);
}
.muted {
  margin: 0 0 8px;
  color: var(--ink-3);
}
.row {
  display: flex;
  gap: 8px;
  margin: 10px 0 0;
}
</style>
