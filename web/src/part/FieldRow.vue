<script setup lang="ts">
// One field of a step, by its declared type.
import { computed, ref, watch } from 'vue'
import { call, type Drawing, type FieldView, type Schemas, type Step } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import Icon from '../ui/Icon.vue'
import { useDraft } from './draft'
import SizedRows from './SizedRows.vue'
import SpotRows from './SpotRows.vue'
import VariedRows from './VariedRows.vue'
import { shown as shownAs, typed, unitOf } from '../ui/units'

const props = defineProps<{ field: FieldView }>()
const draft = useDraft()
const doc = useDocument()
const registries = useRegistries()
const value = computed(() => draft.fields[props.field.name])
const text = ref(String(value.value ?? ''))
const editing = ref(false)
watch(value, (v) => {
  // What is being typed is left alone; offers and other fields change it otherwise.
  if (!editing.value) text.value = String(v ?? '')
})
function left(): void {
  editing.value = false
  text.value = String(value.value ?? '')
}

function onType(): void {
  draft.set(props.field.name, typed(text.value, props.field.dimension))
}
const shown = computed(() => {
  const v = draft.report?.values[props.field.name]
  if (v === undefined) return ''
  const plain = /^-?(\d+ )?[\d./]+( \w+)?$/.test(text.value.trim())
  const own = text.value.trim().split(' ').at(-1)
  // What was typed in the field's own unit need not be said again.
  return plain && (own === unitOf(props.field.dimension) || !/^[a-z]+$/i.test(own ?? '')) ? '' : `= ${shownAs(props.field.dimension, v)}`
})
const bad = computed(() => draft.error?.where?.includes(`field:${props.field.name}`))

const sketches = computed<Step[]>(() => (doc.part?.steps ?? []).filter((s) => s.kind === 'sketch'))
const earlier = computed(() => (doc.part?.steps ?? []).slice(0, index.value).filter((s) => s.kind === 'sketch'))
const list = computed(() => (Array.isArray(value.value) ? (value.value as unknown[]) : []))
/** The words of a choice, with the reference steps that may be chosen too. */
const options = computed<Record<string, string>>(() => {
  const found: Record<string, string> = { ...props.field.words }
  const forms = props.field.datums ?? []
  for (const s of before.value) if (forms.includes(report(s.id)?.datum?.form ?? '')) found[`step:${s.id}`] = s.name
  return found
})
const before = computed<Step[]>(() => (doc.part?.steps ?? []).slice(0, index.value))
const report = (id: string) => doc.build?.steps.find((s) => s.id === id)
/** Words that would not fit side by side go into a list. */
const many = computed(() => Object.values(options.value).join('').length + 4 * Object.keys(options.value).length > 33)
/** Sets whose members fit the field, to be taken as one pick. */
const sets = computed<Step[]>(() => {
  if (props.field.type === 'bodies') return before.value.filter((s) => report(s.id)?.gathers === 'body')
  if (props.field.type !== 'picks') return []
  return before.value.filter((s) =>
    [props.field.accepts, 'any'].some(
      (a) =>
        report(s.id)?.gathers !== 'body' &&
        (a === report(s.id)?.gathers || (a === 'any' && props.field.accepts === 'any' && report(s.id)?.gathers)),
    ),
  )
})
const hasSet = (id: string): boolean =>
  (list.value as { kind?: string; name?: string[] }[]).some((p) => p.kind === 'set' && p.name?.[0] === id)
function toggleSet(id: string): void {
  const rest = (list.value as { kind?: string; name?: string[] }[]).filter((p) => !(p.kind === 'set' && p.name?.[0] === id))
  draft.set(props.field.name, hasSet(id) ? rest : [...rest, { body: '', kind: 'set', name: [id] }])
}
/** Lines of the sketch something can turn about: its axes, its aids, its straight lines. */
const axes = computed<[string, string][]>(() => {
  const step = doc.part?.steps.find((s) => s.id === draft.fields[props.field.of ?? 'sketch'])
  const lines = ((step?.fields as { drawing?: Drawing } | undefined)?.drawing?.entities ?? []).filter((e) => e.type === 'line')
  return [
    ['y_axis', 'Y axis of the sketch'],
    ['x_axis', 'X axis of the sketch'],
    ...lines.map((e): [string, string] => [e.id, `${e.construction ? 'aid' : 'line'} ${e.id}`]),
  ]
})
const focused = computed(() => draft.focus === props.field.name)
const focusable = computed(() => ['picks', 'regions', 'points', 'curves', 'spots'].includes(props.field.type))
/** Words of the two ways to choose: one by one, or what hangs together. */
const wholes = computed(
  () => (({ regions: ['One by one', 'Inside outlines'], curves: ['One by one', 'Chains'] }) as Record<string, string[]>)[props.field.type],
)
const tips = [
  'Each region or curve by itself',
  'A click takes everything inside an outline, whatever is drawn in it, or all curves that meet end to end',
]
function grasp(whole: boolean): void {
  draft.whole = whole
  draft.focus = props.field.name
}
const words = computed(() => {
  const n = list.value.length
  if (props.field.type === 'picks')
    return n ? `${n} ${props.field.accepts === 'any' ? 'pick' : props.field.accepts}${n === 1 ? '' : 's'}` : 'none yet'
  if (props.field.type === 'spots') return n ? `${n} place${n === 1 ? '' : 's'}` : 'none yet'
  if (props.field.type === 'curves') return n ? `${n} curve${n === 1 ? '' : 's'}` : 'all curves'
  if (props.field.type === 'regions') return n ? `${n} region${n === 1 ? '' : 's'}` : 'all but holes'
  return n ? `${n} point${n === 1 ? '' : 's'}` : 'all loose points'
})
function clear(): void {
  draft.set(props.field.name, [])
}
/** The bodies there are when the step begins. */
const standing = computed(() => (draft.before ?? doc.build)?.bodies ?? [])
const bodies = computed(() => standing.value.map((b) => b.id))
const index = computed(() =>
  draft.id ? (doc.part?.steps ?? []).findIndex((s) => s.id === draft.id) : (doc.part?.marker ?? doc.part?.steps.length ?? 0),
)
/** Earlier steps that did something with a shape of their own. */
const copyable = computed(() =>
  before.value.filter(
    (s) =>
      registries.kind(s.kind)?.copyable ||
      (props.field.any && !['sketch', 'set', 'plane', 'axis', 'point', 'frame', 'port'].includes(s.kind)),
  ),
)
function numbers(event: Event): void {
  const found = (event.target as HTMLInputElement).value
    .split(/[^\d]+/)
    .filter(Boolean)
    .map(Number)
  draft.set(
    props.field.name,
    [...new Set(found)].sort((a, b) => a - b),
  )
}
/** Other parts of the project, and the bodies of the one chosen. */
const parts = ref<Schemas['DocumentLine'][]>([])
const otherBodies = ref<Schemas['BodyView'][]>([])
if (props.field.type === 'part')
  void call('get', '/api/shelf').then((shelf) => {
    parts.value = (shelf.projects.find((p) => p.id === doc.view?.project)?.documents ?? []).filter(
      (d) => d.kind === 'part' && d.id !== doc.view?.id,
    )
  }, doc.refused)
if (props.field.type === 'part_body')
  watch(
    () => draft.fields[props.field.of ?? ''] as string | undefined,
    async (id) => {
      otherBodies.value = []
      if (!id) return
      try {
        otherBodies.value = (await call('get', '/api/documents/{id}/build', { path: { id }, query: {} })).bodies
      } catch (error) {
        doc.refused(error)
      }
    },
    { immediate: true },
  )
const bodyName = (id: string): string => standing.value.find((b) => b.id === id)?.name ?? 'a body that is gone'
/** Chosen ones that are not there any more. */
const lost = computed(() =>
  props.field.type === 'bodies'
    ? (list.value as string[]).filter((id) => !bodies.value.includes(id) && !sets.value.some((s) => s.id === id))
    : [],
)
function toggleBody(id: string): void {
  const now = list.value as string[]
  draft.set(props.field.name, now.includes(id) ? now.filter((b) => b !== id) : [...now, id])
}
</script>

<template>
  <div v-if="field.type !== 'bodies' || bodies.length > 1" class="row">
    <label :for="`f-${field.name}`">{{ field.label }}</label>
    <span v-if="field.type === 'quantity'" class="value">
      <input
        :id="`f-${field.name}`"
        v-model="text"
        class="field formula"
        :class="{ bad }"
        spellcheck="false"
        autocomplete="off"
        :data-testid="`field-${field.name}`"
        @focus="editing = true"
        @blur="left"
        @input="onType"
      />
      <small v-if="shown" class="muted">{{ shown }}</small>
    </span>
    <select
      v-else-if="field.type === 'choice' && many"
      :id="`f-${field.name}`"
      class="field"
      :value="value"
      :data-testid="`choose-${field.name}`"
      @change="draft.set(field.name, ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="(word, key) in options" :key="key" :value="key">{{ word }}</option>
    </select>
    <select
      v-else-if="field.type === 'axis'"
      :id="`f-${field.name}`"
      class="field"
      :value="value"
      :data-testid="`choose-${field.name}`"
      @change="draft.set(field.name, ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="[id, word] in axes" :key="id" :value="id">{{ word }}</option>
    </select>
    <span v-else-if="field.type === 'choice'" class="segmented" role="group">
      <button
        v-for="(word, key) in options"
        :key="key"
        :class="{ on: value === key }"
        :data-testid="`choice-${field.name}-${key}`"
        @click="draft.set(field.name, key)"
      >
        {{ word }}
      </button>
    </span>
    <label v-else-if="field.type === 'toggle'" class="toggle"
      ><input :id="`f-${field.name}`" type="checkbox" :checked="Boolean(value)" @change="draft.set(field.name, !value)"
    /></label>
    <select
      v-else-if="field.type === 'sketch'"
      :id="`f-${field.name}`"
      class="field"
      :value="value"
      @change="draft.set(field.name, ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="s in sketches" :key="s.id" :value="s.id">{{ s.name }}</option>
    </select>
    <span v-else-if="focusable" class="picks">
      <button
        class="pickbox"
        :class="{ on: focused }"
        :title="field.hint ?? 'Click in the picture to choose'"
        :data-testid="`picks-${field.name}`"
        @click="draft.focus = focused ? null : field.name"
      >
        {{ words }}
      </button>
      <button
        v-for="s in sets"
        :key="s.id"
        class="chip"
        :class="{ on: hasSet(s.id) }"
        :title="`All that ${s.name} gathers`"
        :data-testid="`set-${field.name}-${s.id}`"
        @click="toggleSet(s.id)"
      >
        {{ s.name }}
      </button>
      <button v-if="list.length" class="icon-btn" title="Clear" aria-label="Clear" @click="clear">
        <Icon name="close" :size="14" />
      </button>
      <span v-if="wholes" class="segmented" role="group" :aria-label="`How ${field.label} are chosen`"
        ><button
          v-for="(word, k) in wholes"
          :key="word"
          :class="{ on: draft.whole === Boolean(k) }"
          :title="tips[k]"
          :data-testid="`${k ? 'whole' : 'single'}-${field.name}`"
          @click="grasp(Boolean(k))"
        >
          {{ word }}
        </button></span
      >
    </span>
    <span v-else-if="field.type === 'steps'" class="bodies" :data-testid="`steps-${field.name}`">
      <button v-for="s in copyable" :key="s.id" class="chip" :class="{ on: list.includes(s.id) }" @click="toggleBody(s.id)">
        {{ s.name }}
      </button>
      <small v-if="!copyable.length" class="muted">none before this one</small>
    </span>
    <span v-else-if="field.type === 'sketches'" class="bodies" :data-testid="`sketches-${field.name}`" :title="field.hint ?? ''">
      <button v-for="s in earlier" :key="s.id" class="chip" :class="{ on: list.includes(s.id) }" @click="toggleBody(s.id)">
        <i v-if="list.includes(s.id)">{{ list.indexOf(s.id) + 1 }}</i>{{ s.name }}
      </button>
    </span>
    <input
      v-else-if="field.type === 'name'"
      :id="`f-${field.name}`"
      class="field formula"
      :class="{ bad }"
      :value="value"
      spellcheck="false"
      autocomplete="off"
      :data-testid="`field-${field.name}`"
      @input="draft.set(field.name, ($event.target as HTMLInputElement).value)"
    />
    <select
      v-else-if="field.type === 'part'"
      :id="`f-${field.name}`"
      class="field"
      :value="value ?? ''"
      data-testid="choose-part"
      @change="draft.set(field.name, ($event.target as HTMLSelectElement).value)"
    >
      <option value="" disabled>choose</option>
      <option v-for="p in parts" :key="p.id" :value="p.id">{{ p.name }}</option>
    </select>
    <select
      v-else-if="field.type === 'part_body'"
      :id="`f-${field.name}`"
      class="field"
      :value="value ?? ''"
      @change="draft.set(field.name, ($event.target as HTMLSelectElement).value)"
    >
      <option value="">all of them</option>
      <option v-for="b in otherBodies" :key="b.id" :value="b.id">{{ b.name }}</option>
    </select>
    <SizedRows v-else-if="field.type === 'sized'" :field="field" />
    <VariedRows v-else-if="field.type === 'varied'" :name="field.name" />
    <span v-else-if="field.type === 'numbers'" class="picks">
      <input
        :id="`f-${field.name}`"
        class="field short"
        :value="list.join(', ')"
        placeholder="none"
        spellcheck="false"
        :data-testid="`field-${field.name}`"
        @change="numbers"
      />
      <button
        v-if="field.marks"
        class="pickbox"
        :class="{ on: focused }"
        title="Click copies in the picture to leave them out"
        :data-testid="`picks-${field.name}`"
        @click="draft.focus = focused ? null : field.name"
      >
        Click them
      </button>
    </span>
    <span v-else-if="field.type === 'bodies'" class="bodies">
      <button v-for="id in bodies" :key="id" class="chip" :class="{ on: list.includes(id) }" @click="toggleBody(id)">
        {{ bodyName(id) }}
      </button>
      <button
        v-for="id in lost"
        :key="id"
        class="chip on gone"
        title="It is not there any more: click to leave it out"
        @click="toggleBody(id)"
      >
        {{ bodyName(id) }}
      </button>
      <button
        v-for="s in sets"
        :key="s.id"
        class="chip"
        :class="{ on: list.includes(s.id) }"
        :title="`All bodies that ${s.name} gathers`"
        :data-testid="`set-${field.name}-${s.id}`"
        @click="toggleBody(s.id)"
      >
        {{ s.name }}
      </button>
      <button
        class="pickbox"
        :class="{ on: focused }"
        title="Click bodies in the picture"
        :data-testid="`picks-${field.name}`"
        @click="draft.focus = focused ? null : field.name"
      >
        Click them
      </button>
      <small v-if="!list.length" class="muted">{{ field.free ? 'the first' : 'all' }}</small>
    </span>
  </div>
  <SpotRows v-if="field.type === 'spots' && list.length" :name="field.name" />
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-height: 28px;
}
.row > label:first-child {
  flex: 0 0 auto;
  max-width: 124px;
  color: var(--ink-2);
}
.value {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  justify-content: flex-end;
  flex: 0 1 196px;
}
.formula {
  width: 100%;
  max-width: 158px;
}
.short {
  width: 84px;
}
.value small {
  white-space: nowrap;
}
.toggle input {
  width: 16px;
  height: 16px;
  accent-color: var(--accent);
}
select.field {
  max-width: 190px;
}
.picks {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  justify-content: flex-end;
}
i {
  font-style: normal;
  font-size: 11px;
  font-weight: 600;
  margin-right: 5px;
  color: var(--pick);
}
.gone {
  text-decoration: line-through;
}
.bodies .chip {
  border: 1px solid var(--line-2);
}
.bodies {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  align-items: center;
  justify-content: flex-end;
}
</style>
