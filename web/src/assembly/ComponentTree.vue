<script setup lang="ts">
// Components, sub-assemblies folded; what is picked in the picture is lit here and the other way round.
import { NDropdown } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import type { Schemas } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { useShown } from '../document/shown'
import Icon from '../ui/Icon.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { makerOf } from './copyNames'
import CopiesEditor from './CopiesEditor.vue'
import { useCopying } from './copying'
import ChooseMember, { type Chosen } from '../members/ChooseMember.vue'
import DriveMark from '../members/DriveMark.vue'
import { useMaking } from './inplace'
import { usePorts } from './ports'
import { useReplacing } from './replacing'
import { useAssembly } from './store'
import { type Row, useTree, within } from './tree'

const doc = useDocument()
const asm = useAssembly()
const tree = useTree()
const shown = useShown()
const copying = useCopying()
const replacing = useReplacing()
const ports = usePorts()
const making = useMaking()
const registries = useRegistries()
const router = useRouter()
const renaming = ref<{ id: string; text: string } | null>(null)
const blocked = ref<{ id: string; text: string } | null>(null)
const asked = ref<{ row: Row; x: number; y: number } | null>(null)
const list = ref<HTMLElement | null>(null)

const components = computed(() => new Map((doc.assembly?.components ?? []).map((c) => [c.id, c])))
const copies = computed(() => new Map((doc.assembly?.copies ?? []).map((c) => [c.id, c])))
const views = computed(() => new Map((asm.built?.components ?? []).map((c) => [c.id, c])))
const made = computed(() => new Map((asm.built?.copies ?? []).map((c) => [c.id, c])))
const several = computed(() => tree.rows.some((r) => r.holds))
/** The numbers of copies. */
const countsOf = (id: string): { field: string; what: string }[] => {
  const kind = registries.found?.copies.find((k) => k.kind === copies.value.get(id)?.kind)
  return [
    ...(kind?.counted ? [{ field: 'count', what: 'how many' }] : []),
    ...(copies.value.get(id)?.spacing ? [{ field: 'spacing', what: kind?.spacing?.label.toLowerCase() ?? 'spacing' }] : []),
  ]
}
/** Components, or copies, a row stands for at the top level. */
const tops = (row: Row): string[] => (row.sort === 'inner' ? [row.component] : row.ids)
function lit(row: Row): boolean {
  const ids = tops(row)
  if (row.sort === 'group' || row.sort === 'copies')
    return ids.length > 0 && ids[row.folded ? 'some' : 'every']((id) => asm.selected.includes(id))
  return asm.selected.includes(row.component)
}
const top = (row: Row): Schemas['Component'] | undefined => (row.sort === 'component' ? components.value.get(row.id) : undefined)
const away = (row: Row, set: ReadonlySet<string>): boolean => row.ids.length > 0 && row.ids.every((id) => within(id, set))
const isAssembly = (id: string): boolean => tree.rows.some((r) => r.id === id && r.holds) || (components.value.get(id)?.moving ?? false)

function icon(row: Row): string {
  if (row.sort === 'group') return 'layers'
  if (row.sort === 'copies') return registries.found?.copies.find((k) => k.kind === copies.value.get(row.id)?.kind)?.icon ?? 'copies'
  return top(row)?.anchored ? 'fixed' : 'box'
}
function state(row: Row): string {
  if (row.sort === 'group') return 'moves as one'
  if (row.sort === 'copies')
    return copies.value.get(row.id)?.asleep ? 'asleep' : `${row.ids.length} ${row.ids.length === 1 ? 'copy' : 'copies'}`
  const inner = row.sort === 'inner' ? views.value.get(row.id) : undefined
  const c = top(row)
  if (!c && !inner) return ''
  if (c?.absent) return 'left out'
  if (c?.reference) return 'reference'
  if (c?.anchored) return c.moving ? 'anchored, moves inside' : 'anchored'
  const n = (inner ?? views.value.get(row.id))?.freedom ?? 0
  const words = n === 6 ? 'free' : n ? `${n} free` : 'held'
  return c?.moving ? `${words}, moves inside` : words
}
function take(row: Row, event: MouseEvent): void {
  const add = event.shiftKey || event.ctrlKey || event.metaKey
  const ids = tops(row)
  const has = ids.every((id) => asm.selected.includes(id))
  if (!add) asm.selected = [...ids]
  else asm.selected = has ? asm.selected.filter((id) => !ids.includes(id)) : [...new Set([...asm.selected, ...ids])]
}
/** What a menu works on: all that is chosen when the row is among it. */
function on(row: Row): string[] {
  const ids = row.sort === 'inner' ? row.ids : tops(row)
  return row.sort !== 'inner' && ids.every((id) => asm.selected.includes(id)) && ids.length ? asm.selected : ids
}
/** Of these those that are components of their own. */
const own = (row: Row): string[] => on(row).filter((id) => components.value.has(id))
type Entry = { key: string; label?: string; type?: string }
const line = (key: string): Entry => ({ key, type: 'divider' })
function menu(row: Row): Entry[] {
  const c = top(row)
  const n = on(row).length
  const many = n > 1 ? ` ${n}` : ''
  const looks: Entry[] = [
    { key: 'hide', label: away(row, shown.hidden) ? 'Show' : `Hide${many}` },
    { key: 'alone', label: n > 1 ? 'Show these alone' : 'Show it alone' },
    { key: 'ghost', label: away(row, tree.ghosts) ? 'Solid again' : `See through${many}` },
    { key: 'others', label: 'See through the others' },
  ]
  if (row.sort === 'group')
    return [...looks, line('l1'), { key: 'rename', label: 'Rename' }, { key: 'dissolve-group', label: 'Dissolve the group' }]
  if (row.sort === 'copies')
    return [
      ...looks,
      line('l1'),
      { key: 'edit-copies', label: 'Edit' },
      { key: 'sleep', label: copies.value.get(row.id)?.asleep ? 'Wake' : 'Put to sleep' },
      { key: 'free', label: 'Make components of them' },
      { key: 'remove-copies', label: 'Delete' },
    ]
  if (row.sort === 'copy') return [...looks, line('l1'), { key: 'leave-out', label: 'Leave it out' }]
  if (!c) return looks
  const together: Entry[] =
    own(row).length > 1
      ? [
          { key: 'group', label: 'Have them move as one' },
          { key: 'gather', label: 'Make an assembly of them' },
        ]
      : []
  const inside: Entry[] =
    own(row).length === 1 && isAssembly(c.id)
      ? [
          { key: 'moving', label: c.moving ? 'Keep it stiff' : 'Let its own joints move' },
          { key: 'dissolve', label: 'Dissolve into its components' },
        ]
      : []
  const grouped: Entry[] = groupOf(c.id) ? [{ key: 'ungroup', label: `Take it out of ${groupOf(c.id)!.name}` }] : []
  return [
    ...looks,
    line('l1'),
    { key: 'open', label: 'Open' },
    ...(isAssembly(c.id) ? [] : [{ key: 'in-place', label: 'Edit in place' }]),
    { key: 'rename', label: 'Rename' },
    { key: 'anchor', label: c.anchored ? 'Let go' : 'Anchor' },
    { key: 'reference', label: c.reference ? 'A part of the assembly' : 'Reference only' },
    { key: 'member', label: own(row).length > 1 ? `Variant and revision of these ${own(row).length} …` : 'Variant and revision …' },
    { key: 'absent', label: c.absent ? 'Have it in' : 'Leave it out' },
    { key: 'copy', label: 'Copy' },
    ...(own(row).length === 1
      ? [
          { key: 'fit', label: 'Fit by its ports' },
          { key: 'replace', label: 'Replace by …' },
        ]
      : []),
    ...together,
    ...inside,
    ...grouped,
    { key: 'remove', label: 'Delete' },
  ]
}
/** Components whose member is being chosen: those of the same document as the row's. */
const membered = ref<{ ids: string[]; row: string } | null>(null)
async function takeMember(choice: Chosen): Promise<void> {
  const m = membered.value
  const what = m && components.value.get(m.row)
  membered.value = null
  if (!m || !what) return
  const ids = m.ids.filter((id) => components.value.get(id)?.document === what.document)
  await doc.edit(ids.map((id) => ({ do: 'edit_component', id, choice })))
}
const groupOf = (id: string) => doc.assembly?.bunches?.find((b) => b.components.includes(id))

const DEEDS: Record<string, (row: Row) => unknown> = {
  hide: (row) => on(row).forEach((id) => shown.toggle(id)),
  alone: (row) => tree.only(on(row)),
  ghost: (row) => tree.toggleGhost(on(row)),
  others: (row) => tree.ghostOthers(on(row)),
  open: (row) => router.push(`/d/${top(row)!.document}`),
  'in-place': (row) => making.edit(top(row)!.document, row.id),
  rename: (row) => (renaming.value = { id: row.id, text: row.name }),
  anchor: (row) => doc.edit([{ do: 'edit_component', id: row.id, anchored: !top(row)!.anchored }]),
  reference: (row) => doc.edit([{ do: 'edit_component', id: row.id, reference: !top(row)!.reference }]),
  member: (row) => (membered.value = { ids: own(row), row: row.id }),
  absent: (row) => doc.edit([{ do: 'edit_component', id: row.id, absent: !top(row)!.absent }]),
  copy: (row) => asm.copy(on(row)),
  fit: (row) => ports.begin(row.id).catch(doc.refused),
  replace: (row) => replacing.begin(row.id).catch(doc.refused),
  group: (row) => asm.group(own(row)),
  gather: (row) => asm.gather(own(row)),
  moving: (row) => doc.edit([{ do: 'edit_component', id: row.id, moving: !top(row)!.moving }]),
  dissolve: (row) => asm.dissolve(row.id),
  ungroup: (row) => asm.regroup(row.id, null),
  'dissolve-group': (row) => doc.edit([{ do: 'dissolve_group', id: row.id }]),
  'edit-copies': (row) => copying.edit(copies.value.get(row.id)!),
  sleep: (row) => doc.edit([{ do: 'edit_copies', id: row.id, asleep: !copies.value.get(row.id)!.asleep }]),
  free: (row) => asm.freeCopies(row.id),
  'remove-copies': (row) => doc.edit([{ do: 'remove_copies', id: row.id }]),
  'leave-out': (row) => leaveOut(row),
  remove: (row) => remove(row),
}
async function choose(key: string, row: Row): Promise<void> {
  asked.value = blocked.value = null
  await DEEDS[key]?.(row)
}
async function remove(row: Row): Promise<void> {
  if (!(await doc.edit([{ do: 'remove_component', id: row.id }]))) blocked.value = { id: row.id, text: doc.failure?.text ?? '' }
}
async function leaveOut(row: Row): Promise<void> {
  const maker = copies.value.get(makerOf(row.id) ?? '')
  if (maker) await doc.edit([{ do: 'edit_copies', id: maker.id, left_out: [...(maker.left_out ?? []), Number(row.id.split('_').at(-1))] }])
}
/** The number of copies, changed where it stands. */
async function recount(id: string, said: string): Promise<void> {
  if (said.trim() && said.trim() !== copies.value.get(id)?.count) await doc.edit([{ do: 'edit_copies', id, count: said.trim() }])
}
const counted = (row: Row): string | null => {
  const c = row.sort === 'copies' ? copies.value.get(row.id) : undefined
  return c && registries.found?.copies.find((k) => k.kind === c.kind)?.counted ? (c.count ?? '2') : null
}
async function rename(): Promise<void> {
  const r = renaming.value
  renaming.value = null
  if (!r?.text.trim()) return
  const does = { g: 'edit_group', r: 'edit_copies' }[r.id[0]] ?? 'edit_component'
  await doc.edit([{ do: does, id: r.id, name: r.text.trim() }])
}
// Rows are dragged: onto a group they join it, onto the open list they leave theirs.
const dragged = ref<string | null>(null)
const over = ref<string | null>(null)
function lift(row: Row, event: DragEvent): void {
  if (row.sort !== 'component') return event.preventDefault()
  dragged.value = row.id
  event.dataTransfer?.setData('text/plain', row.name)
}
function hover(row: Row, event: DragEvent): void {
  if (!dragged.value || row.id === dragged.value || !['group', 'component'].includes(row.sort)) return
  event.preventDefault()
  over.value = row.id
}
async function drop(row: Row): Promise<void> {
  const id = dragged.value
  dragged.value = over.value = null
  if (id && id !== row.id)
    await asm.regroup(id, row.sort === 'group' ? row.id : row.id.startsWith('c') ? (groupOf(row.id)?.id ?? null) : null)
}
async function ask(row: Row, event: MouseEvent): Promise<void> {
  asked.value = null
  if (!lit(row)) asm.selected = [...tops(row)]
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
      placeholder="name, tag, property"
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
      <option v-for="p in tree.properties" :key="p" :value="`=${p}`">by {{ p.toLowerCase() }}</option>
    </select>
  </div>
  <div v-if="shown.hidden.size || tree.ghosts.size" class="away">
    <span class="muted"
      >{{ shown.hidden.size ? `${shown.hidden.size} hidden` : '' }} {{ tree.ghosts.size ? `${tree.ghosts.size} seen through` : '' }}</span
    >
    <button class="chip" data-testid="show-all" @click="((shown.hidden = new Set()), (tree.ghosts = new Set()))">Show all</button>
  </div>
  <div ref="list">
    <template v-for="row in tree.rows" :key="row.id">
      <CopiesEditor v-if="copying.open && copying.id === row.id" />
      <article
        v-else
        class="row"
        :class="{ on: lit(row), inner: row.level, away: away(row, shown.hidden), over: over === row.id, bad: made.get(row.id)?.trouble }"
        :style="{ marginLeft: `${14 * row.level}px` }"
        :data-testid="`component-${row.id}`"
        :draggable="row.sort === 'component' && !!doc.assembly?.bunches?.length"
        @click="take(row, $event)"
        @contextmenu.prevent="ask(row, $event)"
        @dragstart="lift(row, $event)"
        @dragover="hover(row, $event)"
        @dragleave="over = null"
        @drop.prevent="drop(row)"
        @dragend="dragged = over = null"
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
        <Icon v-if="!row.holds || row.sort === 'group' || row.sort === 'copies'" :name="icon(row)" :size="15" />
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
        <b v-else @dblclick="row.sort === 'copies' && copying.edit(copies.get(row.id)!)">{{ row.name }}</b>
        <span v-if="asm.built?.members?.[row.id]" class="tag" title="Which variant it is" :data-testid="`member-of-${row.id}`">{{
          asm.built.members[row.id]
        }}</span>
        <template v-if="row.sort === 'copies'">
          <DriveMark
            v-for="n in countsOf(row.id)"
            :key="n.field"
            drives="item"
            :of="{ group: 'copies', id: row.id, field: n.field }"
            :what="`${row.name}: ${n.what}`"
          />
          <DriveMark drives="asleep" icon="moon" :of="{ group: 'copies', id: row.id }" :what="`whether ${row.name} is asleep`" />
        </template>
        <DriveMark v-if="top(row)" drives="member" :of="{ component: row.id }" :what="`which variant ${row.name} is`" />
        <DriveMark v-if="top(row)" drives="absent" icon="eyeoff" :of="{ component: row.id }" :what="`whether ${row.name} is there`" />
        <span v-if="top(row)?.tag" class="tag" title="Its tag">{{ top(row)!.tag }}</span>
        <Icon v-if="shown.hidden.has(row.id)" name="eyeoff" :size="14" title="Hidden" />
        <Icon v-else-if="tree.ghosts.has(row.id)" name="ghost" :size="14" title="Seen through" />
        <input
          v-if="counted(row) !== null"
          class="field count"
          :value="counted(row)"
          :aria-label="`${row.name}: number with the original`"
          title="Number, with the original"
          spellcheck="false"
          :data-testid="`count-${row.id}`"
          @change="recount(row.id, ($event.target as HTMLInputElement).value)"
          @click.stop
          @keydown.stop
        />
        <span v-else class="muted">{{ state(row) }}</span>
        <button class="icon-btn" :aria-label="`More for ${row.name}`" @click.stop="ask(row, $event)">
          <Icon name="more" :size="14" />
        </button>
        <div v-if="membered?.row === row.id" class="wide" @click.stop @contextmenu.stop>
          <ChooseMember
            :document="top(row)!.document"
            :name="row.name"
            :chosen="{ variant: null, options: {}, ...top(row)!.choice }"
            verb="Take it"
            @take="takeMember"
            @leave="membered = null"
          />
        </div>
        <div v-if="made.get(row.id)?.trouble" class="wide" @click.stop>
          <TroubleNote :report="made.get(row.id)!.trouble!" @take="(o) => doc.edit([{ do: 'edit_copies', id: row.id, ...o.fields }])" />
        </div>
        <p v-else-if="made.get(row.id)?.note" class="wide muted note">{{ made.get(row.id)!.note }}</p>
        <div v-if="blocked?.id === row.id" class="trouble wide" @click.stop>
          <div>
            {{ blocked.text }}
            <div class="offers">
              <button class="btn small" @click="doc.edit([{ do: 'remove_component', id: row.id, with_joints: true }])">
                Delete what holds it too
              </button>
            </div>
          </div>
        </div>
      </article>
    </template>
    <CopiesEditor v-if="copying.open && !copying.id" />
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
.row.over {
  border-color: var(--accent);
  background: var(--accent-soft);
}
.row.bad {
  border-color: var(--bad);
}
.count {
  width: 52px;
  text-align: right;
}
.row input.count {
  flex: none;
}
.note {
  margin: 0;
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
  min-width: 0;
}
</style>
