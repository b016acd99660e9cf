<script setup lang="ts">
// The words of a selected text.
import { computed } from 'vue'
import { entities, type Entity } from './model'
import { useSketch } from './store'

type TextEntity = Extract<Entity, { type: 'text' }>
const sketch = useSketch()
const text = computed(() => {
  const found = sketch.selected.length === 1 ? entities(sketch.drawing).find((e) => e.id === sketch.selected[0]) : null
  return found?.type === 'text' ? found : null
})
async function put(fields: Partial<TextEntity>): Promise<void> {
  const e = text.value
  if (!e) return
  await sketch.apply({
    ...sketch.drawing,
    entities: entities(sketch.drawing).map((x) => (x.id === e.id ? { ...e, ...fields } : x)),
  })
}
function write(event: Event): void {
  const words = (event.target as HTMLInputElement).value.trim()
  if (words) void put({ text: words })
  else (event.target as HTMLInputElement).value = text.value?.text ?? ''
}
</script>

<template>
  <section v-if="text">
    <h3>Text</h3>
    <div class="row">
      <input
        class="field"
        :value="text.text"
        maxlength="200"
        aria-label="Text"
        data-testid="text-words"
        @keydown.stop
        @keydown.enter.stop="($event.target as HTMLInputElement).blur()"
        @change="write"
      />
      <label
        ><input
          type="checkbox"
          :checked="text.font === 'bold'"
          @change="put({ font: text.font === 'bold' ? 'regular' : 'bold' })"
        />Bold</label
      >
    </div>
  </section>
</template>

<style scoped>
h3 {
  font-size: 12px;
  color: var(--ink-3);
  margin-bottom: 5px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.field {
  flex: 1;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  accent-color: var(--accent);
}
</style>
