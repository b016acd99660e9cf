<script setup lang="ts">
// The bend order played: the sheet between punch and die, seen along the bend in hand.
import { computed, ref, watch } from 'vue'
import Icon from '../ui/Icon.vue'
import { rounded } from '../ui/units'
import { path, seenBox, type Struck } from './flat'

const props = defineProps<{ struck: Struck; numbers: Map<string, number> }>()
const emit = defineEmits<{ over: [bend: string | null] }>()
const at = ref(0)
watch(
  () => props.struck,
  () => (at.value = 0),
)
/** Every view in turn: strikes at their shares, then what stops the rest. */
const views = computed(() => [
  ...props.struck.strikes.flatMap((s, n) =>
    s.seen.map((v) => ({ bend: s.bend, name: s.name, punch: s.punch, view: v, n, panel: '', tool: '' })),
  ),
  ...props.struck.stops.map((s) => ({ bend: s.bend, name: s.name, punch: s.punch, view: s.seen, n: -1, panel: s.panel, tool: s.tool })),
])
const now = computed(() => views.value[Math.min(at.value, views.value.length - 1)])
watch(now, (v) => emit('over', v?.bend ?? null), { immediate: true })
const box = computed(() => (now.value ? seenBox(now.value.view) : '0 0 1 1'))
const said = computed(() => {
  const v = now.value
  if (!v) return ''
  const bend = `bend ${props.numbers.get(v.bend) ?? ''} (${v.name})`
  return v.n < 0
    ? `${bend} cannot be struck: at ${rounded(100 * v.view.share, 0)} % it meets the ${v.tool}`
    : `Strike ${v.n + 1} of ${props.struck.strikes.length}: ${bend}, ${v.punch} punch, ${rounded(100 * v.view.share, 0)} %`
})
function step(by: number): void {
  at.value = Math.max(0, Math.min(views.value.length - 1, at.value + by))
}
</script>

<template>
  <figure v-if="now" class="strike" data-testid="strike">
    <svg class="scene" :viewBox="box" data-testid="strike-picture">
      <path
        v-for="(p, i) in now.view.patches"
        :key="i"
        class="sheet"
        :class="{ hand: p.id === now.bend, hit: p.id === now.panel }"
        :d="path([p.points])"
      />
      <path class="tool" :class="{ hit: now.tool === 'punch' }" :d="path([now.view.punch])" />
      <path class="tool" :class="{ hit: now.tool === 'die' }" :d="path([now.view.die])" />
    </svg>
    <figcaption>
      <button class="icon-btn" aria-label="Back" title="Back" :disabled="at === 0" @click="step(-1)">
        <Icon name="right" :size="16" class="back" />
      </button>
      <input v-model.number="at" type="range" min="0" :max="views.length - 1" aria-label="Which strike" data-testid="strike-at" />
      <button class="icon-btn" aria-label="On" title="On" :disabled="at >= views.length - 1" data-testid="strike-on" @click="step(1)">
        <Icon name="right" :size="16" />
      </button>
      <span data-testid="strike-said">{{ said }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
.strike {
  flex: none;
  margin: 0;
  padding: 0 10px 8px;
}
.scene {
  width: 100%;
  height: 240px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 8px;
}
path {
  vector-effect: non-scaling-stroke;
  stroke-width: 1;
}
.tool {
  fill: color-mix(in srgb, var(--ink) 22%, transparent);
  stroke: var(--ink-2);
}
.sheet {
  fill: color-mix(in srgb, var(--accent) 22%, transparent);
  stroke: var(--accent);
}
.sheet.hand {
  fill: var(--pick);
  stroke: var(--pick);
}
.hit {
  fill: var(--bad-soft);
  stroke: var(--bad);
}
figcaption {
  display: flex;
  align-items: center;
  gap: 6px;
  color: var(--ink-2);
}
.back {
  transform: scaleX(-1);
}
figcaption input {
  width: 34%;
}
</style>
