<script setup lang="ts">
// How bodies are shown: one list, its choice on a chip.
import type { Style } from './body'
import { STYLES } from './styles'

const style = defineModel<Style>({ required: true })
</script>

<template>
  <select
    v-model="style"
    class="chip styles"
    :class="{ on: style !== 'shaded' }"
    aria-label="Style"
    data-testid="style"
    @change="($event.target as HTMLElement).blur()"
  >
    <option v-for="r in STYLES" :key="r.style" :value="r.style">{{ r.word }}</option>
  </select>
</template>

<style scoped>
.styles {
  border: 0;
  cursor: pointer;
  max-width: 132px;
  padding-right: 2px;
}
@container (max-width: 660px) {
  .styles {
    width: 84px;
  }
}
.styles:not(.on) {
  background: none;
}
.styles option {
  background: var(--panel);
  color: var(--ink);
}
</style>
