<script setup lang="ts">
// An option: what is chosen of it, and what its own columns are for each of its values.
import { NDropdown } from 'naive-ui'
import { ref } from 'vue'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import NameField from '../ui/NameField.vue'
import { typed } from '../ui/units'
import CellField from './CellField.vue'
import CellText from './CellText.vue'
import { type Column, useMembers } from './store'

const props = defineProps<{ option: Schemas['OptionView']; columns: Column[] }>()
const emit = defineEmits<{ problem: [text: string] }>()
const doc = useDocument()
const members = useMembers()
const cell = ref<{ value: string; column: string; text: string } | null>(null)

async function run(command: { do: string; [k: string]: unknown }): Promise<void> {
  emit('problem', '')
  if (!(await members.run(command))) emit('problem', doc.failure?.text ?? '')
}
const choose = (text: string): Promise<void> =>
  run({ do: 'choose', variant: members.stand.variant ?? null, options: { ...members.stand.options, [props.option.id]: text } })
async function keep(text: string): Promise<void> {
  const at = cell.value
  const c = props.columns.find((x) => x.id === at?.column)
  cell.value = null
  if (!at || !c || text.trim() === at.text) return
  const t = text.trim()
  const value = c.cell === 'number' ? (t ? { formula: typed(t, c.dimension ?? undefined) } : null) : t || null
  await run({ do: 'set_option_cells', id: props.option.id, value: at.value, cells: { [c.id]: value } })
}
/** What is being typed: its name, one more value, or another name of one. */
const typing = ref<{ what: string; text: string } | null>(null)
const ASKED: Record<string, string> = { name: 'Name of the option', value: 'One more value' }
async function keepTyped(): Promise<void> {
  const t = typing.value
  typing.value = null
  const text = t?.text.trim()
  if (!t || !text) return
  const change =
    t.what === 'name'
      ? { name: text }
      : t.what === 'value'
        ? { values: [...props.option.values.map((v) => v.name), text] }
        : { renames: { [t.what.slice(7)]: text } }
  await run({ do: 'edit_option', id: props.option.id, ...change })
}
const menu = (): { key: string; label: string }[] => [
  { key: 'name', label: 'Rename' },
  ...(props.option.kind === 'list' ? props.option.values.map((v) => ({ key: `called:${v.name}`, label: `Rename ${v.name}` })) : []),
  ...(props.option.kind === 'list' ? [{ key: 'value', label: 'One more value' }] : []),
  ...props.option.values
    .filter((v) => props.option.kind === 'list' && props.option.values.length > 1 && v.name !== props.option.chosen)
    .map((v) => ({ key: `without:${v.name}`, label: `Without ${v.name}` })),
  { key: 'remove', label: 'Delete' },
]
function act(key: string): void {
  if (key === 'name' || key === 'value') return void (typing.value = { what: key, text: key === 'name' ? props.option.name : '' })
  if (key.startsWith('called:')) return void (typing.value = { what: key, text: key.slice(7) })
  if (key.startsWith('without:')) {
    const values = props.option.values.map((v) => v.name).filter((n) => n !== key.slice(8))
    return void run({ do: 'edit_option', id: props.option.id, values })
  }
  if (key === 'columns') members.driving = members.driving === props.option.id ? null : props.option.id
  else void run({ do: 'remove_option', id: props.option.id })
}
</script>

<template>
  <section class="option" :data-testid="`option-${option.id}`">
    <header>
      <NameField
        v-if="typing"
        v-model="typing.text"
        :label="ASKED[typing.what] ?? `Name of ${typing.what.slice(7)}`"
        data-testid="option-typing"
        @keep="keepTyped()"
        @leave="typing = null"
      />
      <b v-else @dblclick="act('name')">{{ option.name }}</b>
      <span v-if="option.kind !== 'number'" class="values" role="radiogroup" :aria-label="option.name">
        <button
          v-for="v in option.values"
          :key="v.name"
          role="radio"
          :aria-checked="v.name === option.chosen"
          :class="{ on: v.name === option.chosen }"
          :data-testid="`value-${v.name}`"
          @click="choose(v.name)"
        >
          {{ v.name }}
        </button>
      </span>
      <template v-else>
        <input
          class="field"
          :value="option.chosen"
          :aria-label="option.name"
          data-testid="option-number"
          @keydown.stop
          @keydown.enter="choose(typed(($event.target as HTMLInputElement).value, columns[0]?.dimension ?? undefined))"
        />
        <span class="muted">{{ option.least ?? '…' }} to {{ option.most ?? '…' }}</span>
      </template>
      <span class="grow" />
      <button class="btn small" :class="{ on: members.driving === option.id }" data-testid="option-columns" @click="act('columns')">
        <Icon name="members" :size="13" /> Columns
      </button>
      <NDropdown trigger="click" placement="bottom-end" :options="menu()" @select="act">
        <button class="icon-btn" :aria-label="`More for ${option.name}`" title="Rename, values, delete">
          <Icon name="more" :size="14" />
        </button>
      </NDropdown>
    </header>
    <p v-if="!columns.length" class="muted">It drives nothing yet: press Columns and click what differs.</p>
    <p v-else-if="option.kind === 'number'" class="muted">Sets {{ columns.map((c) => c.name).join(', ') }}</p>
    <table v-else class="grid">
      <thead>
        <tr>
          <th />
          <th
            v-for="c in columns"
            :key="c.id"
            :class="{ lit: members.lit === c.id }"
            @pointerenter="members.lit = c.id"
            @pointerleave="members.lit = null"
          >
            {{ c.name }}
            <button
              class="icon-btn tiny"
              :title="`Let ${c.name} go`"
              :aria-label="`Let ${c.name} go`"
              @click="run({ do: 'remove_column', id: c.id })"
            >
              <Icon name="close" :size="11" />
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="v in option.values" :key="v.name" :class="{ active: v.name === option.chosen }">
          <td>{{ v.name }}</td>
          <td
            v-for="c in columns"
            :key="c.id"
            :class="{ inherited: !v.cells[c.id]?.own }"
            :data-testid="`optioncell-${v.name}-${c.id}`"
            @click="c.cell !== 'picks' && (cell = { value: v.name, column: c.id, text: v.cells[c.id].text })"
          >
            <CellField
              v-if="cell && cell.value === v.name && cell.column === c.id"
              :column="c"
              :text="cell.text"
              :label="`${c.name} for ${v.name}`"
              @keep="keep"
              @leave="cell = null"
            />
            <CellText v-else :column="c" :cell="v.cells[c.id]" />
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.option {
  margin-top: 10px;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 7px;
  max-width: 900px;
}
header {
  display: flex;
  align-items: center;
  gap: 12px;
}
.grow {
  flex: 1;
}
.values {
  display: inline-flex;
  border: 1px solid var(--line-2);
  border-radius: 6px;
  overflow: hidden;
}
.values button {
  padding: 3px 10px;
  color: var(--ink-2);
}
.values button.on {
  background: var(--accent-soft);
  color: var(--accent);
  font-weight: 600;
}
.grid {
  width: auto;
  margin-top: 4px;
}
.inherited {
  color: var(--ink-3);
}
.active td:first-child {
  font-weight: 600;
}
.lit {
  background: var(--accent-soft);
}
.tiny {
  width: 18px;
  height: 18px;
}
p {
  margin: 4px 0;
}
</style>
