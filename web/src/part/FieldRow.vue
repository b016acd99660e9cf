<script setup lang="ts">
// A field of a step: its label, and at the right what it is set by.
import type { FieldView } from '../api/client'

defineProps<{ field: FieldView }>()
</script>

<template>
  <div class="row">
    <label :for="`f-${field.name}`">{{ field.label }}</label>
    <slot />
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-height: 28px;
}
.row > label:first-child {
  flex: 0 0 auto;
  max-width: 124px;
  color: var(--ink-2);
}
.row :slotted(select.field) {
  max-width: 190px;
}
</style>
