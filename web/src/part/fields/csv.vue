<script setup lang="ts">
// A table from a CSV file, kept in the step as its text.
import { computed, ref } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { value, bad, id, set, typed } = useField(props)
const shown = ref(false)
const file = ref<HTMLInputElement | null>(null)
const lines = computed(
  () =>
    String(value.value ?? '')
      .split(/\r?\n/)
      .filter((l) => l.trim()).length,
)
const said = computed(() => (lines.value < 2 ? 'none yet' : `${lines.value - 1} ${lines.value === 2 ? 'row' : 'rows'}`))
async function take(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (chosen) set(await chosen.text())
  if (file.value) file.value.value = ''
}
</script>

<template>
  <div>
    <FieldRow :field="field">
      <span class="said">
        <button class="btn small" :class="{ bad }" :title="field.hint ?? ''" @click="shown = !shown">{{ said }}</button>
        <button class="btn small" @click="file?.click()">From a file</button>
        <input ref="file" type="file" accept=".csv,.txt,.tsv" hidden :data-testid="`file-${field.name}`" @change="take" />
      </span>
    </FieldRow>
    <textarea
      v-if="shown"
      :id="id"
      class="field"
      rows="6"
      spellcheck="false"
      :placeholder="field.hint ?? ''"
      :value="String(value ?? '')"
      :aria-label="field.label"
      :data-testid="`field-${field.name}`"
      @keydown.stop
      @change="typed"
    />
  </div>
</template>

<style scoped>
.said {
  display: inline-flex;
  gap: 6px;
}
textarea {
  width: 100%;
  margin-top: 4px;
  font-family: inherit;
  font-size: 12px;
}
.bad {
  border-color: var(--bad);
}
</style>
