<script setup lang="ts">
// Chips and boxes side by side, at the right of a field.
</script>

<template>
  <span class="chips"><slot /></span>
</template>

<style scoped>
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  justify-content: flex-end;
}
.chips :slotted(.chip) {
  border: 1px solid var(--line-2);
}
</style>
