<script setup lang="ts">
// Numbers of the copied steps that grow from each copy to the next.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import { useRegistries } from '../../document/store'
import Icon from '../../ui/Icon.vue'
import { typed } from '../../ui/units'
import FieldRow from '../FieldRow.vue'
import { useField } from './use'

interface Varied {
  step: string
  field: string
  by: { formula: string }
}
const props = defineProps<{ field: FieldView }>()
const { edited, doc, list, set: put } = useField(props)
const registries = useRegistries()
const rows = computed(() => list.value as Varied[])
/** Numbers in use of the chosen steps. */
const numbers = computed(() =>
  ((edited.fields.steps as string[] | undefined) ?? []).flatMap((id) => {
    const step = doc.part?.steps.find((s) => s.id === id)
    const values = doc.build?.steps.find((s) => s.id === id)?.values ?? {}
    return (registries.kind(step?.kind ?? '')?.fields ?? [])
      .filter((f) => f.type === 'quantity' && f.name in values)
      .map((f) => ({ key: `${id}.${f.name}`, label: `${step?.name}: ${f.label}`, dimension: f.dimension }))
  }),
)
function add(): void {
  const first = numbers.value.find((n) => !rows.value.some((r) => `${r.step}.${r.field}` === n.key))
  if (!first) return
  const [step, field] = first.key.split('.')
  put([...rows.value, { step, field, by: { formula: typed('1', first.dimension) } }])
}
function change(n: number, key: string): void {
  const [step, field] = key.split('.')
  put(rows.value.map((r, i) => (i === n ? { ...r, step, field } : r)))
}
function grow(n: number, formula: string): void {
  const dimension = numbers.value.find((x) => x.key === `${rows.value[n].step}.${rows.value[n].field}`)?.dimension
  put(rows.value.map((r, i) => (i === n ? { ...r, by: { formula: typed(formula, dimension) } } : r)))
}
</script>

<template>
  <FieldRow :field="field">
    <span class="varied" :data-testid="`varied-${field.name}`">
      <span v-for="(r, n) in rows" :key="n" class="one">
        <select
          class="field"
          :value="`${r.step}.${r.field}`"
          aria-label="Number that grows"
          @change="change(n, ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="x in numbers" :key="x.key" :value="x.key">{{ x.label }}</option>
        </select>
        <input
          class="field"
          :value="r.by.formula"
          aria-label="Growth from each copy to the next"
          spellcheck="false"
          @change="grow(n, ($event.target as HTMLInputElement).value)"
        />
        <button class="icon-btn" title="Leave it out" aria-label="Leave it out" @click="put(rows.filter((_, i) => i !== n))">
          <Icon name="close" :size="13" />
        </button>
      </span>
      <button v-if="numbers.length > rows.length" class="chip" :data-testid="`vary-${field.name}`" @click="add">Let a number grow</button>
      <small v-else-if="!rows.length" class="muted">none</small>
    </span>
  </FieldRow>
</template>

<style scoped>
.varied {
  display: flex;
  flex-direction: column;
  gap: 3px;
  align-items: flex-end;
  min-width: 0;
}
.one {
  display: flex;
  gap: 3px;
}
.one select {
  max-width: 120px;
}
.one input {
  width: 62px;
}
</style>
