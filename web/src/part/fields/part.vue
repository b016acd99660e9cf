<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = { missing: (_, value) => (value ? null : 'Choose the part it takes from') }
</script>

<script setup lang="ts">
// Another part of the project.
import { ref } from 'vue'
import { call, type FieldView, type Schemas } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { doc, value, id, typed } = useField(props)
const parts = ref<Schemas['DocumentLine'][]>([])
void call('get', '/api/shelf').then((shelf) => {
  const mine = shelf.projects.find((p) => p.id === doc.view?.project)?.documents ?? []
  parts.value = mine.filter((d) => d.kind === 'part' && d.id !== doc.view?.id)
}, doc.refused)
</script>

<template>
  <FieldRow :field="field">
    <select :id="id" class="field" :value="value ?? ''" data-testid="choose-part" @change="typed">
      <option value="" disabled>choose</option>
      <option v-for="p in parts" :key="p.id" :value="p.id">{{ p.name }}</option>
    </select>
  </FieldRow>
</template>
