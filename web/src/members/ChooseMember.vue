<script setup lang="ts">
// Which member of a document: its options, and the row of its variants, found by conditions. Nothing is
// built before it is chosen.
import { computed, onMounted, ref, shallowRef } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import DocumentPicture from '../shelf/DocumentPicture.vue'
import Icon from '../ui/Icon.vue'
import { type Condition, matching, OPS, valuesOf } from './choosing'
import type { Members } from './store'

export interface Chosen {
  variant: string | null
  options: Record<string, string>
  /** Pinned where the document stood then; else it follows the newest. */
  revision?: number | null
}
const props = defineProps<{ document: string; name: string; chosen: Chosen; verb: string }>()
const emit = defineEmits<{ take: [choice: Chosen]; leave: [] }>()
const doc = useDocument()
const found = shallowRef<Members | null>(null)
const variant = ref<string | null>(props.chosen.variant)
const options = ref<Record<string, string>>({ ...props.chosen.options })
const revision = ref<number | null>(props.chosen.revision ?? null)
const conditions = ref<Condition[]>([])
const past = shallowRef<Schemas['RevisionView'][]>([])

onMounted(async () => {
  try {
    found.value = await call('get', '/api/documents/{id}/members', { path: { id: props.document } })
    past.value = (await call('get', '/api/documents/{id}/revisions', { path: { id: props.document } })).revisions
  } catch (error) {
    doc.refused(error)
  }
})
const rows = computed(() => found.value?.rows ?? [])
const columns = computed(() => found.value?.columns.filter((c) => !c.option && c.name) ?? [])
const matches = computed(() => matching(rows.value, conditions.value))
const shown = computed(() => matches.value.slice(0, 200))
/** What is told of each row: what is asked about, else what differs first. */
const told = computed(() => {
  const asked = [...new Set(conditions.value.map((c) => c.column))]
  return columns.value.filter((c) => (asked.length ? asked.includes(c.id) : true)).slice(0, 3)
})
const numeric = (column: string): boolean => columns.value.find((c) => c.id === column)?.cell === 'number'
const ops = (column: string): readonly string[] => (numeric(column) ? OPS : ['is', 'contains'])
function add(): void {
  const first = columns.value[0]
  if (first) conditions.value.push({ column: first.id, op: 'is', value: '', to: '' })
}
const choice = computed<Chosen>(() => ({ variant: variant.value, options: options.value, revision: revision.value }))
/** Where it can be pinned: what is named or approved first, then what was on the way. */
const pins = computed(() => {
  const marked = past.value.filter((r) => r.version || r.approved)
  return [...marked, ...past.value.filter((r) => r.mine && !marked.includes(r))]
})
const chosenOf = (o: Schemas['OptionView']): string => options.value[o.id] ?? o.default
</script>

<template>
  <section class="choose edit-card" data-testid="choose-member" @keydown.esc.stop="emit('leave')">
    <header>
      <b>{{ name }}</b>
      <span v-if="found && conditions.length" class="muted" data-testid="matches">{{ matches.length }} of {{ rows.length }} match</span>
    </header>
    <p v-if="found && !columns.length && !found.options.length" class="muted">
      It has no variants: open it, and choose in its Variants tab what differs.
    </p>
    <label class="option">
      <span class="muted">Revision</span>
      <select v-model="revision" class="field" data-testid="choose-revision">
        <option :value="null">follows the newest</option>
        <option v-if="revision && !pins.some((r) => r.number === revision)" :value="revision">r {{ revision }}</option>
        <option v-for="r in pins" :key="r.number" :value="r.number">
          {{ `r ${r.number}${r.approved ? ' approved' : ''} · ${r.version ?? r.words}`.slice(0, 60) }}
        </option>
      </select>
    </label>
    <template v-if="found">
      <div v-for="o in found.options" :key="o.id" class="option">
        <span class="muted">{{ o.name }}</span>
        <select
          v-if="o.kind !== 'number'"
          class="field"
          :value="chosenOf(o)"
          :aria-label="o.name"
          :data-testid="`choose-${o.name}`"
          @change="options = { ...options, [o.id]: ($event.target as HTMLSelectElement).value }"
        >
          <option v-for="v in o.values" :key="v.name">{{ v.name }}</option>
        </select>
        <input
          v-else
          class="field"
          :value="chosenOf(o)"
          :aria-label="o.name"
          :title="`${o.least ?? '…'} to ${o.most ?? '…'}`"
          @keydown.stop
          @change="options = { ...options, [o.id]: ($event.target as HTMLInputElement).value }"
        />
      </div>
      <div v-for="(c, n) in conditions" :key="n" class="condition" :data-testid="`condition-${n}`">
        <select v-model="c.column" class="field" aria-label="What is asked about" @change="((c.value = ''), (c.op = 'is'))">
          <option v-for="k in columns" :key="k.id" :value="k.id">{{ k.name }}</option>
        </select>
        <select v-model="c.op" class="field" aria-label="How">
          <option v-for="op in ops(c.column)" :key="op">{{ op }}</option>
        </select>
        <input v-if="c.op === 'contains'" v-model="c.value" class="field" aria-label="Text" @keydown.stop />
        <select v-else v-model="c.value" class="field" aria-label="Value">
          <option v-for="v in valuesOf(rows, c.column)" :key="v.text" :value="v.text">{{ v.value ?? v.text }}</option>
        </select>
        <select v-if="c.op === 'between'" v-model="c.to" class="field" aria-label="and">
          <option v-for="v in valuesOf(rows, c.column)" :key="v.text" :value="v.text">{{ v.value ?? v.text }}</option>
        </select>
        <button class="icon-btn" aria-label="Without this condition" title="Without this condition" @click="conditions.splice(n, 1)">
          <Icon name="close" :size="13" />
        </button>
      </div>
      <button v-if="columns.length && rows.length > 2" class="quiet" data-testid="add-condition" @click="add">+ condition</button>
      <ul v-if="columns.length" class="scroll">
        <li v-for="r in shown" :key="r.id ?? ''">
          <button
            :class="{ on: r.id === variant }"
            :data-testid="`member-${r.id ?? 'drawn'}`"
            @click="variant = r.id"
            @dblclick="emit('take', choice)"
          >
            <span>{{ r.name }}</span>
            <span class="muted">{{ told.map((c) => r.cells[c.id]?.value ?? r.cells[c.id]?.text ?? '').join(' · ') }}</span>
          </button>
        </li>
        <li v-if="!matches.length" class="muted none">No member is like that: take a condition off.</li>
        <li v-else-if="matches.length > shown.length" class="muted none">… and {{ matches.length - shown.length }} more</li>
      </ul>
      <DocumentPicture
        v-if="columns.length || found.options.length"
        :id="document"
        class="look"
        kind="box"
        :revision="0"
        :member="choice"
      />
    </template>
    <footer>
      <span class="grow" />
      <button class="btn small" @click="emit('leave')">Back</button>
      <button class="btn small main" data-testid="take-member" @click="emit('take', choice)">{{ verb }}</button>
    </footer>
  </section>
</template>

<style scoped>
.choose {
  padding: 8px 10px;
  margin-bottom: 8px;
  display: flex;
  flex-direction: column;
  gap: 6px;
}
header,
footer,
.option {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
}
.option select {
  flex: 0 1 auto;
  min-width: 0;
}
.condition {
  display: flex;
  gap: 4px;
}
.condition .field {
  min-width: 0;
  flex: 1;
}
.condition .field:first-child {
  flex: 1.6;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  max-height: 190px;
  overflow: auto;
}
li button {
  width: 100%;
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 4px 6px;
  border-radius: 5px;
  text-align: left;
}
li button.on {
  background: var(--accent-soft);
  color: var(--accent);
  font-weight: 600;
}
.none {
  padding: 4px 6px;
}
.quiet {
  color: var(--accent);
  text-align: left;
}
.look {
  align-self: center;
  width: 220px;
}
.grow {
  flex: 1;
}
</style>
