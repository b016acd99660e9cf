<script setup lang="ts">
// Mass properties of the part or chosen bodies: centre, inertia about any frame, principal axes.
import { computed, onUnmounted, ref, watch } from 'vue'
import { call, Refusal, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { trim } from '../ui/format'
import SidePanel from '../ui/SidePanel.vue'
import { useAssembly } from '../assembly/store'
import Icon from '../ui/Icon.vue'
import { useMeasuring } from './store'
import { grams, number, units } from '../ui/units'

defineEmits<{ shut: [] }>()
/** In an assembly the components weighed (none: all) are those chosen in the picture. */
const props = defineProps<{ components?: string[] }>()
const measuring = useMeasuring()
const doc = useDocument()
const found = ref<Schemas['MassView'] | null>(null)
const trouble = ref('')
const chosen = ref<string[]>([])
const frame = ref<string | null>(null)
const unit = ref<'own' | 'g' | 'kg'>('own')
const digits = ref(3)
const bodies = computed(() => doc.build?.bodies ?? [])
const positions = computed(() => doc.assembly?.positions ?? [])
const position = ref<string | null>(null)
const frames = computed(() => (doc.part?.steps ?? []).filter((s) => ['frame', 'port', 'plane', 'point', 'axis'].includes(s.kind)))

watch(
  [chosen, frame, position, () => props.components, () => [doc.build, doc.view?.revision]],
  async () => {
    const id = doc.view?.id
    if (!id) return
    trouble.value = ''
    try {
      found.value = await call('post', '/api/documents/{id}/weigh', {
        path: { id },
        body: { bodies: props.components ?? chosen.value, frame: frame.value, position: position.value },
      })
      measuring.centre = found.value.centre
    } catch (error) {
      found.value = null
      trouble.value = error instanceof Refusal ? error.report.text : String(error)
    }
  },
  { deep: true, immediate: true },
)
onUnmounted(() => (measuring.centre = null))
/** The centre of gravity as a point that later steps can use and that follows the part. */
async function asPoint(): Promise<void> {
  if (await doc.edit([{ do: 'add_step', kind: 'point', name: 'Centre of gravity', fields: { form: 'mass', bodies: chosen.value } }]))
    doc.say('The centre of gravity is a point of the part now', 'good')
}
/** g mm² in the units chosen: kg m² have nine powers of ten less. */
const spin = (v: number): string =>
  unit.value === 'kg' ? (v * 1e-9).toExponential(digits.value + 1) : trim(v * heavy.value * long.value ** 2, digits.value)
/** What a gram and a millimetre are in the units chosen. */
const heavy = computed(() => (unit.value === 'own' ? grams(1) : unit.value === 'kg' ? 1e-3 : 1))
const long = computed(() => (unit.value === 'own' ? number(1) : 1))
const words = computed(() => (unit.value === 'own' ? [units.value.mass, units.value.length] : [unit.value, 'mm']))
const rows = computed<[string, string][]>(() => {
  const m = found.value
  if (!m) return []
  const d = digits.value
  return [
    ['Volume', `${trim(m.volume * long.value ** 3, d)} ${words.value[1]}³`],
    ['Surface', `${trim(m.area * long.value ** 2, d)} ${words.value[1]}²`],
    ['Mass', `${trim(m.mass * heavy.value, d + 2)} ${words.value[0]}`],
    ['Centre of gravity', m.centre.map((v) => trim(v * long.value, d)).join(', ') + ` ${words.value[1]}`],
    ['Radii of gyration', m.moments.map((v) => trim(Math.sqrt(Math.max(v, 0) / m.mass) * long.value, d)).join(', ') + ` ${words.value[1]}`],
  ]
})
const spins = computed(() => (unit.value === 'kg' ? 'kg m²' : `${words.value[0]} ${words.value[1]}²`))
const text = computed(() =>
  found.value
    ? [
        ...rows.value.map(([a, b]) => `${a}\t${b}`),
        `Inertia about ${frame.value ? frames.value.find((f) => f.id === frame.value)?.name : 'the origin'} (${spins.value})`,
        ...found.value.about.map((r) => r.map(spin).join('\t')),
        `Principal moments (${spins.value})\t${found.value.moments.map(spin).join('\t')}`,
        ...found.value.axes.map((a, i) => `Axis ${i + 1}\t${a.map((v) => trim(v, 6)).join('\t')}`),
      ].join('\n')
    : '',
)
// Of an assembly: numbers kept under names that formulas use.
const WHAT: Record<string, string> = {
  mass: 'Mass', x: 'Centre, X', y: 'Centre, Y', z: 'Centre, Z', xx: 'Moment about X', yy: 'Moment about Y', zz: 'Moment about Z',
} // prettier-ignore
const what = ref('mass')
const called = ref('')
const asm = useAssembly()
const kept = computed(() => (props.components ? (asm.built?.weighed ?? []) : []))
async function keepNumber(): Promise<void> {
  const name = called.value.trim()
  if (!name) return
  const command = { do: 'keep_weighed', name, what: what.value, components: props.components, position: position.value }
  if (await doc.edit([command], `weigh ${name}`)) called.value = ''
}
function toggle(id: string): void {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter((b) => b !== id) : [...chosen.value, id]
}
function copy(): void {
  void navigator.clipboard?.writeText(text.value)
}
</script>

<template>
  <SidePanel title="Mass properties" testid="mass-panel" @shut="$emit('shut')">
    <div class="mass" data-testid="mass-card">
      <div v-if="bodies.length > 1" class="chips">
        <button v-for="b in bodies" :key="b.id" class="chip" :class="{ on: chosen.includes(b.id) }" @click="toggle(b.id)">
          {{ b.name }}</button><small v-if="!chosen.length" class="muted">all bodies</small>
      </div>
      <p v-if="components" class="muted" data-testid="mass-of">
        {{ components.length ? `${components.length} chosen ${components.length === 1 ? 'component' : 'components'}` : 'all components' }}
      </p>
      <div class="tools">
        <label v-if="positions.length"
          >As
          <select v-model="position" class="field" data-testid="mass-position">
            <option :value="null">it stands</option>
            <option v-for="p in positions" :key="p.id" :value="p.id">in {{ p.name }}</option>
          </select></label
        >
        <label v-if="!components"
          >About
          <select v-model="frame" class="field">
            <option :value="null">the origin</option>
            <option v-for="f in frames" :key="f.id" :value="f.id">{{ f.name }}</option>
          </select></label
        >
        <label
          >In
          <select v-model="unit" class="field">
            <option value="own">{{ units.mass }}, {{ units.length }}</option>
            <option v-if="units.mass !== 'g' || units.length !== 'mm'" value="g">g, mm</option>
            <option value="kg">kg, m</option>
          </select></label
        >
        <label
          >Digits
          <select v-model.number="digits" class="field">
            <option v-for="d in [1, 2, 3, 4, 6]" :key="d" :value="d">{{ d }}</option>
          </select></label
        >
      </div>
      <div v-if="components" class="numbers" data-testid="weighed">
        <form @submit.prevent="keepNumber">
          <select v-model="what" class="field" aria-label="What is used in formulas" data-testid="weighed-what">
            <option v-for="(word, key) in WHAT" :key="key" :value="key">{{ word }}</option>
          </select>
          <input
            v-model="called"
            class="field"
            placeholder="name in formulas"
            aria-label="Its name in formulas"
            spellcheck="false"
            data-testid="weighed-name"
            @keydown.stop
          />
          <button class="btn small" :disabled="!called.trim()" data-testid="keep-weighed">Keep</button>
        </form>
        <div v-for="w in kept" :key="w.id" class="kept" :data-testid="`weighed-${w.name}`">
          <b>{{ w.name }}</b>
          <span class="muted">{{ WHAT[w.what] }} of {{ w.components.length || 'all' }}</span>
          <span :class="{ trouble: w.trouble }">{{ w.trouble || w.shown }}</span>
          <button class="icon-btn" :aria-label="`Give up ${w.name}`" @click="doc.edit([{ do: 'remove_weighed', id: w.id }])">
            <Icon name="bin" :size="13" />
          </button>
        </div>
      </div>
      <p v-if="trouble" class="trouble">{{ trouble }}</p>
      <template v-else-if="found">
        <dl>
          <template v-for="[word, value] in rows" :key="word"
            ><dt>{{ word }}</dt>
            <dd :data-testid="`mass-${word}`">{{ value }}</dd></template
          >
        </dl>
        <h4>
          Inertia about {{ frame ? frames.find((f) => f.id === frame)?.name : 'the origin' }}
          <small class="muted">{{ spins }}, off the diagonal the negative products</small>
        </h4>
        <table>
          <tr v-for="(r, i) in found.about" :key="i">
            <th>{{ 'XYZ'[i] }}</th>
            <td v-for="(v, k) in r" :key="k">{{ spin(v) }}</td>
          </tr>
        </table>
        <h4>Principal moments and axes <small class="muted">through the centre of gravity</small></h4>
        <table>
          <tr v-for="(m, i) in found.moments" :key="i">
            <th>{{ i + 1 }}</th>
            <td>{{ spin(m) }}</td>
            <td class="axis">{{ found.axes[i].map((v) => trim(v, 4)).join(', ') }}</td>
          </tr>
        </table>
      </template>
      <footer>
        <button
          v-if="!components"
          class="btn small"
          :disabled="!found"
          data-testid="mass-point"
          title="A step that follows the part"
          @click="asPoint"
        >
          Centre as a point</button
        ><button class="btn small" :disabled="!found" data-testid="mass-copy" @click="copy">Copy as text</button>
      </footer>
    </div>
  </SidePanel>
</template>

<style scoped>
.numbers form,
.kept {
  display: flex;
  align-items: center;
  gap: 6px;
  margin: 4px 0;
  font-size: 12px;
}
.numbers .field {
  flex: 1;
  min-width: 0;
}
.kept span:nth-of-type(2) {
  margin-left: auto;
}
.mass {
  display: grid;
  gap: 9px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
}
.tools label {
  display: flex;
  gap: 6px;
  align-items: center;
  color: var(--ink-2);
}
.chips {
  flex-wrap: wrap;
  gap: 3px;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 14px;
  margin: 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  text-align: right;
  font-weight: 600;
}
h4 {
  margin: 4px 0 0;
  font-weight: 600;
  font-size: 13px;
}
table {
  width: 100%;
  font-size: 12px;
  border-collapse: collapse;
}
th {
  width: 22px;
  color: var(--ink-3);
  font-weight: 500;
  text-align: left;
}
td {
  text-align: right;
  padding: 2px 4px;
}
.axis {
  color: var(--ink-2);
}
footer {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
p {
  margin: 0;
}
</style>
