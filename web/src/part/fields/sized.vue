<script lang="ts">
import type { Wanted } from '../../viewport/engine'
import type { StoredPick } from '../../viewport/mesh'
import { type FieldType } from './types'

/** Picks with a size of their own. */
interface Sized {
  picks: StoredPick[]
  size: { formula: string }
}
const held = (value: unknown): Sized[] => (value as Sized[] | undefined) ?? []

export const does: FieldType = {
  wanted: (field) => field.accepts as Wanted,
  picks: {
    of: (value, row) => held(value)[row]?.picks ?? [],
    put: (value, picks, row) => held(value).map((r, i) => (i === row ? { ...r, picks } : r)),
  },
}
</script>

<script setup lang="ts">
// Groups of picks, each with a size of its own: one row a group.
import { computed, ref } from 'vue'
import type { FieldView } from '../../api/client'
import Icon from '../../ui/Icon.vue'
import { typed } from '../../ui/units'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { edited, value, set } = useField(props)
const rows = computed(() => held(value.value))
const focusOf = (n: number): string => `${props.field.name}.${n}`
const words = (row: Sized): string =>
  row.picks.length ? `${row.picks.length} ${props.field.accepts}${row.picks.length === 1 ? '' : 's'}` : 'none yet'

function add(): void {
  set([...rows.value, { picks: [], size: { formula: typed('1', 'length') } }])
  edited.focus = focusOf(rows.value.length - 1)
}
/** The size being typed, as it stands in its field: a unit is put behind plain numbers only when it is used. */
const typing = ref<{ n: number; text: string } | null>(null)
function onType(n: number, event: Event): void {
  typing.value = { n, text: (event.target as HTMLInputElement).value }
  const formula = typed(typing.value.text, 'length')
  set(rows.value.map((r, i) => (i === n ? { ...r, size: { formula } } : r)))
}
function drop(n: number): void {
  edited.focus = null
  set(rows.value.filter((_, i) => i !== n))
}
</script>

<template>
  <FieldRow :field="field">
    <span class="sized" :data-testid="`sized-${field.name}`">
      <span v-for="(row, n) in rows" :key="n" class="one">
        <button
          class="pickbox"
          :class="{ on: edited.focus === focusOf(n) }"
          :title="field.hint ?? ''"
          :data-testid="`picks-${field.name}-${n}`"
          @click="edited.focus = edited.focus === focusOf(n) ? null : focusOf(n)"
        >
          {{ words(row) }}
        </button>
        <input
          class="field"
          :value="typing?.n === n ? typing.text : row.size.formula"
          spellcheck="false"
          :aria-label="`${field.label}, ${n + 1}`"
          :data-testid="`size-${field.name}-${n}`"
          @input="onType(n, $event)"
          @blur="typing = null"
        />
        <button class="icon-btn" title="Leave it out" aria-label="Leave it out" @click="drop(n)">
          <Icon name="close" :size="13" />
        </button>
      </span>
      <button class="chip" :data-testid="`another-${field.name}`" @click="add">{{ rows.length ? 'Another' : 'Add one' }}</button>
    </span>
  </FieldRow>
</template>

<style scoped>
.sized {
  display: flex;
  flex-direction: column;
  gap: 3px;
  align-items: flex-end;
  min-width: 0;
}
.one {
  display: flex;
  gap: 4px;
  align-items: center;
}
.one input {
  width: 74px;
}
.chip {
  border: 1px solid var(--line-2);
}
</style>
