<script setup lang="ts">
// Parameters and the values they are varied between, a line each.
import Icon from '../ui/Icon.vue'
import { type Span, useExplore } from './store'

const props = defineProps<{ most: number; counted?: boolean }>()
const spans = defineModel<Span[]>({ required: true })
const explore = useExplore()
/** The next to be varied: one that stands for itself before one that follows others. */
const free = (): string | undefined => {
  const left = explore.parameters.filter((p) => !spans.value.some((s) => s.name === p.name))
  return (left.find((p) => /^[\d.,]+\s*[a-z"']*$/i.test(p.formula)) ?? left[0])?.name
}
function put(n: number, change: Partial<Span>): void {
  spans.value = spans.value.map((s, k) => (k === n ? (change.name ? explore.around(change.name) : { ...s, ...change }) : s))
}
const text = (event: Event): string => (event.target as HTMLInputElement).value
</script>

<template>
  <div v-for="(s, n) in spans" :key="n" class="span">
    <select class="field" :value="s.name" aria-label="Parameter" :data-testid="`span-${n}`" @change="put(n, { name: text($event) })">
      <option v-for="p in explore.parameters" :key="p.name">{{ p.name }}</option>
    </select>
    <input
      class="field short"
      :value="s.least"
      aria-label="from"
      title="from"
      :data-testid="`span-least-${n}`"
      @keydown.stop
      @change="put(n, { least: text($event) })"
    />
    <span class="muted">to</span>
    <input
      class="field short"
      :value="s.most"
      aria-label="to"
      title="to"
      :data-testid="`span-most-${n}`"
      @keydown.stop
      @change="put(n, { most: text($event) })"
    />
    <input
      v-if="counted"
      class="field count"
      type="number"
      min="2"
      max="200"
      :value="s.count"
      aria-label="How many values"
      title="How many values"
      @keydown.stop
      @change="put(n, { count: Number(text($event)) })"
    />
    <button
      v-if="spans.length > 1"
      class="icon-btn"
      aria-label="Without this"
      title="Without this"
      @click="spans = spans.filter((_, k) => k !== n)"
    >
      <Icon name="close" :size="13" />
    </button>
  </div>
  <button
    v-if="spans.length < props.most && free()"
    type="button"
    class="quiet"
    data-testid="add-span"
    @click="spans = [...spans, explore.around(free()!)]"
  >
    + parameter
  </button>
</template>

<style scoped>
.span {
  display: flex;
  align-items: center;
  gap: 6px;
}
.short {
  width: 86px;
}
.count {
  width: 58px;
}
.quiet {
  color: var(--accent);
  text-align: left;
}
</style>
