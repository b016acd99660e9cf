<script setup lang="ts">
// Leads from a message to its page.
import { useHelp } from './store'

defineProps<{ code: string }>()
const help = useHelp()
</script>

<template>
  <button
    v-if="code"
    type="button"
    class="why"
    :title="`What “${code}” means and what to do`"
    data-testid="why"
    @click.stop="help.show(`message:${code}`)"
  >
    What does this mean?
  </button>
</template>

<style scoped>
.why {
  border: 0;
  background: none;
  color: inherit;
  opacity: 0.75;
  font: inherit;
  font-size: 12px;
  text-decoration: underline;
  text-underline-offset: 2px;
  padding: 0;
  cursor: pointer;
}
.why:hover {
  opacity: 1;
}
</style>
