<script setup lang="ts">
// Blanks of this part laid on stock sheets: how many of each, on what, and what comes of it.
import { computed, reactive, watch } from 'vue'
import { useDocument } from '../document/store'
import { useJobs } from '../jobs/store'
import { saveBlob } from '../ui/files'
import { rounded } from '../ui/units'
import LengthInput from '../ui/LengthInput.vue'
import { type Flat, laid, type Nested, path } from './flat'

const props = defineProps<{ flat: Flat }>()
const doc = useDocument()
const jobs = useJobs()
const counts = reactive<Record<string, number>>({})
const stock = reactive({ width: 1500, height: 750, margin: 10, gap: 3 })
const turns = defineModel<string>('turns', { default: 'quarters' })
const TURNS = [
  { value: 'fixed', label: 'as it lies' },
  { value: 'halves', label: 'by 180°' },
  { value: 'quarters', label: 'by 90°' },
  { value: 'free', label: 'by 15°' },
]
watch(
  () => props.flat.sheets,
  (sheets) => sheets.forEach((s) => (counts[s.id] ??= s.id === props.flat.body ? 1 : 0)),
  { immediate: true },
)
const job = computed(() => jobs.newest('nest'))
const busy = computed(() => job.value?.state === 'queued' || job.value?.state === 'running')
const found = computed(() => (job.value?.state === 'done' ? (job.value.result as unknown as Nested) : null))
const old = computed(() => Boolean(job.value && jobs.isOld(job.value.id)))
const wanted = computed(() => props.flat.sheets.reduce((n, s) => n + (counts[s.id] || 0), 0))
function run(): void {
  const chosen = Object.fromEntries(props.flat.sheets.map((s) => [s.id, counts[s.id] || 0]))
  void jobs.start('nest', { counts: chosen, ...stock, turns: turns.value }).catch(doc.refused)
}
function save(): void {
  if (found.value) saveBlob(new Blob([found.value.dxf], { type: 'image/vnd.dxf' }), `${doc.view?.document.name ?? 'Part'} nest.dxf`)
}
const percent = (share: number): string => `${rounded(100 * share, 1)} %`
</script>

<template>
  <div class="nest" data-testid="nest">
    <div class="asked">
      <label v-for="s in flat.sheets" :key="s.id" class="count">
        {{ s.name }}
        <input
          v-model.number="counts[s.id]"
          type="number"
          min="0"
          max="500"
          :aria-label="`How many of ${s.name}`"
          data-testid="nest-count"
        />
      </label>
      <label
        >stock <LengthInput v-model="stock.width" label="Width of the stock sheet" /> ×
        <LengthInput v-model="stock.height" label="Height of the stock sheet"
      /></label>
      <label>rim <LengthInput v-model="stock.margin" label="Left free along the rims" /></label>
      <label>between <LengthInput v-model="stock.gap" label="Left free between blanks" /></label>
      <label v-if="flat.grain === null">
        turned
        <select v-model="turns" aria-label="How freely blanks are turned">
          <option v-for="t in TURNS" :key="t.value" :value="t.value">{{ t.label }}</option>
        </select>
      </label>
      <span v-else class="muted">grain along the stock</span>
      <button v-if="busy" class="btn small" @click="jobs.cancel(job!.id)">Stop</button>
      <button v-else class="btn small main" :disabled="!wanted" data-testid="nest-run" @click="run">Lay out</button>
      <button v-if="found" class="btn small" data-testid="nest-dxf" @click="save">DXF</button>
    </div>
    <p v-if="busy" class="muted">laying blanks out …</p>
    <p v-else-if="job?.state === 'failed'" class="trouble" role="alert">{{ job.error?.text }}</p>
    <p v-else-if="!found" class="muted">How many of each blank go on a stock sheet, and what is left.</p>
    <template v-else>
      <p v-if="old" class="muted">The part changed since: lay it out again.</p>
      <div class="sheets">
        <figure v-for="(s, i) in found.sheets" :key="i" :data-testid="`nest-sheet`">
          <svg :viewBox="`-4 ${-found.size[1] - 4} ${found.size[0] + 8} ${found.size[1] + 8}`">
            <rect class="stock" x="0" :y="-found.size[1]" :width="found.size[0]" :height="found.size[1]" />
            <g v-for="(p, k) in s.pieces" :key="k" :transform="laid(p)">
              <path class="piece" :d="path(found.outlines[p.id])">
                <title>{{ found.names[p.id] }}</title>
              </path>
            </g>
          </svg>
          <figcaption>
            Sheet {{ i + 1 }}: {{ s.pieces.length }} {{ s.pieces.length === 1 ? 'blank' : 'blanks' }}, {{ percent(s.used) }} used
          </figcaption>
        </figure>
      </div>
    </template>
  </div>
</template>

<style scoped>
.nest {
  flex: none;
  max-height: 46%;
  overflow: auto;
  padding: 8px 12px 12px;
  border-top: 1px solid var(--line);
}
.asked {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
}
.asked label {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  color: var(--ink-2);
}
.count input {
  width: 56px;
}
p {
  margin: 8px 0 0;
}
.muted {
  color: var(--ink-3);
}
.trouble {
  color: var(--bad);
}
.sheets {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
  gap: 10px;
  margin-top: 10px;
}
figure {
  margin: 0;
}
figure svg {
  width: 100%;
  display: block;
}
figcaption {
  color: var(--ink-2);
  font-size: 12px;
}
.stock {
  fill: var(--panel);
  stroke: var(--line-2);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
.piece {
  fill: color-mix(in srgb, var(--accent) 16%, var(--panel));
  fill-rule: evenodd;
  stroke: var(--ink);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
</style>
