<script lang="ts">
import { type FieldType } from './types'

const sorted = (numbers: number[]): number[] => [...new Set(numbers)].sort((a, b) => a - b)

export const does: FieldType = {
  wanted: () => 'face',
  made: true,
  /** The copy a face belongs to is left out: its number is the part of the name after the step. */
  take({ pick, value, own }) {
    const parts = pick.name.flatMap((n) => n.split('&')).map((n) => n.split('/'))
    const number = parts.find((n) => n[0] === own && /^\d+$/.test(n[1]))?.[1]
    if (!number) throw new Error('That face belongs to no copy of this step')
    return sorted([...((value as number[] | undefined) ?? []), Number(number)])
  },
}
</script>

<script setup lang="ts">
// Whole numbers typed as a list; where they count copies, those are clicked too.
import type { FieldView } from '../../api/client'
import ChipRow from '../ChipRow.vue'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list, focused, id, set, focus } = useField(props)
const read = (event: Event): void =>
  set(
    sorted(
      (event.target as HTMLInputElement).value
        .split(/[^\d]+/)
        .filter(Boolean)
        .map(Number),
    ),
  )
</script>

<template>
  <FieldRow :field="field">
    <ChipRow>
      <input
        :id="id"
        class="field"
        :value="list.join(', ')"
        placeholder="none"
        spellcheck="false"
        :data-testid="`field-${field.name}`"
        @change="read"
      />
      <button
        v-if="field.marks"
        class="pickbox"
        :class="{ on: focused }"
        title="Click copies in the picture to leave them out"
        :data-testid="`picks-${field.name}`"
        @click="focus"
      >
        Click them
      </button>
    </ChipRow>
  </FieldRow>
</template>

<style scoped>
input {
  width: 84px;
}
</style>
