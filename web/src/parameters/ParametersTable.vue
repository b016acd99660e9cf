<script setup lang="ts">
// Named numbers: name, formula, value, limits, where used. Every cell edits in place.
import { computed, nextTick, ref } from 'vue'
import type { Parameter } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { limitsOf, limitsText } from './limits'

defineProps<{ values: Record<string, { shown?: string | null; trouble?: { text: string } | null }> }>()
const doc = useDocument()
const cell = ref<{ name: string; column: 'name' | 'formula' | 'limits' | 'note'; text: string } | null>(null)
const adding = ref<{ name: string; formula: string } | null>(null)
const problem = ref('')
const filter = ref('')

const rows = computed(() => (doc.view?.document.parameters ?? []).filter((p) => !filter.value || `${p.name} ${p.note}`.toLowerCase().includes(filter.value.toLowerCase())))

const users = computed(() => {
  const found: Record<string, string[]> = {}
  const parts = [
    ...(doc.part?.steps ?? []).map((s) => ({ name: s.name, text: JSON.stringify(s.fields) })),
    ...(doc.assembly?.joints ?? []).map((j) => ({ name: j.name, text: JSON.stringify(j) })),
    ...(doc.study?.loads ?? []).map((l) => ({ name: l.name, text: JSON.stringify(l) })),
    ...(doc.view?.document.parameters ?? []).map((p) => ({ name: p.name, text: JSON.stringify([p.formula, p.limits]) })),
  ]
  for (const p of doc.view?.document.parameters ?? []) {
    const word = new RegExp(`(^|[^A-Za-z0-9_])${p.name}([^A-Za-z0-9_]|$)`)
    found[p.name] = parts.filter((x) => x.name !== p.name && word.test(x.text)).map((x) => x.name)
  }
  return found
})

async function begin(p: Parameter, column: NonNullable<typeof cell.value>['column']): Promise<void> {
  problem.value = ''
  const text = column === 'limits' ? limitsText(p.limits) : String(p[column] ?? '')
  cell.value = { name: p.name, column, text }
  await nextTick()
  const input = document.querySelector<HTMLInputElement>('.cell-field')
  input?.focus()
  input?.select()
}

const withUnit = (text: string, old: string): string => {
  const unit = /^[\d.]+\s+([a-zA-Z]+)$/.exec(old.trim())?.[1]
  return /^-?[\d.]+$/.test(text) && unit ? `${text} ${unit}` : text
}

async function keep(p: Parameter): Promise<void> {
  const c = cell.value
  cell.value = null
  if (!c) return
  const text = c.text.trim()
  let ok = true
  if (c.column === 'name' && text !== p.name) ok = await doc.edit([{ do: 'rename_parameter', name: p.name, new: text }])
  else if (c.column === 'formula' && text !== p.formula) ok = await doc.edit([{ do: 'edit_parameter', name: p.name, formula: withUnit(text, p.formula) }], `${p.name} = ${text}`)
  else if (c.column === 'note' && text !== p.note) ok = await doc.edit([{ do: 'edit_parameter', name: p.name, note: text }])
  else if (c.column === 'limits') ok = await doc.edit([{ do: 'edit_parameter', name: p.name, limits: limitsOf(text) }])
  if (!ok) problem.value = doc.failure?.text ?? ''
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

async function remove(p: Parameter): Promise<void> {
  problem.value = ''
  if (!(await doc.edit([{ do: 'remove_parameter', name: p.name }]))) problem.value = doc.failure?.text ?? ''
}
</script>

<template>
  <p v-if="problem" class="trouble" style="margin: 6px 0"><Icon name="cross" :size="15" /> {{ problem }}</p>
  <table class="grid params">
    <thead>
      <tr>
        <th style="width: 15%">Name</th><th style="width: 27%">Formula</th><th class="r" style="width: 12%">Value</th><th style="width: 18%">Limits</th><th>Used by</th>
        <th style="width: 34px"><span class="sr">Delete</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="p in rows" :key="p.name" :data-testid="`parameter-${p.name}`" :class="{ broken: values[p.name]?.trouble }">
        <td v-for="column in (['name', 'formula'] as const)" :key="column" :class="column" @click="begin(p, column)">
          <input v-if="cell?.name === p.name && cell.column === column" v-model="cell.text" class="field cell-field" spellcheck="false" @keydown.enter="keep(p)" @keydown.esc.stop="cell = null" @blur="keep(p)" />
          <template v-else>{{ p[column] }}</template>
        </td>
        <td class="r">{{ values[p.name]?.shown ?? '–' }}</td>
        <td class="muted" @click="begin(p, 'limits')">
          <input v-if="cell?.name === p.name && cell.column === 'limits'" v-model="cell.text" class="field cell-field" placeholder="20 mm, 26 mm or 30 mm … wall*6" @keydown.enter="keep(p)" @keydown.esc.stop="cell = null" @blur="keep(p)" />
          <template v-else>{{ limitsText(p.limits) || '·' }}</template>
        </td>
        <td class="muted used">
          <span v-if="values[p.name]?.trouble" class="bad"><Icon name="cross" :size="14" /> {{ values[p.name]!.trouble!.text }}</span>
          <template v-else>{{ users[p.name]?.join(', ') }}</template>
        </td>
        <td><button class="icon-btn" :aria-label="`Delete ${p.name}`" title="Delete" @click="remove(p)"><Icon name="bin" :size="14" /></button></td>
      </tr>
      <tr v-for="m in doc.build?.measured ?? []" :key="`m-${m.name}`" :data-testid="`measured-${m.name}`">
        <td class="measured">{{ m.name }}</td><td class="muted">read off the model</td><td class="r">{{ m.shown }}</td><td class="muted">·</td>
        <td class="muted used">{{ doc.part?.steps.find((s) => s.id === m.step)?.name }}</td><td />
      </tr>
      <tr v-if="adding" class="new">
        <td><input v-model="adding.name" class="field" placeholder="name" data-testid="new-name" spellcheck="false" @keydown.enter="add" @keydown.esc.stop="adding = null" /></td>
        <td><input v-model="adding.formula" class="field" placeholder="12 mm" data-testid="new-formula" spellcheck="false" @keydown.enter="add" @keydown.esc.stop="adding = null" /></td>
        <td colspan="4"><button class="btn small" data-testid="add-parameter" @click="add">Add</button> <span class="muted">Enter adds; formulas take units: wall*2 + 0.5 mm</span></td>
      </tr>
    </tbody>
  </table>
  <button v-if="!adding" class="more" data-testid="begin-parameter" @click="adding = { name: '', formula: '' }">+ parameter</button>
  <span v-if="!rows.length && !adding" class="muted"> Name a number once and use it in every formula: it can then be changed in one place.</span>
</template>

<style scoped>
.params { table-layout: fixed; }
.r { text-align: right !important; }
td.name { color: var(--accent); cursor: text; font-weight: 500; }
td.formula { cursor: text; }
td.measured { color: var(--slate); font-weight: 500; }
td { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.cell-field, .new .field { width: 100%; }
.used { font-size: 12px; }
.bad { color: var(--bad); display: inline-flex; gap: 5px; align-items: center; }
tr.broken td { background: color-mix(in srgb, var(--bad-soft) 60%, transparent); }
.more { color: var(--accent); padding: 7px 8px; }
.sr { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); }
</style>
