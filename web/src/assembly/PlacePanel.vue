<script setup lang="ts">
// What can be brought in from the project, one after the other; whether it then stands anchored is
// remembered.
import { ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import Icon from '../ui/Icon.vue'
import DocumentList from './DocumentList.vue'

defineProps<{ documents: Schemas['DocumentLine'][] }>()
const emit = defineEmits<{ place: [line: Schemas['DocumentLine'], anchored: boolean]; leave: [] }>()
const KEY = 'vireo-place-anchored'
const anchored = ref(localStorage.getItem(KEY) === 'yes')
watch(anchored, (on) => localStorage.setItem(KEY, on ? 'yes' : 'no'))
</script>

<template>
  <section class="place edit-card" data-testid="place-panel" @keydown.esc.stop="emit('leave')">
    <header>
      <b>Bring in</b>
      <label class="muted" title="Remembered for the next time"
        ><input v-model="anchored" type="checkbox" data-testid="place-anchored" /> anchored</label
      >
    </header>
    <DocumentList :documents="documents" verb="Bring in" @choose="(d) => emit('place', d, anchored)" />
    <footer>
      <span class="muted"><Icon name="hand" :size="14" /> each click brings one in</span>
      <button class="btn small" data-testid="place-done" @click="emit('leave')">Done</button>
    </footer>
  </section>
</template>

<style scoped>
.place {
  padding: 8px 10px;
  margin-bottom: 8px;
}
header,
footer {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
header label,
footer .muted {
  font-size: 12px;
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
