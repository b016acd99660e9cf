<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = {
  missing: (_, value) => (value ? null : 'There is no sketch yet: draw one first'),
  sketches: (value) => [value as string],
  /** The newest one not used yet; two fields that ask for a sketch each get one of their own. */
  guess({ field, part, steps, given }) {
    if (given[field.name]) return given[field.name]
    const sketches = steps.filter((s) => s.kind === 'sketch')
    const used = new Set(part.steps.map((s) => (s.fields as Record<string, unknown>).sketch))
    const taken = new Set(Object.values(given))
    return (sketches.filter((s) => !used.has(s.id) && !taken.has(s.id)).at(-1) ?? sketches.at(-1))?.id
  },
}
</script>

<script setup lang="ts">
// A sketch of the part.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { doc, value, id, typed } = useField(props)
const sketches = computed(() => (doc.part?.steps ?? []).filter((s) => s.kind === 'sketch'))
</script>

<template>
  <FieldRow :field="field">
    <select :id="id" class="field" :value="value" @change="typed">
      <option v-for="s in sketches" :key="s.id" :value="s.id">{{ s.name }}</option>
    </select>
  </FieldRow>
</template>
