<script setup lang="ts">
// The table of variants: a row a variant, a column what differs; beside it what was proved of each row.
// Options, which are chosen by themselves, stand below.
import { NDropdown } from 'naive-ui'
import { computed, nextTick, onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { download, refusalOf, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useHelp } from '../help/store'
import JobLine from '../jobs/JobLine.vue'
import FormulaField from '../parameters/FormulaField.vue'
import { useParameters } from '../parameters/store'
import { mass } from '../ui/format'
import Icon from '../ui/Icon.vue'
import NameField from '../ui/NameField.vue'
import { typed } from '../ui/units'
import CellField from './CellField.vue'
import CellText from './CellText.vue'
import ChooseMember, { type Chosen } from './ChooseMember.vue'
import IncomingRows from './IncomingRows.vue'
import OptionCard from './OptionCard.vue'
import HandedMark from './HandedMark.vue'
import ProvedMark from './ProvedMark.vue'
import { useHanded } from './handed'
import { pasted } from './paste'
import { type Column, type How, type Proved, useMembers } from './store'

const doc = useDocument()
const members = useMembers()
const parameters = useParameters()
const help = useHelp()
const cell = ref<{ row: string | null; column: string; text: string } | null>(null)
const cursor = ref<{ row: string | null; column: string } | null>(null)
const adding = ref<string | null>(null)
const optioned = ref<{ name: string; kind: string; values: string } | null>(null)
const problem = ref('')
const chosen = ref<Set<string | null>>(new Set())

members.shown = true
onBeforeUnmount(() => {
  members.shown = false
  members.driving = null
})
const table = computed(() => members.table)
const columns = computed<Column[]>(() => table.value?.columns.filter((c) => !c.option) ?? [])
const rows = computed(() => table.value?.rows ?? [])
watch(rows, (now) => {
  const there = new Set(now.map((r) => r.id))
  chosen.value = new Set([...chosen.value].filter((id) => there.has(id)))
})

async function run(command: { do: string; [k: string]: unknown }, label?: string): Promise<boolean> {
  problem.value = ''
  const ok = await members.run(command, label)
  if (!ok) problem.value = doc.failure?.text ?? ''
  return ok
}
async function addVariant(): Promise<void> {
  const name = adding.value?.trim()
  if (!name) return void (adding.value = null)
  if (await run({ do: 'add_variant', name })) {
    adding.value = ''
    await nextTick()
    document.querySelector<HTMLInputElement>('[data-testid=new-variant]')?.focus()
  }
}
const KINDS = [
  { value: 'list', label: 'one of a list' },
  { value: 'yes_no', label: 'yes or no' },
  { value: 'number', label: 'a number' },
]
async function addOption(): Promise<void> {
  const o = optioned.value
  if (!o?.name.trim()) return
  const words = o.values
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean)
  const [default_, least, most] = words
  const more = o.kind === 'list' ? { values: words } : o.kind === 'number' ? { default: default_ ?? '', least, most } : {}
  if (await run({ do: 'add_option', name: o.name.trim(), kind: o.kind, ...more })) optioned.value = null
}

interface Sized {
  drawing?: { constraints?: { id: string; type: string; formula?: string | null }[] }
}
/** Sizes of sketches. */
const sizes = computed(() =>
  (doc.part?.steps ?? []).flatMap((s) =>
    ((s.fields as Sized).drawing?.constraints ?? [])
      .filter((k) => k.formula)
      .map((k) => ({
        label: `${s.name} · ${k.type.replaceAll('_', ' ')} ${k.formula}`,
        drives: 'field',
        of: { step: s.id, field: `drawing.constraints.${k.id}.formula` },
      })),
  ),
)
/** What has no card to click on. */
const named = computed(() =>
  [
    ...(doc.view?.document.parameters ?? []).map((p) => ({ label: p.name, drives: 'parameter', of: { name: p.name } })),
    ...(doc.view?.document.properties ?? []).map((p) => ({ label: `${p.name} (property)`, drives: 'property', of: { name: p.name } })),
    ...sizes.value,
    ...(doc.build?.bodies ?? []).map((b) => ({ label: `${b.name} · colour`, drives: 'look', of: { body: b.id, what: 'colour' } })),
    ...(doc.part ? [{ label: 'Material', drives: 'material', of: {} }] : []),
  ].filter((n) => !members.driver(n.drives, n.of)),
)
async function takeNamed(event: Event): Promise<void> {
  const select = event.target as HTMLSelectElement
  const found = named.value.find((n) => n.label === select.value)
  select.value = ''
  if (found && !(await members.drive(found.drives, found.of))) problem.value = doc.failure?.text ?? ''
}

// Cells

function begin(row: string | null, c: Column): void {
  problem.value = ''
  const now = rows.value.find((r) => r.id === row)?.cells[c.id]
  if (!now || c.cell === 'picks' || !c.name) return
  if (c.cell === 'member') return void (membering.value = { row, column: c })
  cursor.value = { row, column: c.id }
  cell.value = { row, column: c.id, text: now.text }
}
/** A cell that says which member a component is, being chosen. */
const membering = shallowRef<{ row: string | null; column: Column } | null>(null)
const holder = computed(() => doc.assembly?.components?.find((c) => c.id === membering.value?.column.of.component))
const held = computed<Chosen>(() => {
  const at = membering.value
  const own = doc.view?.document.variants?.find((v) => v.id === at?.row)?.cells?.[at?.column.id ?? '']
  const cell = own ?? doc.view?.document.columns?.find((c) => c.id === at?.column.id)?.base
  return { variant: null, options: {}, ...(cell as Partial<Chosen> | undefined) }
})
async function takeMember(choice: Chosen): Promise<void> {
  const at = membering.value
  membering.value = null
  if (at) await run({ do: 'set_cells', id: at.row, cells: { [at.column.id]: choice } })
}
/** What a cell is set to by what was typed; null is as drawn. */
function valueOf(c: Column, text: string): unknown {
  const t = text.trim()
  if (c.cell === 'number') return t ? { formula: typed(t, c.dimension ?? undefined) } : null
  if (c.cell === 'text') return t
  return t || null
}
async function keep(text: string, how: 'stay' | 'down' | 'right' | 'left' = 'stay'): Promise<void> {
  const at = cell.value
  const c = columns.value.find((x) => x.id === at?.column)
  cell.value = null
  if (!at || !c) return
  const before = rows.value.find((r) => r.id === at.row)?.cells[c.id]
  const name = rows.value.find((r) => r.id === at.row)?.name ?? ''
  if (text.trim() !== before?.text)
    await run({ do: 'set_cells', id: at.row, cells: { [c.id]: valueOf(c, text) } }, `${name}: ${c.name} = ${text.trim() || 'as drawn'}`)
  if (how !== 'stay' && !problem.value) move(how)
}
function move(how: 'down' | 'right' | 'left'): void {
  const at = cursor.value
  if (!at) return
  const y = rows.value.findIndex((r) => r.id === at.row) + (how === 'down' ? 1 : 0)
  const x = columns.value.findIndex((c) => c.id === at.column) + (how === 'right' ? 1 : how === 'left' ? -1 : 0)
  const [row, c] = [rows.value[y], columns.value[x]]
  if (row && c) begin(row.id, c)
}
async function clear(row: string | null, c: Column): Promise<void> {
  if (row !== null) await run({ do: 'set_cells', id: row, cells: { [c.id]: null } })
}
async function paste(event: ClipboardEvent): Promise<void> {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (cell.value || !/[\t\n]/.test(text.trim())) return
  event.preventDefault()
  problem.value = ''
  const commands = pasted(text, rows.value, columns.value, cursor.value)
  if (commands.length && !(await doc.edit(commands, `paste ${commands.length} rows`))) problem.value = doc.failure?.text ?? ''
}

// What goes out, and spreadsheets

const handed = useHanded()
const OUT = computed(() => [
  { key: 'xlsx', label: 'XLSX' },
  { key: 'csv', label: 'CSV' },
  { key: 'step', label: 'STEP of each, in a ZIP' },
  ...(doc.part ? [{ key: '3mf', label: '3MF of each, in a ZIP' }] : []),
  ...(handed.old.value.length ? [{ key: 'again', label: `Old files anew (${handed.old.value.length})` }] : []),
  { key: 'alone', label: `${chosen.value.size ? 'Marked rows' : 'Rows'} as ${doc.part ? 'parts' : 'assemblies'} of their own` },
])
const file = ref<HTMLInputElement | null>(null)
const coming = shallowRef<Schemas['IncomingView'] | null>(null)
async function out(how: string): Promise<void> {
  const marked = [...chosen.value].map((id) => id ?? '')
  if (how === 'alone') await handed.standAlone(marked)
  else if (how === 'again') for (const form of handed.oldForms.value) await handed.write(form, handed.oldOf(form))
  else if (how === 'csv' || how === 'xlsx') await download(`/api/documents/${doc.view?.id}/members.${how}`).catch(doc.refused)
  else await handed.write(how, marked)
}
async function readFile(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const chosenFile = input.files?.[0]
  input.value = ''
  problem.value = ''
  if (!chosenFile) return
  try {
    const answer = await fetch(`/api/documents/${doc.view?.id}/members/table`, {
      method: 'POST',
      body: chosenFile,
      headers: { 'X-File-Name': encodeURIComponent(chosenFile.name) },
    })
    if (!answer.ok) throw await refusalOf(answer)
    coming.value = (await answer.json()) as Schemas['IncomingView']
  } catch (error) {
    problem.value = doc.refused(error).text
  }
}
async function takeRows(): Promise<void> {
  const taken = coming.value?.rows ?? []
  coming.value = null
  if (taken.length) await run({ do: 'put_rows', rows: taken }, `take ${taken.length} rows in`)
}

// Rows

const menu = (id: string | null) =>
  id === null
    ? [{ key: 'prove', label: 'Prove this one' }]
    : [
        { key: 'prove', label: 'Prove this one' },
        { key: 'rename', label: 'Rename' },
        { key: 'like', label: 'Another like it' },
        { key: 'alone', label: doc.part ? 'Make a part of its own' : 'Make an assembly of its own' },
        { key: 'up', label: 'Move up' },
        { key: 'down', label: 'Move down' },
        { key: 'remove', label: 'Delete' },
      ]
const renaming = ref<{ id: string; name: string } | null>(null)
async function rename(): Promise<void> {
  const r = renaming.value
  renaming.value = null
  if (r?.name.trim()) await run({ do: 'edit_variant', id: r.id, name: r.name })
}
async function act(key: string, id: string | null, index: number): Promise<void> {
  const row = rows.value[index]
  if (key === 'prove') await members.prove({ variants: [id ?? ''] })
  else if (key === 'rename' && id) renaming.value = { id, name: row.name }
  else if (key === 'like') await run({ do: 'add_variant', name: free(row.name), like: id })
  else if (key === 'alone' && id) await handed.standAlone([id])
  else if (key === 'up') await run({ do: 'edit_variant', id, to: Math.max(index - 2, 0) })
  else if (key === 'down') await run({ do: 'edit_variant', id, to: index })
  else if (key === 'remove') await run({ do: 'remove_variant', id })
}
function free(name: string): string {
  const taken = new Set(rows.value.map((r) => r.name.toLowerCase()))
  let n = 2
  while (taken.has(`${name} ${n}`.toLowerCase())) n++
  return `${name} ${n}`
}
function mark(id: string | null): void {
  const next = new Set(chosen.value)
  if (!next.delete(id)) next.add(id)
  chosen.value = next
}

// Proving

const running = computed(() => ['queued', 'running'].includes(members.job?.state ?? ''))
const ways = computed(() => [
  { key: 'rows', label: chosen.value.size ? `The ${chosen.value.size} marked rows` : 'Every row' },
  ...(table.value?.options.length
    ? [
        { key: 'pairs', label: 'Combinations: every pair of choices' },
        { key: 'sample', label: 'Combinations: 24 at random' },
        { key: 'all', label: `All ${table.value.combinations} combinations` },
      ]
    : []),
])
const prove = (how: string): Promise<void> => members.prove({ how: how as How, variants: [...chosen.value].map((id) => id ?? '') })
const others = computed(() => members.proved.filter((p) => Object.keys(p.choice.options).length))
const counts = computed(() => {
  const all = members.proved
  return { of: all.length, bad: all.filter((p) => p.state !== 'ok' || p.checks.some((c) => c.state === 'fails')).length }
})
/** Stand as a member, and go to what is wrong with it. */
async function go(p: Proved): Promise<void> {
  if (!(await members.choose(p.choice.variant, p.choice.options))) return
  const [kind, id] = p.where.split(':')
  if (id) parameters.jump = { kind, id }
}
</script>

<template>
  <div class="top">
    <b v-if="table" class="stands" data-testid="member-name" title="What the document stands as">{{ table.name }}</b>
    <p v-if="problem" class="bad say" data-testid="members-problem"><Icon name="cross" :size="14" /> {{ problem }}</p>
    <p v-else-if="members.driving !== null" class="say" data-testid="driving-hint">
      <Icon name="hand" :size="14" /> Click the marks on cards and in open steps, or take
      <select class="field" aria-label="A parameter or property that differs" data-testid="take-column" @change="takeNamed">
        <option value="">a parameter, a property …</option>
        <option v-for="n in named" :key="n.label" :value="n.label">{{ n.label }}</option>
      </select>
    </p>
    <span class="grow" />
    <template v-if="table && (columns.length || table.options.length)">
      <span v-if="counts.of && !running" class="muted" data-testid="proved-count"
        >{{ counts.of - counts.bad }} of {{ counts.of }} good</span
      >
      <NDropdown trigger="click" :options="ways" @select="prove">
        <button class="btn small main" data-testid="prove" :disabled="running"><Icon name="check" :size="14" /> Prove</button>
      </NDropdown>
    </template>
    <template v-if="columns.length">
      <button class="btn small" title="Read rows from CSV or XLSX" data-testid="table-in" @click="file?.click()">In</button>
      <NDropdown trigger="click" :options="OUT" @select="out">
        <button class="btn small" title="The rows as a table, as files of each, or as documents of their own" data-testid="table-out">
          Out
        </button>
      </NDropdown>
      <input ref="file" type="file" accept=".csv,.tsv,.txt,.xlsx" hidden data-testid="table-file" @change="readFile" />
    </template>
    <button
      class="btn small"
      :class="{ on: members.driving === '' }"
      data-testid="choose-columns"
      title="Choose what differs between variants"
      @click="members.driving = members.driving === '' ? null : ''"
    >
      <Icon name="members" :size="14" /> Columns
    </button>
    <button class="btn small" data-testid="add-option" @click="optioned = optioned ? null : { name: '', kind: 'list', values: '' }">
      + Option
    </button>
    <button class="icon-btn" aria-label="Help on variants" title="Help on variants" @click="help.show('topic:variants')">
      <Icon name="help" :size="15" />
    </button>
  </div>
  <form v-if="optioned" class="option-form" @submit.prevent="addOption" @keydown.stop @keydown.esc="optioned = null">
    <input
      v-model="optioned.name"
      class="field"
      placeholder="Mounting"
      aria-label="Name of the option"
      data-testid="option-name"
      autofocus
    />
    <select v-model="optioned.kind" class="field" aria-label="What is chosen" data-testid="option-kind">
      <option v-for="k in KINDS" :key="k.value" :value="k.value">{{ k.label }}</option>
    </select>
    <input
      v-if="optioned.kind !== 'yes_no'"
      v-model="optioned.values"
      class="field wide"
      :placeholder="optioned.kind === 'list' ? 'foot, flange, rail' : '40 mm, 20 mm, 80 mm: usual, least, most'"
      :aria-label="optioned.kind === 'list' ? 'Values' : 'Usual, least and most'"
      data-testid="option-values"
    />
    <button class="btn small main" data-testid="keep-option">Add</button>
  </form>
  <ChooseMember
    v-if="membering && holder"
    :key="`${membering.row}-${membering.column.id}`"
    class="member"
    :document="holder.document"
    :name="membering.column.name"
    :chosen="held"
    verb="Take it"
    @take="takeMember"
    @leave="membering = null"
  />
  <IncomingRows v-if="coming" :found="coming" @take="takeRows" @leave="coming = null" />
  <JobLine v-if="running && members.job" :job="members.job" what="Proving" />
  <p v-else-if="members.job?.state === 'failed'" class="bad say">{{ members.job.error?.text }}</p>
  <div v-if="table" class="sheet" @paste="paste">
    <p v-if="!columns.length && !rows[1] && !table.options.length" class="empty">
      One model, many sizes: press <b>Columns</b> and click the numbers, steps and choices that differ, then add a row for each variant.
      What is chosen independently (a mounting, with or without a cable) becomes an <b>Option</b>.
    </p>
    <table class="grid variants">
      <thead>
        <tr>
          <th style="width: 26px" aria-label="Marked" />
          <th class="name">Variant</th>
          <th
            v-for="c in columns"
            :key="c.id"
            :class="{ lit: members.lit === c.id, gone: !c.name }"
            :data-testid="`column-${c.id}`"
            @pointerenter="members.lit = c.id"
            @pointerleave="members.lit = null"
          >
            <span class="head"
              ><span :title="c.name">{{ c.name || 'no longer there' }}</span>
              <button
                class="icon-btn tiny"
                :title="`Let ${c.name} go: the same in all`"
                :aria-label="`Let ${c.name} go`"
                @click="run({ do: 'remove_column', id: c.id })"
              >
                <Icon name="close" :size="11" /></button
            ></span>
          </th>
          <th class="found">Proved</th>
          <th v-if="handed.any.value" title="Files written, and documents that follow a row">Handed out</th>
          <th style="width: 30px" aria-label="More" />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="(row, index) in rows"
          :key="row.id ?? ''"
          :class="{ active: row.id === table.row }"
          :data-testid="`variant-${row.id ?? 'drawn'}`"
        >
          <td><input type="checkbox" :checked="chosen.has(row.id)" :aria-label="`Mark ${row.name}`" @change="mark(row.id)" /></td>
          <td class="name">
            <NameField
              v-if="row.id && renaming?.id === row.id"
              v-model="renaming.name"
              label="Name of the variant"
              @keep="rename()"
              @leave="renaming = null"
            />
            <button
              v-else
              class="switch"
              :title="row.id === table.row ? 'The document stands as this' : `Switch to ${row.name}`"
              :aria-pressed="row.id === table.row"
              :data-testid="`switch-${row.id ?? 'drawn'}`"
              @click="row.id === table.row || members.choose(row.id)"
              @dblclick="row.id && (renaming = { id: row.id, name: row.name })"
            >
              <i class="dot" />{{ row.name }}
            </button>
          </td>
          <td
            v-for="c in columns"
            :key="c.id"
            :class="{ inherited: row.id !== null && !row.cells[c.id]?.own, lit: members.lit === c.id, picks: c.cell === 'picks' }"
            :tabindex="0"
            :data-testid="`cell-${row.id ?? 'drawn'}-${c.id}`"
            :title="
              c.cell === 'picks'
                ? 'Switch to this row and edit the step: its picks are kept for it'
                : row.cells[c.id]?.own
                  ? ''
                  : 'as drawn'
            "
            @focus="cursor = { row: row.id, column: c.id }"
            @click="begin(row.id, c)"
            @keydown.enter.self="begin(row.id, c)"
            @keydown.delete.self="clear(row.id, c)"
          >
            <template v-if="cell && cell.row === row.id && cell.column === c.id">
              <FormulaField
                v-if="c.cell === 'number'"
                v-model="cell.text"
                autofocus
                :label="`${c.name} of ${row.name}`"
                @keep="(how) => keep(cell!.text, how)"
                @leave="cell = null"
                @blur="cell && keep(cell.text)"
              />
              <CellField v-else :column="c" :text="cell.text" :label="`${c.name} of ${row.name}`" @keep="keep" @leave="cell = null" />
            </template>
            <CellText v-else :column="c" :cell="row.cells[c.id]" />
          </td>
          <td class="found"><ProvedMark :proved="members.provedRow(row.id)" @go="go" /></td>
          <td v-if="handed.any.value"><HandedMark :handed="handed.of(row.id)" :data-testid="`handed-${row.id ?? 'drawn'}`" /></td>
          <td>
            <NDropdown trigger="click" placement="bottom-end" :options="menu(row.id)" @select="(k: string) => act(k, row.id, index)">
              <button class="icon-btn" :aria-label="`More for ${row.name}`" title="Rename, copy, move, delete">
                <Icon name="more" :size="14" />
              </button>
            </NDropdown>
          </td>
        </tr>
        <tr>
          <td />
          <td class="name" :colspan="columns.length + 1">
            <NameField
              v-if="adding !== null"
              v-model="adding"
              idle
              placeholder="Name of the variant"
              label="Name of the variant"
              data-testid="new-variant"
              @keep="addVariant()"
              @leave="adding = null"
            />
            <button v-else class="quiet" data-testid="add-variant" @click="adding = ''">+ variant</button>
          </td>
          <td :colspan="handed.any.value ? 3 : 2" />
        </tr>
      </tbody>
    </table>
    <OptionCard
      v-for="o in table.options"
      :key="o.id"
      :option="o"
      :columns="table.columns.filter((c) => c.option === o.id)"
      @problem="(t) => (problem = t)"
    />
    <section v-if="others.length" class="combined" data-testid="combinations">
      <h4>Combinations proved</h4>
      <ul>
        <li v-for="p in others" :key="JSON.stringify(p.choice)">
          <button class="switch" :title="`Switch to ${p.name}`" @click="members.choose(p.choice.variant, p.choice.options)">
            {{ p.name }}
          </button>
          <ProvedMark :proved="p" @go="go" />
        </li>
      </ul>
    </section>
    <p v-if="members.proved.length" class="muted total">
      Masses from {{ mass(Math.min(...members.proved.map((p) => p.mass ?? Infinity))) }} to
      {{ mass(Math.max(...members.proved.map((p) => p.mass ?? 0))) }}
    </p>
  </div>
</template>

<style scoped>
.top {
  flex-wrap: wrap;
}
.top,
.option-form {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 36px;
}
.option-form {
  padding-bottom: 6px;
}
.option-form .wide {
  flex: 1;
  max-width: 340px;
}
.member {
  max-width: 420px;
}
.stands {
  white-space: nowrap;
}
.say {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 0;
  color: var(--ink-2);
}
.say.bad {
  color: var(--bad);
}
.grow {
  flex: 1;
}
.sheet {
  overflow: auto;
  padding-bottom: 8px;
}
.empty {
  margin: 4px 0 8px;
  max-width: 720px;
  color: var(--ink-2);
}
.variants {
  width: auto;
  min-width: 60%;
}
th.name,
td.name {
  min-width: 150px;
}
.head {
  display: flex;
  align-items: center;
  gap: 4px;
  max-width: 190px;
}
.head > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tiny {
  width: 18px;
  height: 18px;
  opacity: 0;
}
th:hover .tiny,
.tiny:focus-visible {
  opacity: 1;
}
td {
  white-space: nowrap;
}
.inherited {
  color: var(--ink-3);
}
.lit {
  background: var(--accent-soft);
}
.gone {
  color: var(--bad);
}
.switch {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  padding: 2px 4px;
  color: var(--ink);
  text-align: left;
}
.dot {
  width: 9px;
  height: 9px;
  border: 1.5px solid var(--line-2);
  border-radius: 50%;
  flex: none;
}
.active .dot {
  border-color: var(--accent);
  background: var(--accent);
}
.active .switch {
  font-weight: 600;
}
.quiet {
  color: var(--accent);
}
.found {
  min-width: 150px;
}
h4 {
  margin: 12px 0 4px;
}
.combined ul {
  margin: 0;
  padding: 0;
  list-style: none;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  gap: 2px 18px;
}
.combined li {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  border-bottom: 1px solid var(--line);
}
.combined .switch {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.total {
  margin: 6px 0 0;
}
</style>
