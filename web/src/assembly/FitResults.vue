<script setup lang="ts">
// What was found of fit and motion, beside each other.
import InterferenceResults from './InterferenceResults.vue'
import MotionResults from './MotionResults.vue'

const emit = defineEmits<{ clash: [clash: { a: string; b: string; faces_a: string[]; faces_b: string[] } | null] }>()
</script>

<template>
  <div class="two">
    <InterferenceResults />
    <MotionResults @clash="(c) => emit('clash', c)" />
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.35fr) minmax(0, 1fr);
  gap: 26px;
  padding-top: 4px;
}
</style>
