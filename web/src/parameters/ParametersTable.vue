<script setup lang="ts">
// Named numbers: name, formula, value, limits, note, where used. A table for the keyboard: arrows
// move, typing or Enter begins, Enter and Tab keep and go on, Esc leaves.
import { NPopover } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { download, type Parameter, type Schemas } from '../api/client'
import { type Command, useDocument } from '../document/store'
import { change } from '../ui/format'
import FollowLine from '../revisions/FollowLine.vue'
import Icon from '../ui/Icon.vue'
import DriveMark from '../members/DriveMark.vue'
import FormulaField from './FormulaField.vue'
import FormulaHelp from './FormulaHelp.vue'
import { limitsText } from './limits'
import { useParameters } from './store'
import TableDialog from './TableDialog.vue'

type Column = 'name' | 'formula' | 'limits' | 'note'
const COLUMNS: Column[] = ['name', 'formula', 'limits', 'note']

const doc = useDocument()
const store = useParameters()
const values = computed(() => store.values)
const cell = ref<{ name: string; column: Column; text: string; begun: boolean } | null>(null)
const cursor = ref<{ name: string; column: Column } | null>(null)
const adding = ref<{ name: string; formula: string } | null>(null)
const problem = ref('')
const filter = ref('')
const help = ref(false)
const table = ref<string | null>(null)
const grid = ref<HTMLTableElement | null>(null)
const file = ref<HTMLInputElement | null>(null)

/** Parameters by group, in the order groups first come; those without one first. */
const groups = computed(() => {
  const wanted = filter.value.toLowerCase()
  const found = new Map<string, Parameter[]>([['', []]])
  for (const p of store.parameters)
    if (!wanted || `${p.name} ${p.note} ${p.group} ${p.formula}`.toLowerCase().includes(wanted))
      found.set(p.group ?? '', [...(found.get(p.group ?? '') ?? []), p])
  return [...found].filter(([, list]) => list.length)
})
const rows = computed(() => groups.value.flatMap(([, list]) => list))

async function place(name: string, column: Column): Promise<void> {
  cursor.value = { name, column }
  await nextTick()
  grid.value?.querySelector<HTMLElement>(`[data-cell="${name}/${column}"]`)?.focus()
}
function step(dy: number, dx: number): void {
  const c = cursor.value
  if (!c) return
  const y = rows.value.findIndex((p) => p.name === c.name)
  let x = COLUMNS.indexOf(c.column) + dx
  let row = y + dy
  if (x < 0) [x, row] = [COLUMNS.length - 1, row - 1]
  if (x >= COLUMNS.length) [x, row] = [0, row + 1]
  const p = rows.value[Math.min(Math.max(row, 0), rows.value.length - 1)]
  if (p) void place(p.name, COLUMNS[x])
}
function begin(p: Parameter, column: Column, first?: string): void {
  problem.value = ''
  cursor.value = { name: p.name, column }
  cell.value = {
    name: p.name,
    column,
    begun: first !== undefined,
    text: first ?? (column === 'limits' ? limitsText(p.limits) : String(p[column] ?? '')),
  }
}
function key(event: KeyboardEvent): void {
  const c = cursor.value
  const p = rows.value.find((x) => x.name === c?.name)
  if (cell.value || !c || !p) return
  const moves: Record<string, [number, number]> = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }
  if (moves[event.key]) step(...moves[event.key])
  else if (event.key === 'Enter' || event.key === 'F2') begin(p, c.column)
  else if (event.key === 'Escape') (event.target as HTMLElement).blur()
  else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey) begin(p, c.column, event.key)
  else return
  event.preventDefault()
  event.stopPropagation()
}

const withUnit = (text: string, old: string): string => {
  const unit = /^[\d.]+\s+([a-zA-Z]+)$/.exec(old.trim())?.[1]
  return /^-?[\d.]+$/.test(text) && unit ? `${text} ${unit}` : text
}
/** The command a cell stands for, or null when nothing changes. */
function commandOf(p: Parameter, column: Column, typed: string): Command | null {
  const text = typed.trim()
  if (column === 'name') return text && text !== p.name ? { do: 'rename_parameter', name: p.name, new: text } : null
  if (column === 'limits') return text === limitsText(p.limits) ? null : { do: 'edit_parameter', name: p.name, limits: text }
  const value = column === 'formula' ? withUnit(text, p.formula) : text
  return value === (p[column] ?? '') ? null : { do: 'edit_parameter', name: p.name, [column]: value }
}
watch(
  () => cell.value && { ...cell.value },
  (c) => {
    const p = c && store.parameters.find((x) => x.name === c.name)
    const command = p && (c.column === 'formula' || c.column === 'limits') ? commandOf(p, c.column, c.text) : null
    store.foresee(command ? [command] : null)
  },
)
async function keep(p: Parameter, how: 'stay' | 'down' | 'right' | 'left'): Promise<void> {
  const c = cell.value
  if (!c) return
  cell.value = null
  const command = commandOf(p, c.column, c.text)
  const label = c.column === 'formula' ? `${p.name} = ${c.text.trim()}` : undefined
  const ok = !command || (await doc.edit([command], label))
  if (!ok) problem.value = doc.failure?.text ?? ''
  if (how === 'stay') return
  const name = ok && command?.do === 'rename_parameter' ? String(command.new) : p.name
  await place(name, c.column)
  // What was refused is where the cursor stays.
  if (ok) step(how === 'down' ? 1 : 0, how === 'right' ? 1 : how === 'left' ? -1 : 0)
}
function leave(p: Parameter, column: Column): void {
  cell.value = null
  void place(p.name, column)
}

async function add(): Promise<void> {
  const a = adding.value
  if (!a?.name.trim() || !a.formula.trim()) return
  problem.value = ''
  const ok = await doc.edit([{ do: 'add_parameter', name: a.name.trim(), formula: a.formula.trim() }])
  if (ok) adding.value = { name: '', formula: '' }
  else problem.value = doc.failure?.text ?? ''
  await nextTick()
  document.querySelector<HTMLInputElement>('[data-testid=new-name]')?.focus()
}
async function run(command: Command): Promise<void> {
  problem.value = ''
  if (!(await doc.edit([command]))) problem.value = doc.failure?.text ?? ''
}
function paste(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  // Several cells are a table; a single one goes into the field it is pasted in.
  if (cell.value || adding.value || !/[\t\n]/.test(text.trim())) return
  event.preventDefault()
  table.value = text
}
async function readFile(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  if (chosen) table.value = await chosen.text()
  ;(event.target as HTMLInputElement).value = ''
}
function go(use: Schemas['UseView']): void {
  if (use.kind === 'parameter') void place(use.name, 'formula')
  else store.jump = { kind: use.kind, id: use.id }
}
const verdict = computed(() => {
  const f = store.foreseen
  if (!f) return null
  if ('refused' in f) return { bad: true, text: f.refused }
  const mass =
    f.mass_before != null && f.mass_after != null && Math.abs(f.mass_after - f.mass_before) > 1e-6
      ? `mass ${change(f.mass_after - f.mass_before)} g`
      : ''
  const broken =
    f.breaks
      .slice(0, 2)
      .map((b) => `${b.name}: ${b.text}`)
      .join('; ') + (f.breaks.length > 2 ? ` and ${f.breaks.length - 2} more` : '')
  const text = [
    f.breaks.length ? `would break ${broken}` : 'breaks nothing',
    f.mends.length ? `mends ${f.mends.map((m) => m.name).join(', ')}` : '',
    mass,
  ]
    .filter(Boolean)
    .join(' · ')
  return { bad: f.breaks.length > 0, text }
})
const EMPTY =
  'Name a number once and use it in every formula: it can then be changed in one place. ' +
  'Cells copied from a spreadsheet can be pasted here.'
</script>

<template>
  <div class="top">
    <label class="find"
      ><Icon name="search" :size="14" /><input
        v-model="filter"
        class="field"
        placeholder="Find a parameter"
        aria-label="Find a parameter"
        data-testid="find-parameter"
        @keydown.stop
    /></label>
    <p v-if="problem" class="bad say" data-testid="parameter-problem"><Icon name="cross" :size="14" /> {{ problem }}</p>
    <p v-else-if="verdict" class="say" :class="{ bad: verdict.bad }" data-testid="foreseen" :title="verdict.text">
      <Icon :name="verdict.bad ? 'alert' : 'check'" :size="14" /> <span>{{ verdict.text }}</span>
    </p>
    <FollowLine v-if="cell?.begun" short />
    <span class="grow" />
    <button class="btn small" :class="{ on: help }" data-testid="formula-help" @click="help = !help">Formulas</button>
    <button class="btn small" data-testid="paste-table" title="Put in a table copied from a spreadsheet" @click="table = ''">
      Table in …
    </button>
    <button class="btn small" title="Read a CSV file" @click="file?.click()">CSV in</button>
    <button
      class="btn small"
      title="Save a CSV file"
      data-testid="csv-out"
      @click="download(`/api/documents/${doc.view?.id}/parameters.csv`).catch(doc.refused)"
    >
      CSV out
    </button>
    <input ref="file" type="file" accept=".csv,.tsv,.txt,text/csv" hidden data-testid="csv-in" @change="readFile" />
  </div>
  <div class="body" :class="{ helped: help }">
    <div class="sheet" @paste="paste">
      <table ref="grid" class="grid params" @keydown="key">
        <thead>
          <tr>
            <th style="width: 14%">Name</th>
            <th style="width: 23%">Formula</th>
            <th class="r" style="width: 11%">Value</th>
            <th style="width: 16%">Limits</th>
            <th style="width: 14%">Note</th>
            <th>Used by</th>
            <th style="width: 34px"><span class="sr">More</span></th>
          </tr>
        </thead>
        <tbody v-for="[group, list] in groups" :key="group">
          <tr v-if="group" class="heading">
            <td colspan="7">{{ group }}</td>
          </tr>
          <tr v-for="p in list" :key="p.name" :data-testid="`parameter-${p.name}`" :class="{ broken: values[p.name]?.trouble }">
            <template v-for="column in COLUMNS" :key="column">
              <td v-if="column === 'limits'" class="r">{{ values[p.name]?.shown ?? '–' }}</td>
              <td
                :class="[column, { muted: column === 'limits' || column === 'note' }]"
                :data-cell="`${p.name}/${column}`"
                :tabindex="cursor ? (cursor.name === p.name && cursor.column === column ? 0 : -1) : 0"
                @focus="cursor = { name: p.name, column }"
                @click="begin(p, column)"
              >
                <FormulaField
                  v-if="cell?.name === p.name && cell.column === column && (column === 'formula' || column === 'limits')"
                  v-model="cell.text"
                  class="cell-field"
                  autofocus
                  :begun="cell.begun"
                  :label="`${column} of ${p.name}`"
                  :placeholder="column === 'limits' ? '20 mm, 26 mm or 30 mm … wall*6' : ''"
                  @keep="(how) => keep(p, how)"
                  @leave="leave(p, column)"
                  @blur="keep(p, 'stay')"
                />
                <input
                  v-else-if="cell?.name === p.name && cell.column === column"
                  v-model="cell.text"
                  class="field cell-field"
                  autofocus
                  spellcheck="false"
                  :aria-label="`${column} of ${p.name}`"
                  @vue:mounted="({ el }: { el: HTMLInputElement }) => (el.focus(), cell?.begun || el.select())"
                  @keydown.stop
                  @keydown.enter.prevent="keep(p, 'down')"
                  @keydown.tab.prevent="keep(p, ($event as KeyboardEvent).shiftKey ? 'left' : 'right')"
                  @keydown.esc="leave(p, column)"
                  @blur="keep(p, 'stay')"
                />
                <template v-else
                  ><DriveMark v-if="column === 'name'" drives="parameter" :of="{ name: p.name }" :what="p.name" />{{
                    column === 'limits' ? limitsText(p.limits) || '·' : column === 'note' ? p.note || '·' : p[column]
                  }}</template
                >
              </td>
            </template>
            <td class="used">
              <template v-if="values[p.name]?.trouble">
                <span class="bad" :title="values[p.name]!.trouble!.text"
                  ><Icon name="cross" :size="14" /> {{ values[p.name]!.trouble!.text }}</span
                >
                <button
                  v-for="o in values[p.name]!.trouble!.offers ?? []"
                  :key="o.label"
                  class="btn small"
                  :data-testid="`offer-${p.name}`"
                  @click="store.take(o)"
                >
                  {{ o.label }}
                </button>
              </template>
              <template v-else
                ><button v-for="u in store.uses[p.name] ?? []" :key="u.kind + u.id" class="use" :title="`Go to ${u.name}`" @click="go(u)">
                  {{ u.name }}
                </button></template
              >
            </td>
            <td>
              <NPopover trigger="click" placement="left" style="padding: 10px; width: 210px">
                <template #trigger
                  ><button class="icon-btn" :aria-label="`More for ${p.name}`" title="Group, order, delete">
                    <Icon name="more" :size="14" /></button
                ></template>
                <div class="menu" @keydown.stop>
                  <label
                    >Group
                    <input
                      class="field"
                      :value="p.group"
                      list="parameter-groups"
                      maxlength="40"
                      :aria-label="`Group of ${p.name}`"
                      :data-testid="`group-${p.name}`"
                      @change="run({ do: 'edit_parameter', name: p.name, group: ($event.target as HTMLInputElement).value.trim() })"
                  /></label>
                  <span
                    ><button class="btn small" @click="run({ do: 'move_parameter', name: p.name, to: store.parameters.indexOf(p) - 1 })">
                      Up
                    </button>
                    <button class="btn small" @click="run({ do: 'move_parameter', name: p.name, to: store.parameters.indexOf(p) + 1 })">
                      Down
                    </button>
                    <button class="btn small" :aria-label="`Delete ${p.name}`" @click="run({ do: 'remove_parameter', name: p.name })">
                      Delete
                    </button></span
                  >
                </div>
              </NPopover>
            </td>
          </tr>
        </tbody>
        <tbody>
          <tr v-for="m in doc.build?.measured ?? []" :key="`m-${m.name}`" :data-testid="`measured-${m.name}`">
            <td class="measured">{{ m.name }}</td>
            <td class="muted">read off the model</td>
            <td class="r">{{ m.shown }}</td>
            <td class="muted">·</td>
            <td />
            <td class="used">
              <button class="use" @click="store.jump = { kind: 'step', id: m.step }">
                {{ doc.part?.steps.find((s) => s.id === m.step)?.name }}
              </button>
            </td>
            <td />
          </tr>
          <tr v-if="adding" class="new">
            <td>
              <input
                v-model="adding.name"
                class="field"
                placeholder="name"
                data-testid="new-name"
                spellcheck="false"
                @keydown.stop
                @keydown.enter="add"
                @keydown.esc="adding = null"
              />
            </td>
            <td>
              <FormulaField
                v-model="adding.formula"
                placeholder="12 mm"
                testid="new-formula"
                @keep="(how) => how === 'down' && add()"
                @leave="adding = null"
              />
            </td>
            <td colspan="5">
              <button class="btn small" data-testid="add-parameter" @click="add">Add</button>
              <span class="muted">Enter adds; formulas take units: wall*2 + 0.5 mm</span>
            </td>
          </tr>
        </tbody>
      </table>
      <datalist id="parameter-groups">
        <option v-for="[group] in groups.filter(([g]) => g)" :key="group" :value="group" />
      </datalist>
      <button v-if="!adding" class="more" data-testid="begin-parameter" @click="adding = { name: '', formula: '' }">+ parameter</button>
      <span v-if="!rows.length && !adding" class="muted"> {{ filter ? 'None fits what is looked for.' : EMPTY }}</span>
    </div>
    <FormulaHelp v-if="help" class="help scroll" />
  </div>
  <TableDialog :text="table" @close="table = null" />
</template>

<style scoped>
.top {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 4px 0;
  position: sticky;
  top: 0;
  background: var(--panel);
  z-index: 2;
}
.find {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  color: var(--ink-2);
}
.find .field {
  width: 150px;
  height: 24px;
}
.say {
  margin: 0 0 0 6px;
  font-size: 12px;
  display: inline-flex;
  gap: 5px;
  align-items: center;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--ink-2);
}
.grow {
  flex: 1;
}
.btn.on {
  border-color: var(--accent);
  color: var(--accent);
}
.body {
  display: flex;
  gap: 14px;
  align-items: flex-start;
}
.sheet {
  flex: 1;
  min-width: 0;
}
.help {
  flex: 0 0 330px;
  max-height: 190px;
  position: sticky;
  top: 34px;
}
.params {
  table-layout: fixed;
}
/* Beside the help there is room for what is typed and what it gives. */
.helped th:nth-child(n + 5):not(:last-child),
.helped td:nth-child(n + 5):not(:last-child) {
  display: none;
}
.r {
  text-align: right !important;
}
td.name {
  color: var(--accent);
  cursor: text;
  font-weight: 500;
}
td.formula,
td.limits,
td.note {
  cursor: text;
}
td.measured {
  color: var(--slate);
  font-weight: 500;
}
td {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td:focus {
  outline: 2px solid var(--accent);
  outline-offset: -2px;
  border-radius: 4px;
}
.cell-field,
.new .field {
  width: 100%;
}
.heading td {
  font-size: 11.5px;
  font-weight: 600;
  color: var(--ink-2);
  padding-top: 8px;
}
.used {
  font-size: 12px;
}
.use {
  border: 0;
  background: none;
  color: var(--ink-2);
  font: inherit;
  padding: 0 6px 0 0;
  cursor: pointer;
}
.use:hover {
  color: var(--accent);
  text-decoration: underline;
}
.bad {
  color: var(--bad) !important;
}
.used .bad {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
tr.broken td {
  background: color-mix(in srgb, var(--bad-soft) 60%, transparent);
}
.more {
  color: var(--accent);
  padding: 7px 8px;
}
.menu {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.sr {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
.say span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
