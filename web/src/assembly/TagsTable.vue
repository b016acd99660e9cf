<script setup lang="ts">
// Tags of all components in one table: typed down the column, doubles pointed at.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { doubles } from './listing'
import { useAssembly } from './store'

const doc = useDocument()
const asm = useAssembly()
const components = computed(() => doc.assembly?.components ?? [])
const twice = computed(() => doubles(components.value))

async function put(id: string, event: Event): Promise<void> {
  const tag = (event.target as HTMLInputElement).value.trim()
  if (tag !== (components.value.find((c) => c.id === id)?.tag ?? '')) await doc.edit([{ do: 'edit_component', id, tag }], 'tag')
}
/** Enter goes on to the next one. */
function next(event: KeyboardEvent): void {
  const fields = [...((event.target as HTMLElement).closest('table')?.querySelectorAll('input') ?? [])]
  const at = fields.indexOf(event.target as HTMLInputElement)
  fields[at + (event.shiftKey ? -1 : 1)]?.focus()
  if (at + 1 === fields.length) (event.target as HTMLInputElement).blur()
}
</script>

<template>
  <p v-if="!components.length" class="muted">Nothing stands in this assembly yet. Bring parts in with Place.</p>
  <table v-else class="grid" data-testid="tags">
    <thead>
      <tr>
        <th>Component</th>
        <th>Tag</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in components" :key="c.id" :class="{ lit: asm.selected.includes(c.id) }">
        <td>
          <button class="name" @click="asm.selected = [c.id]">{{ c.name }}</button>
        </td>
        <td class="tag">
          <input
            class="field"
            :value="c.tag"
            maxlength="40"
            spellcheck="false"
            placeholder="none"
            :aria-label="`Tag of ${c.name}`"
            :data-testid="`tag-${c.id}`"
            @focus="asm.selected = [c.id]"
            @change="put(c.id, $event)"
            @keydown.enter.prevent="next"
            @keydown.stop
          />
        </td>
        <td>
          <span v-if="twice.has(c.id)" class="twice" data-testid="tag-twice"
            ><Icon name="alert" :size="13" /> borne by more than one: fine when that is meant</span
          >
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.name {
  font: inherit;
  font-weight: 600;
}
.tag {
  width: 190px;
}
.tag .field {
  width: 100%;
}
tr.lit td {
  background: var(--pick-soft);
}
.twice {
  color: var(--warn, var(--ink-2));
  font-size: 12px;
}
.twice svg {
  vertical-align: -2px;
}
</style>
