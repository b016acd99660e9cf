<script setup lang="ts">
// A word of the user's own.
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { value, bad, id, typed } = useField(props)
</script>

<template>
  <FieldRow :field="field">
    <input
      :id="id"
      class="field"
      :class="{ bad }"
      :value="value"
      spellcheck="false"
      autocomplete="off"
      :data-testid="`field-${field.name}`"
      @input="typed"
    />
  </FieldRow>
</template>

<style scoped>
input {
  width: 100%;
  max-width: 158px;
}
</style>
