<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = {
  missing: (field, value) =>
    field.name === 'sections' && (!Array.isArray(value) || value.length < 2) ? 'Choose the sketches in their order' : null,
  sketches: (value) => (value as string[]) ?? [],
}
</script>

<script setup lang="ts">
// Sketches in their order.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import ChipRow from '../ChipRow.vue'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list, before, toggle } = useField(props)
const earlier = computed(() => before.value.filter((s) => s.kind === 'sketch'))
</script>

<template>
  <FieldRow :field="field">
    <ChipRow :data-testid="`sketches-${field.name}`" :title="field.hint ?? ''">
      <button v-for="s in earlier" :key="s.id" class="chip" :class="{ on: list.includes(s.id) }" @click="toggle(s.id)">
        <i v-if="list.includes(s.id)">{{ list.indexOf(s.id) + 1 }}</i>{{ s.name }}
      </button>
    </ChipRow>
  </FieldRow>
</template>

<style scoped>
i {
  font-style: normal;
  font-size: 11px;
  font-weight: 600;
  margin-right: 5px;
  color: var(--pick);
}
</style>
