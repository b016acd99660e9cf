<script setup lang="ts">
// A cell as it is read: its colour, its text, and what a formula comes to.
import type { Schemas } from '../api/client'
import type { Column } from './store'

defineProps<{ column: Column; cell?: Schemas['CellView'] }>()
</script>

<template>
  <i v-if="column.cell === 'colour' && cell?.text" class="swatch" :style="{ background: cell.text }" />{{ cell?.text || '·'
  }}<span v-if="cell?.value" class="value">{{ cell.value }}</span>
</template>

<style scoped>
.swatch {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin-right: 6px;
  border-radius: 3px;
  vertical-align: -1px;
  border: 1px solid var(--line-2);
}
.value {
  margin-left: 8px;
  color: var(--ink-3);
  font-size: 12px;
}
</style>
