<script setup lang="ts">
// A line of the sketch something can turn about: its axes, its aids, its straight lines.
import { computed } from 'vue'
import type { Drawing, FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, doc, value, id, typed } = useField(props)
const axes = computed<[string, string][]>(() => {
  const step = doc.part?.steps.find((s) => s.id === edited.fields[props.field.of ?? 'sketch'])
  const lines = ((step?.fields as { drawing?: Drawing } | undefined)?.drawing?.entities ?? []).filter((e) => e.type === 'line')
  return [
    ['y_axis', 'Y axis of the sketch'],
    ['x_axis', 'X axis of the sketch'],
    ...lines.map((e): [string, string] => [e.id, `${e.construction ? 'aid' : 'line'} ${e.id}`]),
  ]
})
</script>

<template>
  <FieldRow :field="field">
    <select :id="id" class="field" :value="value" :data-testid="`choose-${field.name}`" @change="typed">
      <option v-for="[line, word] in axes" :key="line" :value="line">{{ word }}</option>
    </select>
  </FieldRow>
</template>
