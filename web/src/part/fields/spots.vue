<script lang="ts">
import type { StoredPick } from '../../viewport/mesh'
import { empty, type FieldType } from './types'

/** A place on a face for a hole, in part coordinates. */
interface Spot {
  id: string
  face: StoredPick
  at: { formula: string }[]
}

export const does: FieldType = {
  missing: (field, value) => (empty(value) ? (field.hint ?? 'Click where they go') : null),
  wanted: () => 'face',
  take({ pick, hit, value }) {
    const list = (value as Spot[] | undefined) ?? []
    const number = Math.max(0, ...list.map((s) => Number(s.id.slice(1)) || 0)) + 1
    // A click is rounded to what one would type.
    const at = hit.point.toArray().map((v) => ({ formula: `${Math.round(v * 2) / 2} mm` }))
    return [...list, { id: `h${number}`, face: pick, at }]
  },
  first: true,
  before: true,
}
</script>

<script setup lang="ts">
// Places on faces: X, Y, Z of each as formulas, clicked in the picture or typed.
import { computed } from 'vue'
import type { FieldView } from '../../api/client'
import Icon from '../../ui/Icon.vue'
import { typed } from '../../ui/units'
import FieldRow from '../FieldRow.vue'
import PickBox from '../PickBox.vue'
import { useField } from './use'

const props = defineProps<{ field: FieldView }>()
const { list, set } = useField(props)
const spots = computed(() => list.value as Spot[])
const words = computed(() => (spots.value.length ? `${spots.value.length} place${spots.value.length === 1 ? '' : 's'}` : 'none yet'))

function onType(n: number, axis: number, event: Event): void {
  const formula = typed((event.target as HTMLInputElement).value, 'length')
  const next = spots.value.map((s, i) => (i === n ? { ...s, at: s.at.map((a, k) => (k === axis ? { formula } : a)) } : s))
  set(next)
}
function drop(n: number): void {
  set(spots.value.filter((_, i) => i !== n))
}
</script>

<template>
  <FieldRow :field="field"><PickBox :field="field" :words="words" /></FieldRow>
  <table v-if="spots.length" class="spots" :data-testid="`spots-${field.name}`">
    <thead>
      <tr>
        <th />
        <th>X</th>
        <th>Y</th>
        <th>Z</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="(s, n) in spots" :key="s.id">
        <td class="muted">{{ n + 1 }}</td>
        <td v-for="(a, k) in s.at" :key="k">
          <input
            class="field"
            :value="a.formula"
            spellcheck="false"
            :aria-label="`${'XYZ'[k]} of place ${n + 1}`"
            :data-testid="`spot-${s.id}-${k}`"
            @change="onType(n, k, $event)"
          />
        </td>
        <td>
          <button class="icon-btn" title="Leave it out" aria-label="Leave it out" @click="drop(n)">
            <Icon name="close" :size="13" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.spots {
  width: 100%;
  border-spacing: 3px 2px;
}
th {
  font-weight: 500;
  font-size: 11px;
  color: var(--ink-3);
  text-align: left;
}
input {
  width: 100%;
  min-width: 0;
}
td:first-child,
td:last-child {
  width: 18px;
}
</style>
