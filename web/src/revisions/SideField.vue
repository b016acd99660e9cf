<script setup lang="ts">
// Which state is looked at: a revision of the document or of a branch, or one of its variants.
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { read, type Side, written } from './asked'

const props = defineProps<{
  side: Side
  label: string
  id: string
  revisions: Schemas['RevisionView'][]
  head: number
  variants: { id: string; name: string }[]
  others: { id: string; name: string }[]
}>()
const emit = defineEmits<{ change: [side: Side] }>()
const plain = (side: Side): Side => ({
  document: side.document && side.document !== props.id ? side.document : null,
  revision: side.revision === props.head ? null : (side.revision ?? null),
  choice: side.choice ?? null,
})
const offers = computed(() => {
  const revisions = props.revisions.map((r) => ({
    value: written(plain({ revision: r.number })),
    label: `r ${r.number}${r.number === props.head ? ', now' : ''} · ${r.version ?? r.words}`.slice(0, 70),
  }))
  const member = (variant: string | null): Side => ({ choice: { variant, options: {} } })
  const variants = props.variants.length
    ? [{ id: null, name: 'As drawn' }, ...props.variants].map((v) => ({ value: written(plain(member(v.id))), label: v.name }))
    : []
  const others = props.others.map((o) => ({ value: written(plain({ document: o.id })), label: o.name }))
  return [
    { title: 'Revisions', rows: revisions },
    { title: 'Variants', rows: variants },
    { title: 'Branches', rows: others },
  ].filter((g) => g.rows.length)
})
const now = computed(() => written(plain(props.side)))
</script>

<template>
  <select
    class="field"
    :aria-label="label"
    :value="now"
    :data-testid="`side-${label}`"
    @change="emit('change', read(($event.target as HTMLSelectElement).value))"
  >
    <option v-if="!offers.some((g) => g.rows.some((r) => r.value === now))" :value="now">
      {{ side.revision ? `r ${side.revision}` : 'now' }}
    </option>
    <optgroup v-for="g in offers" :key="g.title" :label="g.title">
      <option v-for="r in g.rows" :key="r.value" :value="r.value">{{ r.label }}</option>
    </optgroup>
  </select>
</template>
