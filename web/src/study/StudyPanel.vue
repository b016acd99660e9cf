<script setup lang="ts">
// Supports, loads and mesh of a study.
import { computed, ref } from 'vue'
import { call, type Report, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import type { StoredPick } from '../viewport/mesh'
import { typed } from '../ui/units'

export interface Condition {
  id: string | null
  kind: 'support' | 'force' | 'pressure' | 'gravity'
  faces: StoredPick[]
  edges: StoredPick[]
  hold: 'all' | 'across' | 'chosen'
  ways: [boolean, boolean, boolean]
  size: string
  direction: [number, number, number]
  name: string
}
const props = defineProps<{ edited: Condition | null; selected: string | null; troubles: Report[] }>()
const emit = defineEmits<{ update: [d: Condition]; select: [id: string]; keep: []; discard: []; solve: [] }>()
const doc = useDocument()
const meshing = ref<string | null>(null)
const part = ref<Schemas['DocumentView'] | null>(null)
void (async () => {
  const id = doc.study?.part
  if (id) part.value = await call('get', '/api/documents/{id}', { path: { id } }).catch(() => null)
})()

const AXES: [string, [number, number, number]][] = [
  ['+X', [1, 0, 0]],
  ['−X', [-1, 0, 0]],
  ['+Y', [0, 1, 0]],
  ['−Y', [0, -1, 0]],
  ['+Z', [0, 0, 1]],
  ['−Z', [0, 0, -1]],
]
const TITLE = { support: 'Support', force: 'Force', pressure: 'Pressure', gravity: 'Gravity' } as const
const WORD = { force: 'Force', pressure: 'Pressure', gravity: 'Acceleration', support: '' } as const
const ready = computed(
  () => props.edited && (props.edited.kind === 'gravity' || props.edited.faces.length + props.edited.edges.length > 0) && !clash.value,
)

const HOLDS = [
  ['all', 'Fully'],
  ['across', 'Slides'],
  ['chosen', 'X Y Z'],
] as const
/** Why what is picked cannot be held this way. */
const clash = computed(() => {
  const d = props.edited
  if (d?.kind !== 'support') return ''
  if (d.hold === 'across' && d.edges.length) return 'An edge has no face to slide in: take it off, or choose X Y Z.'
  return d.hold === 'chosen' && !d.ways.some(Boolean) ? 'Tick the directions it is held in.' : ''
})
function held(s: Schemas['Support']): string {
  const [f, e] = [s.faces?.length ?? 0, s.edges?.length ?? 0]
  const on = [f && `${f} ${f === 1 ? 'face' : 'faces'}`, e && `${e} ${e === 1 ? 'edge' : 'edges'}`].filter(Boolean).join(', ')
  const way = s.hold === 'across' ? ' · slides' : s.hold === 'chosen' ? ` · ${['X', 'Y', 'Z'].filter((_, k) => s.ways?.[k]).join(' ')}` : ''
  return on + way
}
function edit(item: Schemas['Support'] | Schemas['Load']): void {
  const load = item as Schemas['Load']
  emit('update', {
    id: item.id,
    kind: ('kind' in item ? load.kind : 'support') as Condition['kind'],
    faces: (item.faces ?? []) as StoredPick[],
    edges: ('edges' in item ? (item.edges ?? []) : []) as StoredPick[],
    hold: ('hold' in item && item.hold) || 'all',
    ways: ('ways' in item && item.ways) || [true, true, true],
    size: load.size ?? '',
    direction: (load.direction ?? [0, 0, -1]) as [number, number, number],
    name: item.name,
  })
}
async function keepMesh(): Promise<void> {
  const text = meshing.value
  meshing.value = null
  if (text === null) return
  const size = text.trim()
  await doc.edit([{ do: 'set_mesh', size: size ? typed(size, 'length') : null }])
}
function heal(report: Report, offer: { fields?: Record<string, unknown> }): void {
  const id = report.where?.[0]?.split(':')[1]
  if (id) void doc.edit([{ do: 'edit_condition', id, fields: offer.fields ?? {} }])
}
</script>

<template>
  <aside class="panel side-panel" data-testid="study-panel">
    <div class="top">
      <h2>Study</h2>
      <RouterLink v-if="part" :to="`/d/${part.id}`">{{ part.document.name }}</RouterLink>
    </div>
    <div class="body scroll">
      <TroubleNote v-for="t in troubles" :key="t.text" :report="t" @take="(o) => heal(t, o)" />
      <h3>Held</h3>
      <p v-if="!doc.study?.supports?.length" class="muted">Nothing holds the part yet: choose Hold and click faces.</p>
      <article
        v-for="s in doc.study?.supports ?? []"
        :key="s.id"
        class="row"
        :class="{ on: selected === s.id }"
        @click="emit('select', s.id)"
        @dblclick="edit(s)"
      >
        <Icon name="fixed" :size="15" /><b>{{ s.name }}</b
        ><span class="muted">{{ held(s) }}</span>
        <button class="icon-btn" :aria-label="`Edit ${s.name}`" title="Edit" @click.stop="edit(s)">
          <Icon name="sketch" :size="13" />
        </button>
        <button
          class="icon-btn"
          :aria-label="`Delete ${s.name}`"
          title="Delete"
          @click.stop="doc.edit([{ do: 'remove_condition', id: s.id }])"
        >
          <Icon name="bin" :size="13" />
        </button>
      </article>
      <h3>Loaded</h3>
      <p v-if="!doc.study?.loads?.length" class="muted">No load yet: choose Load, its kind, and click faces.</p>
      <article
        v-for="l in doc.study?.loads ?? []"
        :key="l.id"
        class="row"
        :class="{ on: selected === l.id }"
        @click="emit('select', l.id)"
        @dblclick="edit(l)"
      >
        <Icon :name="l.kind" :size="15" /><b>{{ l.name }}</b
        ><span class="muted">{{ l.size }}</span>
        <button class="icon-btn" :aria-label="`Edit ${l.name}`" title="Edit" @click.stop="edit(l)">
          <Icon name="sketch" :size="13" />
        </button>
        <button
          class="icon-btn"
          :aria-label="`Delete ${l.name}`"
          title="Delete"
          @click.stop="doc.edit([{ do: 'remove_condition', id: l.id }])"
        >
          <Icon name="bin" :size="13" />
        </button>
      </article>
      <article v-if="edited" class="editor" data-testid="condition-editor">
        <header>
          <Icon :name="edited.kind === 'support' ? 'fixed' : edited.kind" :size="16" /><b>{{ TITLE[edited.kind] }}</b>
        </header>
        <div v-if="edited.kind !== 'gravity'" class="line">
          <label>{{ edited.kind === 'support' ? 'Faces, edges' : 'Faces' }}</label><span
            class="pick"
            :class="{ set: edited.faces.length + edited.edges.length }"
            >{{
              edited.faces.length + edited.edges.length ? `${edited.faces.length + edited.edges.length} picked` : 'click in the picture'
            }}</span
          >
        </div>
        <div v-if="edited.kind === 'support'" class="line">
          <label>Held</label>
          <span class="segmented"
            ><button
              v-for="[key, word] in HOLDS"
              :key="key"
              :class="{ on: edited.hold === key }"
              :data-testid="`hold-${key}`"
              @click="emit('update', { ...edited, hold: key })"
            >
              {{ word }}
            </button></span
          >
        </div>
        <p v-if="edited.kind === 'support'" class="muted small">
          {{
            edited.hold === 'all'
              ? 'It cannot move there at all.'
              : edited.hold === 'across'
                ? 'It moves within the face only: rollers, seats, planes of symmetry.'
                : 'It cannot move along the ticked directions.'
          }}
        </p>
        <div v-if="edited.kind === 'support' && edited.hold === 'chosen'" class="line">
          <label>Along</label>
          <label v-for="(word, k) in ['X', 'Y', 'Z']" :key="word" class="tick"
            ><input
              type="checkbox"
              :checked="edited.ways[k]"
              :data-testid="`way-${word}`"
              @change="emit('update', { ...edited, ways: edited.ways.map((w, i) => (i === k ? !w : w)) as [boolean, boolean, boolean] })"
            />{{ word }}</label
          >
        </div>
        <p v-if="clash" class="clash">{{ clash }}</p>
        <div v-if="edited.kind !== 'support'" class="line">
          <label>{{ WORD[edited.kind] }}</label><input
            class="field"
            :value="edited.size"
            data-testid="condition-size"
            @input="emit('update', { ...edited, size: ($event.target as HTMLInputElement).value })"
          />
        </div>
        <div v-if="edited.kind === 'force' || edited.kind === 'gravity'" class="line">
          <label>Towards</label>
          <span class="segmented"
            ><button
              v-for="[word, d] in AXES"
              :key="word"
              :class="{ on: d.join() === edited.direction.join() }"
              @click="emit('update', { ...edited, direction: d })"
            >
              {{ word }}
            </button></span
          >
        </div>
        <footer>
          <button class="btn" @click="emit('discard')">Discard</button
          ><button class="btn main" data-testid="keep-condition" :disabled="!ready" @click="emit('keep')">Keep</button>
        </footer>
      </article>
      <h3>Mesh</h3>
      <div class="line">
        <label>Element size</label>
        <input
          v-if="meshing !== null"
          v-model="meshing"
          class="field"
          autofocus
          placeholder="chosen for the part"
          @keydown.enter="keepMesh"
          @keydown.esc.stop="meshing = null"
          @blur="keepMesh"
        />
        <button v-else class="value" data-testid="mesh-size" @click="meshing = doc.study?.mesh_size ?? ''">
          {{ doc.study?.mesh_size ?? 'chosen for the part' }}
        </button>
      </div>
      <button class="btn main solve" data-testid="solve" @click="emit('solve')"><Icon name="play" :size="15" /> Solve</button>
    </div>
  </aside>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 9px 14px 7px;
}
.top a {
  color: var(--accent);
}
h2 {
  font-size: 14px;
  flex: 1;
}
h3 {
  font-size: 12px;
  color: var(--ink-3);
  margin: 12px 4px 5px;
}
p {
  margin: 0 4px;
}
.body {
  flex: 1;
  min-height: 0;
  padding: 2px 10px 16px;
}
.row {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) auto 24px 24px;
  gap: 6px;
  align-items: center;
  padding: 3px 4px 3px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--panel);
  margin-bottom: 5px;
  cursor: pointer;
}
.row b {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.row.on {
  border-color: var(--pick);
  background: var(--pick-soft);
}
.row .icon-btn {
  width: 22px;
  height: 22px;
  color: var(--ink-3);
}
.editor {
  border: 2px solid var(--accent);
  border-radius: 9px;
  background: var(--panel);
  padding: 8px 10px 10px;
  display: flex;
  flex-direction: column;
  gap: 7px;
  margin: 6px 0;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 27px;
  padding: 0 4px;
}
.line label {
  flex: 1;
  color: var(--ink-2);
}
.line .field {
  width: 150px;
}
.segmented button {
  padding: 0 5px;
}
.pick {
  color: var(--ink-3);
}
.pick.set {
  color: var(--pick);
  font-weight: 600;
}
.value {
  border-bottom: 1px dotted var(--ink-3);
  color: var(--ink-2);
}
footer {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
.solve {
  width: 100%;
  margin-top: 14px;
}
.small {
  font-size: 12px;
}
.line .tick {
  flex: none;
  display: flex;
  gap: 4px;
  align-items: center;
  color: var(--ink);
  accent-color: var(--accent);
}
.clash {
  color: var(--bad);
  font-size: 12px;
}
</style>
