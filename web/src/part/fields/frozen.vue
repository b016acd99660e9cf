<script lang="ts">
import { type FieldType } from './types'

export const does: FieldType = {
  wanted: () => 'any',
  around: true,
  first: true,
  missing: (_, value) =>
    (value as unknown[] | undefined)?.length ? null : 'Click faces or edges of what stands around, or take whole bodies',
}
</script>

<script setup lang="ts">
// What a part takes from around it in its assembly, body by body.
import type { FieldView } from '../../api/client'
import Icon from '../../ui/Icon.vue'
import { useEdited } from '../edited'
import FieldRow from '../FieldRow.vue'
import { type Taken, useInPlace } from '../inplace'

defineProps<{ field: FieldView }>()
const edited = useEdited()
const inplace = useInPlace()
function amount(t: Taken): string {
  const n = t.seen.length
  return n ? `${n} ${t.seen[0].of}${n > 1 ? 's' : ''}` : 'all of it'
}
/** How it compares with what stands there now, once it was kept. */
function state(t: Taken): string {
  const step = inplace.own.find((s) => s.step === edited.id)
  const at = (edited.fields.taken as Taken[]).indexOf(t)
  return step?.sources[at]?.state === 'fresh' ? '' : (step?.sources[at]?.text ?? '')
}
</script>

<template>
  <FieldRow :field="field">
    <div class="how" role="group" aria-label="What clicks take">
      <button class="chip" :class="{ on: !inplace.whole }" data-testid="take-picks" @click="inplace.whole = false">Faces, edges</button>
      <button class="chip" :class="{ on: inplace.whole }" data-testid="take-whole" @click="inplace.whole = true">Whole bodies</button>
    </div>
  </FieldRow>
  <ul class="taken">
    <li v-for="t in inplace.taken" :key="t.number" :data-testid="`taken-${t.number}`">
      <span class="name" :title="t.title">{{ t.title }}</span>
      <span class="muted">{{ amount(t) }}</span>
      <button class="icon-btn" :aria-label="`Leave out ${t.title}`" title="Leave it out" @click="inplace.leave(t)">
        <Icon name="close" :size="13" />
      </button>
      <small v-if="state(t)" class="old">{{ state(t) }}</small>
    </li>
  </ul>
  <p v-if="!inplace.place" class="muted small">Open the part in place, from its assembly, to take more.</p>
</template>

<style scoped>
.how {
  display: flex;
  gap: 5px;
}
.taken {
  list-style: none;
  margin: 0;
  padding: 0;
}
.taken li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 7px;
  padding: 2px 0;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.old {
  flex-basis: 100%;
  color: var(--bad);
}
.small {
  font-size: 12px;
}
</style>
