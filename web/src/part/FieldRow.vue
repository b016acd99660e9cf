<script setup lang="ts">
// A field of a step: its label, and at the right what it is set by.
import type { FieldView } from '../api/client'
import DriveMark from '../members/DriveMark.vue'
import { useEdited } from './edited'

defineProps<{ field: FieldView }>()
const edited = useEdited()
/** Types of fields that may differ between variants. */
const DRIVEN = new Set(['quantity', 'toggle', 'choice', 'name', 'picks'])
</script>

<template>
  <div class="row">
    <label :for="`f-${field.name}`">{{ field.label }}</label>
    <DriveMark
      v-if="edited.id && DRIVEN.has(field.type)"
      drives="field"
      :of="{ step: edited.id, field: field.name }"
      :what="field.label ?? field.name"
    />
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
