<script setup lang="ts">
// What to do first, over an empty picture.
defineProps<{ title: string; action: string; testid: string }>()
defineEmits<{ act: [] }>()
</script>

<template>
  <div class="start">
    <h2>{{ title }}</h2>
    <p><slot /></p>
    <button class="btn main" :data-testid="testid" @click="$emit('act')">{{ action }}</button>
  </div>
</template>

<style scoped>
.start {
  position: absolute;
  left: 50%;
  top: 42%;
  transform: translate(-50%, -50%);
  text-align: center;
  width: 340px;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 12px;
  padding: 20px 26px;
  box-shadow: var(--shadow);
}
h2 {
  font-size: 16px;
}
p {
  color: var(--ink-2);
}
</style>
