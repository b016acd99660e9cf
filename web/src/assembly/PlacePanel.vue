<script setup lang="ts">
// What can be brought in from the project, one after the other; whether it then stands anchored is
// remembered.
import { ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import Icon from '../ui/Icon.vue'
import DocumentList from './DocumentList.vue'
import type { Where } from './placing'

defineProps<{ documents: Schemas['DocumentLine'][]; waiting?: string | null }>()
const emit = defineEmits<{ place: [line: Schemas['DocumentLine'], anchored: boolean, where: Where]; leave: [] }>()
const KEY = 'vireo-place-anchored'
const WHERE = 'vireo-place-where'
const where = ref<Where>((localStorage.getItem(WHERE) as Where | null) ?? 'beside')
watch(where, (now) => localStorage.setItem(WHERE, now))
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
    <div class="where">
      <label class="muted" for="place-where">Set down</label>
      <select id="place-where" v-model="where" class="field" title="Remembered for the next time" data-testid="place-where">
        <option value="beside">beside what is there</option>
        <option value="origin">at the origin</option>
        <option value="click">where I click</option>
      </select>
    </div>
    <DocumentList :documents="documents" verb="Bring in" @choose="(d) => emit('place', d, anchored, where)" />
    <footer>
      <span class="muted" data-testid="place-hint"
        ><Icon name="hand" :size="14" />
        {{
          waiting
            ? `click where ${waiting} is to stand`
            : where === 'click'
              ? 'choose one, then click its place'
              : 'each click brings one in'
        }}</span
      >
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
.where,
footer {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
header label,
.where label,
footer .muted {
  font-size: 12px;
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
