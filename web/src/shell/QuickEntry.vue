<script setup lang="ts">
// Type a command with its number, or the name of anything in the project.
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { call } from '../api/client'
import { KINDS } from '../document/kinds'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import { type Named, suggest, type Suggestion } from './quick'

const emit = defineEmits<{ quick: [action: string] }>()
const doc = useDocument()
const router = useRouter()
const text = ref('')
const at = ref(0)
const open = ref(false)
const field = ref<HTMLInputElement | null>(null)
const others = ref<Named[]>([])

const ACTIONS: Named[] = [
  { label: 'Undo', detail: 'Ctrl+Z', icon: 'undo', run: { action: 'undo' } },
  { label: 'Redo', detail: 'Ctrl+Y', icon: 'redo', run: { action: 'redo' } },
  { label: 'Fit the view', detail: 'F', icon: 'fit', run: { action: 'fit' } },
  { label: 'Section', detail: 'X', icon: 'cut', run: { action: 'section' } },
  { label: 'Parameters', detail: 'drawer', icon: 'grid', run: { action: 'drawer:parameters' } },
  { label: 'Checks', detail: 'drawer', icon: 'gauge', run: { action: 'drawer:checks' } },
  { label: 'Messages', detail: 'drawer', icon: 'alert', run: { action: 'drawer:messages' } },
]

/** What the kind of the open document adds. */
const finds = computed(() => (doc.view ? KINDS[doc.view.kind].finds?.() : undefined))
const named = computed<Named[]>(() => {
  const found: Named[] = [...ACTIONS, ...(finds.value?.named ?? [])]
  for (const p of doc.view?.document.parameters ?? [])
    found.push({ label: p.name, detail: `parameter · ${p.formula}`, icon: 'grid', run: { action: 'drawer:parameters' } })
  return [...found, ...others.value]
})
const matches = computed(() => suggest(text.value, finds.value?.steps ?? [], named.value, finds.value?.tools ?? []))
watch(matches, () => (at.value = 0))

async function focused(): Promise<void> {
  open.value = true
  const shelf = await call('get', '/api/shelf').catch(() => null)
  const project = shelf?.projects.find((p) => p.id === doc.view?.project)
  others.value = (project?.documents ?? [])
    .filter((d) => d.id !== doc.view?.id)
    .map((d) => ({ label: d.name, detail: d.kind, icon: d.kind, run: { open: d.id } }))
}

async function run(s: Suggestion): Promise<void> {
  text.value = ''
  open.value = false
  field.value?.blur()
  if (s.run.open) await router.push(`/d/${s.run.open}`)
  else if (s.run.action === 'undo') await doc.undo()
  else if (s.run.action === 'redo') await doc.redo()
  else if (s.run.action) emit('quick', s.run.action)
  else await finds.value?.run(s.run)
}

function key(event: KeyboardEvent): void {
  event.stopPropagation()
  if (event.key === 'ArrowDown') at.value = Math.min(at.value + 1, matches.value.length - 1)
  else if (event.key === 'ArrowUp') at.value = Math.max(at.value - 1, 0)
  else if (event.key === 'Enter' && matches.value[at.value]) void run(matches.value[at.value])
  else if (event.key === 'Escape') field.value?.blur()
  else return
  event.preventDefault()
}
defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <div class="quick">
    <Icon name="command" :size="15" />
    <input
      ref="field"
      v-model="text"
      data-testid="quick"
      placeholder="fillet 3, hole, a name …"
      aria-label="Quick entry"
      autocomplete="off"
      spellcheck="false"
      @focus="focused"
      @blur="open = false"
      @keydown="key"
    />
    <kbd>/</kbd>
    <ul v-if="open && text.trim()" class="list">
      <li v-for="(m, i) in matches" :key="m.label + m.detail + i" :class="{ on: i === at }" @mousedown.prevent="run(m)" @mousemove="at = i">
        <Icon :name="m.icon" :size="16" /> <b>{{ m.label }}</b> <span>{{ m.detail }}</span>
      </li>
      <li v-if="!matches.length" class="none">Nothing by that name. Try a tool such as “extrude 20”, a step or a parameter.</li>
    </ul>
  </div>
</template>

<style scoped>
.quick {
  position: relative;
  flex: 0 1 400px;
  min-width: 160px;
  display: flex;
  align-items: center;
  gap: 8px;
  height: 30px;
  padding: 0 9px;
  border-radius: 7px;
  background: var(--head-2);
  color: var(--head-ink);
}
input {
  flex: 1;
  min-width: 0;
  border: 0;
  background: none;
  outline: none;
  color: inherit;
}
input::placeholder {
  color: color-mix(in srgb, var(--head-ink) 65%, transparent);
}
.quick:focus-within {
  box-shadow: 0 0 0 2px var(--accent);
}
kbd {
  background: transparent;
  border-color: color-mix(in srgb, var(--head-ink) 35%, transparent);
  color: inherit;
}
.list {
  position: absolute;
  top: 36px;
  left: 0;
  right: 0;
  z-index: 50;
  margin: 0;
  padding: 5px;
  list-style: none;
  background: var(--panel);
  color: var(--ink);
  border: 1px solid var(--line);
  border-radius: 8px;
  box-shadow: var(--shadow);
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 5px 8px;
  border-radius: 6px;
  cursor: pointer;
}
li b {
  font-weight: 600;
  white-space: nowrap;
}
li span {
  color: var(--ink-3);
  margin-left: auto;
  font-size: 12px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
li.on {
  background: var(--accent-soft);
}
li.none {
  color: var(--ink-3);
  cursor: default;
}
</style>
