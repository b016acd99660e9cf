<script setup lang="ts">
// Components, sub-assemblies folded; what is picked in the picture is lit here and the other way round.
import { NDropdown } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import Icon from '../ui/Icon.vue'
import { useAssembly } from './store'
import { type Row, useTree, within } from './tree'

const doc = useDocument()
const asm = useAssembly()
const tree = useTree()
const shown = useShown()
const router = useRouter()
const renaming = ref<{ id: string; text: string } | null>(null)
const blocked = ref<{ id: string; text: string } | null>(null)
const asked = ref<{ row: Row; x: number; y: number } | null>(null)
const list = ref<HTMLElement | null>(null)

const components = computed(() => new Map((doc.assembly?.components ?? []).map((c) => [c.id, c])))
const views = computed(() => new Map((asm.built?.components ?? []).map((c) => [c.id, c])))
const several = computed(() => tree.rows.some((r) => r.holds))
const lit = (row: Row): boolean => asm.selected.includes(row.component)
const top = (row: Row): Schemas['Component'] | undefined => (row.level ? undefined : components.value.get(row.id))

function state(row: Row): string {
  const c = top(row)
  if (!c) return ''
  if (c.anchored) return 'anchored'
  const n = views.value.get(c.id)?.freedom ?? 0
  return n === 6 ? 'free' : n ? `${n} free` : 'held'
}
function take(row: Row, event: MouseEvent): void {
  const add = event.shiftKey || event.ctrlKey || event.metaKey
  const has = asm.selected.includes(row.component)
  if (!add) asm.selected = [row.component]
  else asm.selected = has ? asm.selected.filter((id) => id !== row.component) : [...asm.selected, row.component]
}
/** What a menu works on: all that is chosen when the row is among it. */
function on(row: Row): string[] {
  return row.level === 0 && asm.selected.includes(row.id) ? asm.selected : [row.id]
}
const menu = (row: Row) => {
  const c = top(row)
  const many = on(row).length > 1 ? ` ${on(row).length}` : ''
  return [
    { key: 'hide', label: within(row.id, shown.hidden) ? 'Show' : `Hide${many}` },
    { key: 'alone', label: 'Show it alone' },
    { key: 'ghost', label: within(row.id, tree.ghosts) ? 'Solid again' : `See through${many}` },
    { key: 'others', label: 'See through the others' },
    ...(c
      ? [
          { key: 'line', type: 'divider' },
          { key: 'open', label: 'Open' },
          { key: 'rename', label: 'Rename' },
          { key: 'anchor', label: c.anchored ? 'Let go' : 'Anchor' },
          { key: 'copy', label: 'Copy' },
          { key: 'remove', label: 'Delete' },
        ]
      : []),
  ]
}
async function choose(key: string, row: Row): Promise<void> {
  asked.value = blocked.value = null
  const c = top(row)
  if (key === 'hide') for (const id of on(row)) shown.toggle(id)
  else if (key === 'alone') shown.isolate(row.component)
  else if (key === 'ghost') tree.toggleGhost(on(row))
  else if (key === 'others') tree.ghostOthers(on(row))
  else if (!c) return
  else if (key === 'open') await router.push(`/d/${c.document}`)
  else if (key === 'rename') renaming.value = { id: c.id, text: c.name }
  else if (key === 'anchor') await doc.edit([{ do: 'edit_component', id: c.id, anchored: !c.anchored }])
  else if (key === 'copy') await asm.copy(on(row))
  else if (!(await doc.edit([{ do: 'remove_component', id: c.id }]))) blocked.value = { id: c.id, text: doc.failure?.text ?? '' }
}
async function rename(): Promise<void> {
  const r = renaming.value
  renaming.value = null
  if (r?.text.trim()) await doc.edit([{ do: 'edit_component', id: r.id, name: r.text.trim() }])
}
async function ask(row: Row, event: MouseEvent): Promise<void> {
  asked.value = null
  if (!lit(row)) asm.selected = [row.component]
  await nextTick()
  asked.value = { row, x: event.clientX, y: event.clientY }
}
// Picked in the picture: its row comes into sight.
watch(
  () => asm.selected,
  async (ids) => {
    await nextTick()
    const one = ids.at(-1)
    if (one) list.value?.querySelector(`[data-testid="component-${one}"]`)?.scrollIntoView({ block: 'nearest' })
  },
)
</script>

<template>
  <div class="bar">
    <input
      v-model="tree.wanted"
      class="field"
      placeholder="find by name or tag"
      aria-label="Find a component"
      data-testid="tree-find"
      @keydown.esc.stop="tree.wanted = ''"
      @keydown.stop
    />
    <button
      v-if="several"
      class="icon-btn"
      :title="tree.open.size ? 'Fold all' : 'Open all'"
      :aria-label="tree.open.size ? 'Fold all' : 'Open all'"
      data-testid="tree-fold"
      @click="tree.foldAll(tree.open.size > 0)"
    >
      <Icon :name="tree.open.size ? 'up' : 'down'" :size="15" />
    </button>
    <select v-model="tree.colours" class="field" aria-label="Colours" title="What the colours tell apart" data-testid="tree-colours">
      <option value="component">by component</option>
      <option value="material">by material</option>
    </select>
  </div>
  <div v-if="shown.hidden.size || tree.ghosts.size" class="away">
    <span class="muted"
      >{{ shown.hidden.size ? `${shown.hidden.size} hidden` : '' }} {{ tree.ghosts.size ? `${tree.ghosts.size} seen through` : '' }}</span
    >
    <button class="chip" data-testid="show-all" @click="((shown.hidden = new Set()), (tree.ghosts = new Set()))">Show all</button>
  </div>
  <div ref="list">
    <article
      v-for="row in tree.rows"
      :key="row.id"
      class="row"
      :class="{ on: lit(row), inner: row.level, away: within(row.id, shown.hidden) }"
      :style="{ marginLeft: `${14 * row.level}px` }"
      :data-testid="`component-${row.id}`"
      @click="take(row, $event)"
      @contextmenu.prevent="ask(row, $event)"
    >
      <button
        v-if="row.holds"
        class="icon-btn twist"
        :aria-label="row.folded ? `Open ${row.name}` : `Fold ${row.name}`"
        :aria-expanded="!row.folded"
        :data-testid="`fold-${row.id}`"
        @click.stop="tree.fold(row.id)"
      >
        <Icon :name="row.folded ? 'right' : 'down'" :size="13" />
      </button>
      <Icon v-else :name="top(row)?.anchored ? 'fixed' : 'box'" :size="15" />
      <input
        v-if="renaming?.id === row.id"
        v-model="renaming.text"
        class="field"
        autofocus
        @keydown.enter="rename"
        @keydown.esc="renaming = null"
        @keydown.stop
        @blur="rename"
        @click.stop
      />
      <b v-else>{{ row.name }}</b>
      <span v-if="top(row)?.tag" class="tag" title="Its tag">{{ top(row)!.tag }}</span>
      <Icon v-if="shown.hidden.has(row.id)" name="eyeoff" :size="14" title="Hidden" />
      <Icon v-else-if="tree.ghosts.has(row.id)" name="ghost" :size="14" title="Seen through" />
      <span class="muted">{{ state(row) }}</span>
      <NDropdown :options="menu(row)" trigger="click" @select="(k: string) => choose(k, row)">
        <button class="icon-btn" :aria-label="`More for ${row.name}`" @click.stop><Icon name="more" :size="14" /></button>
      </NDropdown>
      <div v-if="blocked?.id === row.id" class="trouble wide" @click.stop>
        <div>
          {{ blocked.text }}
          <div class="offers">
            <button class="btn small" @click="doc.edit([{ do: 'remove_component', id: row.id, with_joints: true }])">
              Delete its joints too
            </button>
          </div>
        </div>
      </div>
    </article>
    <p v-if="tree.wanted && !tree.rows.length" class="muted">No component is called so, or tagged so.</p>
  </div>
  <NDropdown
    v-if="asked"
    :options="menu(asked.row)"
    :x="asked.x"
    :y="asked.y"
    show
    placement="bottom-start"
    trigger="manual"
    @clickoutside="asked = null"
    @select="(k: string) => choose(k, asked!.row)"
  />
</template>

<style scoped>
.bar {
  display: flex;
  gap: 6px;
  align-items: center;
  padding: 1px 0 7px;
}
.bar input {
  flex: 1;
  min-width: 0;
}
.bar select {
  width: 126px;
}
.away {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 0 2px 6px;
  font-size: 12px;
}
.row {
  /* Of hundreds only those in sight are laid out. */
  content-visibility: auto;
  contain-intrinsic-size: auto 34px;
  display: flex;
  flex-wrap: wrap;
  gap: 3px 8px;
  align-items: center;
  min-height: 34px;
  padding: 3px 4px 3px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--panel);
  margin-bottom: 5px;
  cursor: pointer;
}
.row b {
  flex: 1;
  min-width: 0;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.row input.field {
  flex: 1;
  min-width: 0;
}
.row.inner {
  border-style: dashed;
}
.row.inner b {
  font-weight: 500;
}
.row.on {
  border-color: var(--pick);
  background: var(--pick-soft);
}
.row.away {
  padding: 3px 4px 3px 8px;
  font-size: inherit;
  opacity: 0.6;
}
.row .muted {
  font-size: 12px;
}
.twist {
  width: 16px;
}
.tag {
  font-size: 11.5px;
  padding: 0 6px;
  border: 1px solid var(--line-2);
  border-radius: 5px;
  color: var(--ink-2);
}
.wide {
  flex-basis: 100%;
}
</style>
