<script setup lang="ts">
// A number with a unit, as a formula.
import { computed, ref, watch } from 'vue'
import type { FieldView } from '../../api/client'
import { shown as shownAs, typed, unitOf } from '../../ui/units'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, value, bad, id, set } = useField(props)
const text = ref(String(value.value ?? ''))
const editing = ref(false)
watch(value, (v) => {
  // What is being typed is left alone; offers and other fields change it otherwise.
  if (!editing.value) text.value = String(v ?? '')
})
function left(): void {
  editing.value = false
  text.value = String(value.value ?? '')
}
const shown = computed(() => {
  const v = edited.report?.values[props.field.name]
  if (v === undefined) return ''
  const plain = /^-?(\d+ )?[\d./]+( \w+)?$/.test(text.value.trim())
  const own = text.value.trim().split(' ').at(-1)
  // What was typed in the field's own unit need not be said again.
  return plain && (own === unitOf(props.field.dimension) || !/^[a-z]+$/i.test(own ?? '')) ? '' : `= ${shownAs(props.field.dimension, v)}`
})
</script>

<template>
  <FieldRow :field="field">
    <span class="value">
      <input
        :id="id"
        v-model="text"
        class="field formula"
        :class="{ bad }"
        spellcheck="false"
        autocomplete="off"
        :data-testid="`field-${field.name}`"
        @focus="editing = true"
        @blur="left"
        @input="set(typed(text, field.dimension))"
      />
      <small v-if="shown" class="muted">{{ shown }}</small>
    </span>
  </FieldRow>
</template>

<style scoped>
.value {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  justify-content: flex-end;
  flex: 0 1 196px;
}
.formula {
  width: 100%;
  max-width: 158px;
}
.value small {
  white-space: nowrap;
}
</style>
