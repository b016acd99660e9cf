<script lang="ts">
import type { StoredPick } from '../../viewport/mesh'
import type { Wanted } from '../../viewport/engine'
import { empty, type FieldType } from './types'

export const does: FieldType = {
  missing: (field, value) => (!field.free && empty(value) ? (field.hint ?? `Pick ${field.label}`) : null),
  wanted: (field) => field.accepts as Wanted,
  picks: { of: (value) => (value as StoredPick[] | undefined) ?? [], put: (_, picks) => picks },
  first: true,
  before: true,
}
</script>

<script setup lang="ts">
// Faces, edges, corners chosen in the picture, and sets whose members fit.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import FieldRow from '../FieldRow.vue'
import PickBox from '../PickBox.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list, before, report, set } = useField(props)
const words = computed(() => {
  const n = list.value.length
  return n ? `${n} ${props.field.accepts === 'any' ? 'pick' : props.field.accepts}${n === 1 ? '' : 's'}` : 'none yet'
})
const sets = computed(() =>
  before.value.filter((s) => {
    const gathers = report(s.id)?.gathers
    return gathers && gathers !== 'body' && (props.field.accepts === 'any' || gathers === props.field.accepts)
  }),
)
const ofSet = (id: string) => (p: unknown) => (p as StoredPick).kind === 'set' && (p as StoredPick).name?.[0] === id
const has = (id: string): boolean => list.value.some(ofSet(id))
function toggle(id: string): void {
  const rest = list.value.filter((p) => !ofSet(id)(p))
  set(has(id) ? rest : [...rest, { body: '', kind: 'set', name: [id] }])
}
</script>

<template>
  <FieldRow :field="field">
    <PickBox :field="field" :words="words">
      <button
        v-for="s in sets"
        :key="s.id"
        class="chip"
        :class="{ on: has(s.id) }"
        :title="`All that ${s.name} gathers`"
        :data-testid="`set-${field.name}-${s.id}`"
        @click="toggle(s.id)"
      >
        {{ s.name }}
      </button>
    </PickBox>
  </FieldRow>
</template>
