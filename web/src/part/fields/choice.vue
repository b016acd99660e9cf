<script setup lang="ts">
// One of some words, with the reference steps that may be chosen too.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { value, before, report, id, set, typed } = useField(props)
const options = computed<Record<string, string>>(() => {
  const forms = props.field.datums ?? []
  const datums = before.value.filter((s) => forms.includes(report(s.id)?.datum?.form ?? ''))
  return { ...props.field.words, ...Object.fromEntries(datums.map((s) => [`step:${s.id}`, s.name])) }
})
/** Words that would not fit side by side go into a list. */
const many = computed(() => Object.values(options.value).join('').length + 4 * Object.keys(options.value).length > 33)
</script>

<template>
  <FieldRow :field="field">
    <select v-if="many" :id="id" class="field" :value="value" :data-testid="`choose-${field.name}`" @change="typed">
      <option v-for="(word, key) in options" :key="key" :value="key">{{ word }}</option>
    </select>
    <span v-else class="segmented" role="group">
      <button
        v-for="(word, key) in options"
        :key="key"
        :class="{ on: value === key }"
        :data-testid="`choice-${field.name}-${key}`"
        @click="set(key)"
      >
        {{ word }}
      </button>
    </span>
  </FieldRow>
</template>
