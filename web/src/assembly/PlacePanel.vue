<script setup lang="ts">
// What can be brought in from the project: looked at, searched, one after the other; whether it then
// stands anchored is remembered.
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import Icon from '../ui/Icon.vue'

const props = defineProps<{ documents: Schemas['DocumentLine'][] }>()
const emit = defineEmits<{ place: [line: Schemas['DocumentLine'], anchored: boolean]; leave: [] }>()
const KEY = 'vireo-place-anchored'
const wanted = ref('')
const anchored = ref(localStorage.getItem(KEY) === 'yes')
watch(anchored, (on) => localStorage.setItem(KEY, on ? 'yes' : 'no'))
const found = computed(() => {
  const words = wanted.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
  return props.documents.filter((d) => words.every((w) => d.name.toLowerCase().includes(w)))
})
function first(): void {
  if (found.value.length === 1) emit('place', found.value[0], anchored.value)
}
</script>

<template>
  <section class="place edit-card" data-testid="place-panel" @keydown.esc.stop="emit('leave')">
    <header>
      <b>Bring in</b>
      <label class="muted" title="Remembered for the next time"
        ><input v-model="anchored" type="checkbox" data-testid="place-anchored" /> anchored</label
      >
    </header>
    <input
      v-if="documents.length > 5"
      v-model="wanted"
      class="field find"
      placeholder="find"
      aria-label="Find a document"
      data-testid="place-find"
      @keydown.enter="first"
      @keydown.stop
    />
    <div class="list scroll">
      <button
        v-for="d in found"
        :key="d.id"
        class="line"
        :title="`Bring ${d.name} in`"
        :data-testid="`place-${d.name}`"
        @click="emit('place', d, anchored)"
      >
        <span class="picture"><DocumentPicture :id="d.id" :kind="d.kind" :revision="d.revision" /></span> {{ d.name }}
      </button>
    </div>
    <p v-if="!documents.length" class="muted">No other document in this project yet. A STEP file can be dropped into the picture.</p>
    <p v-else-if="!found.length" class="muted">None is called so.</p>
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
.find {
  width: 100%;
  margin: 6px 0 2px;
}
.list {
  max-height: 250px;
  margin: 5px 0;
}
.line {
  display: flex;
  gap: 9px;
  align-items: center;
  width: 100%;
  padding: 3px 6px;
  border-radius: 6px;
  text-align: left;
}
.line:hover {
  background: var(--accent-soft);
}
.picture {
  width: 42px;
  height: 30px;
  flex: none;
  display: grid;
  place-items: center;
}
.picture :deep(img),
.picture :deep(svg) {
  max-width: 42px;
  max-height: 30px;
}
</style>
