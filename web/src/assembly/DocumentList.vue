<script setup lang="ts">
// Parts and assemblies of the project that can stand in an assembly: looked at, searched, chosen.
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import DocumentPicture from '../shelf/DocumentPicture.vue'

const props = defineProps<{ documents: Schemas['DocumentLine'][]; verb: string; chosen?: string | null }>()
const emit = defineEmits<{ choose: [line: Schemas['DocumentLine']] }>()
const wanted = ref('')
const found = computed(() => {
  const words = wanted.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
  return props.documents.filter((d) => words.every((w) => d.name.toLowerCase().includes(w)))
})
function first(): void {
  if (found.value.length === 1) emit('choose', found.value[0])
}
</script>

<template>
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
      :class="{ on: chosen === d.id }"
      :title="`${verb} ${d.name}`"
      :data-testid="`place-${d.name}`"
      @click="emit('choose', d)"
    >
      <span class="picture"><DocumentPicture :id="d.id" :kind="d.kind" :revision="d.revision" /></span> {{ d.name }}
    </button>
  </div>
  <p v-if="!documents.length" class="muted">No other document in this project yet. A STEP file can be dropped into the picture.</p>
  <p v-else-if="!found.length" class="muted">None is called so.</p>
</template>

<style scoped>
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
.line:hover,
.line.on {
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
