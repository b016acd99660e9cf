<script setup lang="ts">
// What can be brought in from the project, one after the other; whether it then stands anchored is
// remembered.
import { ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import DocumentList from './DocumentList.vue'
import ChooseMember, { type Chosen } from '../members/ChooseMember.vue'
import type { Where } from './placing'

defineProps<{ documents: Schemas['DocumentLine'][]; waiting?: string | null }>()
const emit = defineEmits<{ place: [line: Line & { choice?: Chosen }, anchored: boolean, where: Where]; leave: [] }>()
const doc = useDocument()
type Line = Schemas['DocumentLine']
/** One that has members: which is chosen before it comes in. */
const choosing = shallowRef<Line | null>(null)
async function choose(line: Line): Promise<void> {
  try {
    const found = await call('get', '/api/documents/{id}/members', { path: { id: line.id } })
    if (found.columns.length || found.options.length) choosing.value = line
    else emit('place', line, anchored.value, where.value)
  } catch (error) {
    doc.refused(error)
  }
}
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
    <ChooseMember
      v-if="choosing"
      :key="choosing.id"
      :document="choosing.id"
      :name="choosing.name"
      :chosen="{ variant: null, options: {} }"
      verb="Bring in"
      @take="(choice) => emit('place', { ...choosing!, choice }, anchored, where)"
      @leave="choosing = null"
    />
    <DocumentList v-else :documents="documents" verb="Bring in" @choose="choose" />
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
/* One card in another is one too many. */
.place :deep(.choose) {
  border: 0;
  border-top: 1px solid var(--line);
  border-radius: 0;
  margin: 8px 0 0;
  padding: 8px 0;
  box-shadow: none;
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
