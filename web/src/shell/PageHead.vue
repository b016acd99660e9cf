<script setup lang="ts">
// The head of a page that is no document: where one is, and what can be done from there.
import Brand from './Brand.vue'
</script>

<template>
  <header class="head">
    <Brand />
    <nav v-if="$slots.where" class="where" aria-label="Where you are"><slot name="where" /></nav>
    <span class="grow" />
    <slot />
  </header>
</template>

<style scoped>
.head {
  height: 48px;
  flex: none;
  background: var(--head);
  color: var(--head-ink);
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 14px;
}
.where {
  display: flex;
  gap: 7px;
  white-space: nowrap;
}
.where :slotted(a) {
  color: inherit;
  opacity: 0.75;
  text-decoration: none;
}
.grow {
  flex: 1;
}
:slotted(.ghost) {
  background: transparent;
  color: inherit;
  border-color: var(--head-2);
  text-decoration: none;
}
:slotted(.icon-btn) {
  color: inherit;
}
:slotted(select) {
  color: var(--ink);
}
</style>
