<script lang="ts">
import { empty, type FieldType } from './types'

export const does: FieldType = {
  missing: (_, value) => (empty(value) ? 'Choose the steps to do again' : null),
  /** Copies most often do again what was done last. */
  guess({ steps, copyable }) {
    const last = steps.filter((s) => copyable(s.kind)).at(-1)
    return last ? [last.id] : []
  },
}
</script>

<script setup lang="ts">
// Earlier steps that did something with a shape of their own.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import { useRegistries } from '../../document/store'
import ChipRow from '../ChipRow.vue'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list, before, toggle } = useField(props)
const registries = useRegistries()
const REFERENCES = ['sketch', 'set', 'plane', 'axis', 'point', 'frame', 'port']
const copyable = computed(() =>
  before.value.filter((s) => registries.kind(s.kind)?.copyable || (props.field.any && !REFERENCES.includes(s.kind))),
)
</script>

<template>
  <FieldRow :field="field">
    <ChipRow :data-testid="`steps-${field.name}`">
      <button v-for="s in copyable" :key="s.id" class="chip" :class="{ on: list.includes(s.id) }" @click="toggle(s.id)">
        {{ s.name }}
      </button>
      <small v-if="!copyable.length" class="muted">none before this one</small>
    </ChipRow>
  </FieldRow>
</template>
