<script setup lang="ts">
// What was handed out of one row: its files, marked where they are old, and the document that follows it.
import { RouterLink } from 'vue-router'
import type { Handed } from './handed'

defineProps<{ handed: Handed | undefined }>()
const at = (seconds: number): string => new Date(seconds * 1000).toLocaleString()
</script>

<template>
  <span class="handed">
    <span
      v-for="f in handed?.files ?? []"
      :key="f.form"
      class="tag"
      :class="{ old: f.old }"
      :title="`Written at r ${f.revision}, ${at(f.at)}${f.old ? '; it would be another now' : ''}`"
      >{{ f.form.toUpperCase() }}{{ f.old ? ' old' : '' }}</span
    >
    <RouterLink
      v-for="d in handed?.documents ?? []"
      :key="d.id"
      :to="`/d/${d.id}`"
      :title="`${d.name} follows this row${d.old ? '; its properties are those of before' : ''}: open it`"
      >{{ d.name }}{{ d.old ? ' (old properties)' : '' }}</RouterLink
    >
  </span>
</template>

<style scoped>
.handed {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  max-width: 260px;
}
.handed a {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--accent);
}
.tag.old {
  color: var(--bad);
  border-color: var(--bad);
}
</style>
