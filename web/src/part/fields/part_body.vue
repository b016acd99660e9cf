<script setup lang="ts">
// A body of the part named in another field.
import { ref, watch } from 'vue'
import { call, type FieldView, type Schemas } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, doc, value, id, typed } = useField(props)
const bodies = ref<Schemas['BodyView'][]>([])
watch(
  () => edited.fields[props.field.of ?? ''] as string | undefined,
  async (part) => {
    bodies.value = []
    if (!part) return
    try {
      bodies.value = (await call('get', '/api/documents/{id}/build', { path: { id: part }, query: {} })).bodies
    } catch (error) {
      doc.refused(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <FieldRow :field="field">
    <select :id="id" class="field" :value="value ?? ''" @change="typed">
      <option value="">all of them</option>
      <option v-for="b in bodies" :key="b.id" :value="b.id">{{ b.name }}</option>
    </select>
  </FieldRow>
</template>
