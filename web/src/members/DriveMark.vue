<script setup lang="ts">
// Beside a number or a choice: whether it differs between variants. While columns are being chosen a
// click on it makes one, or lets it go.
import { computed } from 'vue'
import Icon from '../ui/Icon.vue'
import { type Of, useMembers } from './store'

const props = defineProps<{ drives: string; of: Of; what: string; icon?: string }>()
const members = useMembers()
const column = computed(() => members.driver(props.drives, props.of))
const words = computed(() =>
  column.value
    ? `${props.what} differs between variants${members.driving !== null ? ': click to let it go' : ''}`
    : `Have ${props.what} differ between variants`,
)
</script>

<template>
  <button
    v-if="column || members.driving !== null"
    type="button"
    class="mark"
    :class="{ on: column, lit: column && members.lit === column, open: members.driving !== null }"
    :title="words"
    :aria-label="words"
    :aria-pressed="Boolean(column)"
    :disabled="members.driving === null"
    :data-testid="`drive-${[...(icon ? [drives] : []), ...Object.values(of)].join('-')}`"
    @pointerdown.stop
    @click.stop.prevent="members.drive(drives, of)"
  >
    <Icon :name="icon ?? 'members'" :size="13" />
  </button>
</template>

<style scoped>
.mark {
  display: inline-grid;
  place-items: center;
  width: 18px;
  height: 18px;
  padding: 0;
  border: 1px solid transparent;
  border-radius: 4px;
  color: var(--ink-3);
  background: none;
  flex: none;
}
.mark.open {
  border: 1px dashed var(--line-2);
  cursor: pointer;
}
.mark:disabled {
  opacity: 1;
}
.mark.on {
  color: var(--accent);
}
.mark.lit,
.mark.open:hover {
  background: var(--accent);
  color: var(--accent-ink);
}
</style>
