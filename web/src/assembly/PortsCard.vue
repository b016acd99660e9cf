<script setup lang="ts">
// Places where a component fits by its ports: shown while the pointer rests on them, taken by a click.
import { computed, ref } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { useInSight } from '../ui/inSight'
import { usePorts } from './ports'

const ports = usePorts()
const doc = useDocument()
const name = computed(() => doc.assembly?.components?.find((c) => c.id === ports.component)?.name ?? '')
/** Places that are called alike are told apart by number. */
const called = (n: number): string => {
  const title = ports.places[n].title
  const alike = ports.places.filter((p) => p.title === title)
  return alike.length > 1 ? `${title} · ${alike.indexOf(ports.places[n]) + 1}` : title
}
const pairs = (n: number): string => (n > 1 ? `${n} ports at once` : '')
const card = ref<HTMLElement | null>(null)
useInSight(card)
</script>

<template>
  <section ref="card" class="tool-card edit-card" data-testid="ports-card" @keydown.esc.stop="ports.discard()">
    <header>
      <Icon name="port" :size="16" /> <b>{{ name }} fits</b>
    </header>
    <button
      v-for="(p, n) in ports.places"
      :key="n"
      class="line"
      :data-testid="`port-${n}`"
      @pointerenter="ports.look(p)"
      @focus="ports.look(p)"
      @pointerleave="ports.look(null)"
      @blur="ports.look(null)"
      @click="ports.take(p)"
    >
      <span>{{ called(n) }}</span>
      <span class="muted">{{ pairs(p.commands.length) }}</span>
    </button>
    <p v-if="!ports.places.length" class="muted">None of its ports meets a free one of the same name and kind.</p>
    <footer><button class="btn small" data-testid="ports-leave" @click="ports.discard()">Leave it free</button></footer>
  </section>
</template>

<style scoped>
.line {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 5px 6px;
  border-radius: 6px;
  text-align: left;
}
.line:hover,
.line:focus-visible {
  background: var(--accent-soft);
}
.line .muted {
  font-size: 12px;
  white-space: nowrap;
}
</style>
