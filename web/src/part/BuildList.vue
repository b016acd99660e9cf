<script setup lang="ts">
// The build list: a card per step in order, the marker, the open card as editor, running mass.
import { NDropdown } from 'naive-ui'
import { computed, nextTick, ref } from 'vue'
import type { Step } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import { change, mass, trim, raised } from '../ui/format'
import Icon from '../ui/Icon.vue'
import MaterialField from './MaterialField.vue'
import BodyRows from './BodyRows.vue'
import RepairCard from './RepairCard.vue'
import StepEditor from './StepEditor.vue'
import { useShown } from '../document/shown'
import Why from '../help/Why.vue'
import DriveMark from '../members/DriveMark.vue'
import { useCompare } from './compare'
import { useEdited } from './edited'
import { useParameters } from '../parameters/store'
import type { StoredPick } from '../viewport/mesh'
import { bare, grams, rounded, shown as shownAs, typed, unitOf } from '../ui/units'

const emit = defineEmits<{ sketch: [step: string] }>()
const doc = useDocument()
const edited = useEdited()
const registries = useRegistries()
const sees = useShown()
const compare = useCompare()
const parameters = useParameters()
const renaming = ref<string | null>(null)
const newName = ref('')
const targeting = ref<string | null>(null)
const target = ref('')
const number = ref<{ step: string; field: string; text: string } | null>(null)
const blocked = ref<{ step: string; text: string } | null>(null)

const reports = computed(() => new Map((doc.build?.steps ?? []).map((s) => [s.id, s])))
const marker = computed(() => doc.part?.marker ?? null)
const steps = computed(() => doc.part?.steps ?? [])

interface Deciding {
  field: string
  key: string
  shown: string
  formula: string
}
/** Notes that only say what is so. */
const PLAIN = new Set(['gathered'])
/** The numbers shown on a card. */
function deciding(step: Step): Deciding[] {
  const kind = registries.kind(step.kind)
  const report = reports.value.get(step.id)
  const found: Deciding[] = []
  for (const name of kind?.deciding ?? []) {
    const field = kind?.fields.find((f) => f.name === name)
    if (!field) continue
    // Fields that were not there yet when the step was made stand at their defaults.
    const given = Object.fromEntries((kind?.fields ?? []).map((f) => [f.name, f.default]))
    const fields: Record<string, unknown> = { ...given, ...(step.fields as object) }
    if (!Object.entries(field.when ?? {}).every(([k, v]) => v.includes(String(fields[k])))) continue
    const value = report?.values[name]
    // A sign before a length says what it is; its unit is that of the document.
    const shown =
      value === undefined ? String(fields[name]) : field.key && field.dimension === 'length' ? bare(value) : shownAs(field.dimension, value)
    found.push({ field: name, key: field.key ?? '', shown, formula: String(fields[name]) })
  }
  return found
}
function caption(step: Step): string {
  const read = (doc.build?.measured ?? []).filter((m) => m.step === step.id).map((m) => `${m.name} = ${m.shown}`)
  return read.length ? read.join(', ') : (reports.value.get(step.id)?.caption ?? '')
}

function openStep(step: Step): void {
  blocked.value = null
  if (edited.id === step.id) return
  if (step.kind === 'sketch') emit('sketch', step.id)
  else void edited.edit(step.id)
}

const targetOf = (step: Step): string =>
  step.target ? `${rounded(grams(step.target))} ${unitOf('mass')}` : step.target_volume ? `${trim(step.target_volume)} mm**3` : ''
const menu = (step: Step, index: number) => [
  { key: 'open', label: step.kind === 'sketch' ? 'Draw in it' : 'Edit' },
  { key: 'rename', label: 'Rename' },
  { key: 'sleep', label: step.asleep ? 'Wake' : 'Put to sleep' },
  { key: 'compare', label: 'Before and after', disabled: step.kind === 'sketch' },
  { key: 'target', label: targetOf(step) ? 'Change target' : 'Set target mass or volume' },
  { key: 'marker', label: 'Build to here' },
  { key: 'up', label: 'Move up', disabled: index === 0 },
  { key: 'down', label: 'Move down', disabled: index === steps.value.length - 1 },
  { key: 'remove', label: 'Delete' },
]

async function attempt(step: Step, command: { do: string; [k: string]: unknown }): Promise<void> {
  blocked.value = null
  if (!(await doc.edit([command]))) blocked.value = { step: step.id, text: doc.failure?.text ?? '' }
}

async function choose(key: string, step: Step, index: number): Promise<void> {
  if (key === 'open') openStep(step)
  else if (key === 'rename') {
    renaming.value = step.id
    newName.value = step.name
  } else if (key === 'sleep') await attempt(step, { do: 'sleep_step', id: step.id, asleep: !step.asleep })
  else if (key === 'marker') await attempt(step, { do: 'set_marker', at: index + 1 })
  else if (key === 'up') await attempt(step, { do: 'move_step', id: step.id, to: index - 1 })
  else if (key === 'down') await attempt(step, { do: 'move_step', id: step.id, to: index + 1 })
  else if (key === 'remove') await attempt(step, { do: 'remove_step', id: step.id })
  else if (key === 'compare') await compare.look(step.id)
  else if (key === 'target') {
    targeting.value = step.id
    target.value = targetOf(step)
  }
}

async function rename(step: Step): Promise<void> {
  const name = newName.value.trim()
  renaming.value = null
  if (name && name !== step.name) await attempt(step, { do: 'rename_step', id: step.id, name })
}
async function setTarget(step: Step): Promise<void> {
  const text = target.value.trim()
  targeting.value = null
  await attempt(step, { do: 'set_target', id: step.id, target: text ? typed(text, 'mass') : null })
}
async function editNumber(step: Step, d: Deciding): Promise<void> {
  number.value = { step: step.id, field: d.field, text: d.formula }
  await nextTick()
  const input = document.querySelector<HTMLInputElement>('.card .inline')
  input?.focus()
  input?.select()
}
async function keepNumber(step: Step): Promise<void> {
  const n = number.value
  number.value = null
  if (!n) return
  const old = (step.fields as Record<string, unknown>)[n.field]
  const dimension = registries.kind(step.kind)?.fields.find((f) => f.name === n.field)?.dimension
  const text = typed(n.text, dimension)
  if (text && text !== old) await attempt(step, { do: 'edit_step', id: step.id, fields: { [n.field]: text } })
}
async function removeWithDependents(step: string): Promise<void> {
  blocked.value = null
  await doc.edit([{ do: 'remove_step', id: step, with_dependents: true }])
}
function setMarker(at: number | null): void {
  void doc.edit([{ do: 'set_marker', at }])
}

// A card dragged by the mouse to another place in the list. `at` is the gap it would drop into.
const drag = ref<{ id: string; from: number; y: number; at: number | null } | null>(null)
let dropped = false
function grab(event: PointerEvent, step: Step, index: number): void {
  dropped = false
  if (event.button !== 0 || (event.target as Element).closest('button, input, form')) return
  drag.value = { id: step.id, from: index, y: event.clientY, at: null }
}
function carry(event: PointerEvent): void {
  const d = drag.value
  if (!d || (d.at === null && Math.abs(event.clientY - d.y) < 6)) return
  if (d.at === null) (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  const cards = [...document.querySelectorAll<HTMLElement>('.cards > .card')]
  const past = cards.findIndex((c) => {
    const box = c.getBoundingClientRect()
    return event.clientY < box.top + box.height / 2
  })
  drag.value = { ...d, at: past < 0 ? cards.length : past }
}
async function drop(step: Step): Promise<void> {
  const d = drag.value
  drag.value = null
  if (!d || d.at === null) return
  dropped = true
  const to = d.at > d.from ? d.at - 1 : d.at
  if (to !== d.from) await attempt(step, { do: 'move_step', id: d.id, to })
}
function press(step: Step): void {
  if (!dropped) openStep(step)
  dropped = false
}
/** Sketches and references make no material: their cards have nothing to weigh. */
const forms = computed(() => new Map((doc.build?.bodies ?? []).map((b) => [b.id, b.form])))
function weighs(step: Step): boolean {
  const report = reports.value.get(step.id)
  if (report?.status !== 'ok' || step.asleep || report.sketch || registries.kind(step.kind)?.group === 'Refer') return false
  // A surface weighs nothing: what it comes to is none of its step's news.
  return !report.bodies.length || report.bodies.some((id) => (forms.value.get(id) ?? 'solid') === 'solid')
}
const isBefore = (index: number): boolean => marker.value === null || index < marker.value
function retry(offer: { fields?: Record<string, unknown>; commands?: Record<string, unknown>[] }, step: Step): void {
  for (const command of offer.commands?.length ? offer.commands : [{ do: 'edit_step', id: step.id, fields: offer.fields ?? {} }])
    void attempt(step, command as { do: string })
}
</script>

<template>
  <aside class="build side-panel">
    <div class="top">
      <h2>Build list</h2>
      <span class="total" data-testid="total-mass">{{ mass(doc.build?.mass ?? 0) }}</span>
      <DriveMark drives="material" :of="{}" what="the material" />
      <MaterialField />
    </div>
    <div class="cards scroll" data-testid="build-list">
      <p v-if="!steps.length && !edited.open" class="empty">
        Nothing built yet. Begin with <b>Sketch</b> in the rail: choose a plane and draw an outline, then <b>Grow</b> it into a body.
      </p>
      <template v-for="(step, index) in steps" :key="step.id">
        <StepEditor v-if="edited.id === step.id" :number="index + 1" />
        <article
          v-else
          class="card"
          :class="[
            reports.get(step.id)?.status,
            {
              waiting: !isBefore(index),
              carried: drag?.at !== null && drag?.id === step.id,
              before: drag?.at === index,
              after: drag?.at === steps.length && index === steps.length - 1,
            },
          ]"
          :data-testid="`card-${step.id}`"
          tabindex="0"
          @click="press(step)"
          @keydown.enter.self="openStep(step)"
          @pointerdown="grab($event, step, index)"
          @pointermove="carry"
          @pointerup="drop(step)"
          @pointercancel="drag = null"
        >
          <span class="n">{{ index + 1 }}</span>
          <Icon :name="registries.kind(step.kind)?.icon ?? 'box'" :size="17" />
          <input
            v-if="renaming === step.id"
            v-model="newName"
            class="field name-field"
            autofocus
            @click.stop
            @keydown.enter.stop="rename(step)"
            @keydown.esc.stop="renaming = null"
            @blur="rename(step)"
          />
          <b v-else class="name"
            >{{ step.name }}
            <DriveMark drives="asleep" icon="moon" :of="{ group: 'steps', id: step.id }" :what="`whether ${step.name} is asleep`"
          /></b>
          <span class="numbers">
            <template v-for="d in deciding(step)" :key="d.field">
              <input
                v-if="number?.step === step.id && number.field === d.field"
                v-model="number.text"
                class="field inline"
                @click.stop
                @keydown.enter.stop="keepNumber(step)"
                @keydown.esc.stop="number = null"
                @blur="keepNumber(step)"
              />
              <DriveMark drives="field" :of="{ step: step.id, field: d.field }" :what="`${step.name} ${d.key || d.field}`" />
              <button
                v-if="!(number?.step === step.id && number.field === d.field)"
                class="number"
                :title="`${d.formula} — click to change`"
                :data-testid="`number-${step.id}`"
                @click.stop="editNumber(step, d)"
              >
                {{ d.key && d.key !== '×45°' ? d.key + ' ' : '' }}{{ d.shown }}{{ d.key === '×45°' ? ' × 45°' : '' }}
              </button>
            </template>
            <span v-if="!deciding(step).length" class="muted">{{ caption(step) }}</span>
          </span>
          <NDropdown :options="menu(step, index)" trigger="click" @select="(k: string) => choose(k, step, index)">
            <button class="icon-btn more" :aria-label="`More for ${step.name}`" @click.stop>
              <Icon name="more" :size="15" />
            </button>
          </NDropdown>
          <span class="mass">
            <template v-if="step.asleep">asleep</template>
            <template v-else-if="reports.get(step.id)?.status === 'failed'">not built</template>
            <template v-else-if="weighs(step)">{{ mass(reports.get(step.id)?.mass ?? 0) }}</template>
            <template v-else-if="step.kind === 'sketch' && (reports.get(step.id)?.sketch?.freedom ?? 0) > 0"
              >{{ reports.get(step.id)?.sketch?.freedom }} free</template
            >
          </span>
          <span v-if="weighs(step)" class="change" :class="{ less: (reports.get(step.id)?.change ?? 0) <= -0.0005 }">{{
            change(reports.get(step.id)?.change ?? 0)
          }}</span>
          <p
            v-if="parameters.troubledUsers.get(step.id) && reports.get(step.id)?.status !== 'failed'"
            class="target miss"
            data-testid="limit-line"
          >
            <Icon name="alert" :size="14" /> {{ parameters.troubledUsers.get(step.id)!.text }}
            <button
              v-for="o in parameters.troubledUsers.get(step.id)!.offers"
              :key="o.label"
              class="btn small"
              @click.stop="parameters.take(o)"
            >
              {{ o.label }}
            </button>
          </p>
          <form v-if="targeting === step.id" class="target" @click.stop @submit.prevent="setTarget(step)">
            Target
            <input
              v-model="target"
              class="field"
              autofocus
              placeholder="412 g or 24 cm**3"
              spellcheck="false"
              data-testid="target"
              @keydown.stop
            />
            <button class="btn small">Set</button>
          </form>
          <p v-else-if="targetOf(step)" class="target" data-testid="target-line" :class="{ miss: reports.get(step.id)?.misses_target }">
            <Icon :name="reports.get(step.id)?.misses_target ? 'cross' : 'check'" :size="14" />
            target {{ step.target ? mass(step.target) : raised(targetOf(step))
            }}{{ reports.get(step.id)?.misses_target ? ' missed here first' : '' }}
          </p>
          <RepairCard
            v-if="reports.get(step.id)?.error?.lost"
            :key="JSON.stringify(reports.get(step.id)!.error!.lost!.pick)"
            :report="reports.get(step.id)!.error!"
            :step="step.id"
            stored
          />
          <div v-else-if="reports.get(step.id)?.error" class="trouble wide">
            <Icon name="cross" :size="15" />
            <div>
              {{ reports.get(step.id)!.error!.text }} <Why :code="reports.get(step.id)!.error!.code" />
              <div v-if="reports.get(step.id)!.error!.code === 'doomed'" class="offers">
                <button class="btn small" @click.stop="doc.retry()">Try again</button>
              </div>
              <div v-if="reports.get(step.id)!.error!.offers?.length" class="offers">
                <button v-for="o in reports.get(step.id)!.error!.offers" :key="o.label" class="btn small" @click.stop="retry(o, step)">
                  {{ o.label }}
                </button>
              </div>
            </div>
          </div>
          <p v-for="note in reports.get(step.id)?.notes ?? []" :key="note.text" class="note wide" :class="{ plain: PLAIN.has(note.code) }">
            <Icon v-if="!PLAIN.has(note.code)" name="alert" :size="14" /> {{ note.text }}
          </p>
          <p
            v-if="step.mended?.length"
            class="note wide mended"
            data-testid="mended"
            @click.stop
            @mouseenter="sees.looked = step.mended.map((m) => m.now as unknown as StoredPick)"
            @mouseleave="sees.looked = []"
          >
            <Icon name="alert" :size="14" />
            <span
              >{{ step.mended.length === 1 ? 'A lost pick was' : `${step.mended.length} lost picks were` }} replaced ({{
                Math.round(100 * Math.min(...step.mended.map((m) => m.score)))
              }}
              % alike). Rest here to see.</span
            >
            <button class="btn small" @click.stop="attempt(step, { do: 'seen_mends', id: step.id })">Seen</button>
          </p>
          <div v-if="blocked?.step === step.id" class="trouble wide" @click.stop>
            <Icon name="cross" :size="15" />
            <div>
              {{ blocked.text }}
              <div class="offers">
                <button v-if="blocked.text.includes('is needed by')" class="btn small" @click="removeWithDependents(step.id)">
                  Delete them too
                </button>
                <button class="btn small" @click="blocked = null">Leave it</button>
              </div>
            </div>
          </div>
        </article>
        <button v-if="marker === index + 1 && marker < steps.length" class="marker" title="Build everything" @click="setMarker(null)">
          <span>built to here</span>
        </button>
        <button
          v-else-if="index < steps.length - 1"
          class="gap"
          title="Build to here"
          :aria-label="`Build to after ${step.name}`"
          @click="setMarker(index + 1)"
        />
      </template>
      <StepEditor v-if="edited.open && !edited.id" :number="edited.index + 1" />
    </div>
    <BodyRows />
  </aside>
</template>

<style scoped>
.top {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 9px 12px 7px;
}
.top h2 {
  font-size: 14px;
  flex: 1;
}
.total {
  color: var(--ink-2);
  white-space: nowrap;
}
.cards {
  flex: 1;
  min-height: 0;
  padding: 2px 10px 16px;
}
.empty {
  color: var(--ink-2);
  padding: 18px 10px;
  line-height: 1.5;
}
.card {
  display: grid;
  grid-template-columns: 18px 20px minmax(0, 1fr) auto 22px;
  align-items: center;
  column-gap: 6px;
  row-gap: 1px;
  padding: 6px 4px 6px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--panel);
  cursor: pointer;
}
.card:hover {
  border-color: color-mix(in srgb, var(--accent) 55%, var(--line));
}
.card {
  position: relative;
  touch-action: none;
  user-select: none;
}
.card.carried {
  opacity: 0.6;
  border-style: dashed;
  cursor: grabbing;
}
.card.before::before,
.card.after::after {
  content: '';
  position: absolute;
  left: -4px;
  right: -4px;
  height: 3px;
  border-radius: 2px;
  background: var(--accent);
}
.card.before::before {
  top: -7px;
}
.card.after::after {
  bottom: -7px;
}
.card.failed {
  border-color: var(--bad);
}
.card.asleep,
.card.waiting {
  border-style: dashed;
  opacity: 0.55;
  background: transparent;
}
.n {
  color: var(--ink-3);
  font-size: 12px;
}
.name {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name-field {
  width: 100%;
}
.numbers {
  display: flex;
  gap: 5px;
  white-space: nowrap;
}
.number {
  padding: 0 5px;
  border-radius: 4px;
}
.number:hover {
  background: var(--accent-soft);
  color: var(--accent);
}
.inline {
  width: 110px;
}
.more {
  width: 22px;
  height: 22px;
  color: var(--ink-3);
}
.mass {
  grid-column: 3;
  color: var(--ink-3);
  font-size: 12px;
}
.note.plain {
  color: var(--ink-3);
}
.change {
  grid-column: 4;
  text-align: right;
  font-size: 12px;
  color: var(--up);
  padding-right: 5px;
}
.change.less {
  color: var(--down);
}
.wide,
.target {
  grid-column: 1 / -1;
  margin: 4px 4px 2px 0;
}
.target {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  color: var(--ink-2);
}
.target .field {
  width: 132px;
}
.target.miss {
  color: var(--bad);
  font-weight: 600;
}
.note {
  display: flex;
  gap: 6px;
  font-size: 12px;
  color: var(--loose);
}
.gap {
  display: block;
  width: 100%;
  height: 8px;
  position: relative;
}
.gap:hover::after,
.gap:focus-visible::after {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 3px;
  height: 2px;
  background: var(--accent);
  border-radius: 1px;
}
.marker {
  display: grid;
  place-items: center;
  width: 100%;
  height: 24px;
  position: relative;
}
.marker::before {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  top: 11px;
  height: 2px;
  background: var(--ink);
}
.marker span {
  position: relative;
  background: var(--ink);
  color: var(--panel);
  font-size: 11px;
  padding: 1px 9px;
  border-radius: 9px;
}
</style>
