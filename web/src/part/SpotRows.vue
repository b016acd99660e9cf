<script setup lang="ts">
// Places on faces: X, Y, Z of each as formulas, clicked in the picture or typed.
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'
import { type Spot, useDraft } from './draft'
import { typed } from '../ui/units'

const props = defineProps<{ name: string }>()
const draft = useDraft()
const spots = computed(() => (draft.fields[props.name] as Spot[] | undefined) ?? [])

function onType(n: number, axis: number, event: Event): void {
  const formula = typed((event.target as HTMLInputElement).value, 'length')
  const next = spots.value.map((s, i) => (i === n ? { ...s, at: s.at.map((a, k) => (k === axis ? { formula } : a)) } : s))
  draft.set(props.name, next)
}
function drop(n: number): void {
  draft.set(
    props.name,
    spots.value.filter((_, i) => i !== n),
  )
}
</script>

<template>
  <table class="spots" :data-testid="`spots-${name}`">
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
