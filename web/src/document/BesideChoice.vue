<script setup lang="ts">
// What the second pane shows: the same document, another one of the project, or the blank of a sheet.
import { computed, ref, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { usePanes } from '../viewport/panes'
import { KINDS } from './kinds'
import { useDocument } from './store'

const doc = useDocument()
const panes = usePanes()
const others = ref<Schemas['DocumentLine'][]>([])
const sheets = computed(() => (doc.build?.bodies ?? []).filter((b) => b.sheet))

async function list(): Promise<void> {
  const shelf = await call('get', '/api/shelf')
  const project = shelf.projects.find((p) => p.id === doc.view?.project)
  others.value = (project?.documents ?? []).filter((d) => KINDS[d.kind].beside && d.id !== doc.view?.id)
  if (panes.shows && !others.value.some((d) => d.id === panes.shows)) panes.shows = null
}
watch(
  () => doc.view?.id,
  () => void list().catch(doc.refused),
  { immediate: true },
)

const BLANK = 'blank:'
const chosen = computed({
  get: () => (panes.blank !== null ? BLANK + (panes.blank || sheets.value[0]?.id) : (panes.shows ?? '')),
  set(value: string) {
    panes.blank = value.startsWith(BLANK) ? value.slice(BLANK.length) : null
    panes.shows = value && panes.blank === null ? value : null
  },
})
</script>

<template>
  <select v-if="!panes.captions" v-model="chosen" class="field" aria-label="Shown beside" data-testid="beside-document">
    <option value="">{{ doc.view?.document.name }}</option>
    <optgroup v-if="sheets.length" label="Laid flat">
      <option v-for="b in sheets" :key="b.id" :value="BLANK + b.id">Blank of {{ b.name }}</option>
    </optgroup>
    <optgroup v-if="others.length" label="Other documents">
      <option v-for="d in others" :key="d.id" :value="d.id">{{ d.name }}</option>
    </optgroup>
  </select>
</template>

<style scoped>
select {
  flex: 10 1 96px;
  min-width: 96px;
  max-width: 190px;
}
</style>
