<script setup lang="ts">
// Yes or no.
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { value, id, set } = useField(props)
</script>

<template>
  <FieldRow :field="field">
    <input :id="id" type="checkbox" :checked="Boolean(value)" @change="set(!value)" />
  </FieldRow>
</template>

<style scoped>
input {
  width: 16px;
  height: 16px;
  accent-color: var(--accent);
}
</style>
