<script setup lang="ts">
// A joint being made: its two ends, which way, offset, limits.
import { computed } from 'vue'
import { useDocument, useRegistries } from '../document/store'
import Icon from '../ui/Icon.vue'
import { type End, useAssembly } from './store'

const asm = useAssembly()
const doc = useDocument()
const registries = useRegistries()
const kind = computed(() => registries.found?.joints.find((k) => k.kind === asm.joining?.kind))
const words = (end: End | null): string => {
  if (!end) return 'pick it in the picture'
  const name = doc.assembly?.components?.find((c) => c.id === end.component)?.name ?? end.component
  return `${name} · ${end.pick.witness?.kind ?? ''} ${end.pick.kind}`
}
const limits = (name: string): { least: string; most: string } => (asm.joining!.limits[name] ??= { least: '', most: '' })
const next = computed(() =>
  !asm.joining?.a
    ? 'Pick a flat or round face, or an edge, on the first component'
    : !asm.joining.b
      ? 'Now the end on the other component'
      : null,
)
</script>

<template>
  <article v-if="asm.joining" class="editor" data-testid="joint-editor">
    <header>
      <Icon :name="kind?.icon ?? 'link'" :size="16" /><b>{{ kind?.label }} joint</b>
    </header>
    <div v-for="side in ['a', 'b'] as const" :key="side" class="row">
      <label>{{ side === 'a' ? 'First end' : 'Other end' }}</label>
      <button
        class="pickbox"
        :class="{ on: side === 'a' ? !asm.joining.a : asm.joining.a && !asm.joining.b, set: asm.joining[side] }"
        :data-testid="`end-${side}`"
        @click="asm.joining = { ...asm.joining!, [side]: null }"
      >
        {{ words(asm.joining[side]) }}
      </button>
    </div>
    <div class="row"><label>Other way round</label><input v-model="asm.joining.flip" type="checkbox" aria-label="Other way round" /></div>
    <div class="row">
      <label>Offset</label><input v-model="asm.joining.offset" class="field" aria-label="Offset" data-testid="joint-offset" />
    </div>
    <div v-for="c in kind?.coordinates ?? []" :key="c.name" class="row">
      <label>{{ kind!.coordinates.length > 1 ? `${c.label}, limits` : 'Limits' }}</label>
      <span class="two">
        <input
          v-model="limits(c.name).least"
          class="field"
          placeholder="least"
          :aria-label="`${c.label}: least`"
          :data-testid="`joint-least-${c.name}`"
        />
        …
        <input
          v-model="limits(c.name).most"
          class="field"
          placeholder="most"
          :aria-label="`${c.label}: most`"
          :data-testid="`joint-most-${c.name}`"
        />
      </span>
    </div>
    <p v-if="next" class="hint"><Icon name="hand" :size="15" /> {{ next }}</p>
    <footer>
      <button class="btn" @click="asm.joining = null">Discard</button>
      <button class="btn main" data-testid="keep-joint" :disabled="!asm.joining.a || !asm.joining.b" @click="asm.join()">Keep</button>
    </footer>
  </article>
</template>

<style scoped>
.editor {
  border: 2px solid var(--accent);
  border-radius: 9px;
  background: var(--panel);
  padding: 8px 10px 10px;
  display: flex;
  flex-direction: column;
  gap: 6px;
  margin: 4px 0 6px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  padding-bottom: 5px;
  border-bottom: 1px solid var(--line);
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 27px;
}
.row label {
  flex: 1;
  color: var(--ink-2);
  white-space: nowrap;
}
.row .field {
  width: 120px;
}
.two {
  display: flex;
  gap: 5px;
  align-items: center;
}
.two .field {
  width: 74px;
}
.pickbox {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  height: 25px;
  padding: 0 9px;
  border: 1px dashed var(--line-2);
  border-radius: 6px;
  color: var(--ink-3);
}
.pickbox.on {
  border: 1px solid var(--pick);
  background: var(--pick-soft);
  color: var(--pick);
}
.pickbox.set {
  border-style: solid;
  color: var(--pick);
}
.hint {
  margin: 0;
  display: flex;
  gap: 7px;
  color: var(--ink-2);
  font-size: 12px;
}
footer {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
