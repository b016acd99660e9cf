<script setup lang="ts">
// What parameters do: varied over ranges, which of them matters most here, values sought.
import { computed, ref, watch } from 'vue'
import { useDocument } from '../document/store'
import JobLine from '../jobs/JobLine.vue'
import { length, volume } from '../ui/units'
import { mass } from '../ui/format'
import PointCard from './PointCard.vue'
import RangeChart from './RangeChart.vue'
import RangeFields from './RangeFields.vue'
import { type Row, type Span, useExplore } from './store'

type Mode = 'vary' | 'sensitivity' | 'seek'
const MODES: { key: Mode; label: string; line: string }[] = [
  { key: 'vary', label: 'Range', line: 'One or two parameters over a range' },
  { key: 'sensitivity', label: 'What matters', line: 'Which parameter moves a quantity most around here' },
  { key: 'seek', label: 'Seek', line: 'Values with which a quantity is what it should be' },
]
const explore = useExplore()
const doc = useDocument()
const mode = ref<Mode>('vary')
const of = ref('mass')
const spans = ref<Span[]>([])
const sought = ref<Span[]>([])
const aim = ref<'reach' | 'least' | 'most'>('least')
const value = ref('')
const hold = ref(true)
const chosen = ref<Row | null>(null)
watch(
  () => [doc.view?.id, explore.parameters.map((p) => p.name).join()],
  () => {
    const first = explore.parameters[0]?.name
    const known = (s: Span): boolean => explore.parameters.some((p) => p.name === s.name)
    for (const list of [spans, sought]) {
      list.value = list.value.filter(known)
      if (!list.value.length && first) list.value = [explore.around(first)]
    }
    if (!explore.quantities.some((q) => q.key === of.value)) of.value = 'mass'
  },
  { immediate: true },
)
const job = computed(() => explore.job(mode.value))
const running = computed(() => job.value !== null && ['queued', 'running'].includes(job.value.state))
const result = computed(() => (job.value?.result ?? null) as Record<string, unknown> | null)
const rows = computed<Row[]>(() => (mode.value === 'vary' ? ((result.value?.rows as Row[] | undefined) ?? []) : []))
const label = computed(() => explore.quantities.find((q) => q.key === of.value)?.label ?? '')
watch([mode, rows], () => (chosen.value = rows.value.find((r) => JSON.stringify(r.set) === JSON.stringify(chosen.value?.set)) ?? null))

interface Slope {
  parameter: string
  of: string
  slope: number
  percent: number | null
  sides: number
}
const slopes = computed(() =>
  ((mode.value === 'sensitivity' ? (result.value?.slopes as Slope[] | undefined) : undefined) ?? []).filter((s) => s.of === of.value),
)
const most = computed(() => Math.max(...slopes.value.map((s) => Math.abs(s.percent ?? 0)), 1e-12))
const now = (name: string): string => ((result.value?.parameters as Record<string, { shown: string }> | undefined) ?? {})[name]?.shown ?? ''
/** How much of each quantity a millimetre of a parameter is, where that can be said. */
const EACH: Record<string, ((v: number) => string) | undefined> = {
  mass,
  volume: (v) => volume(v, true),
  size_x: length,
  size_y: length,
  size_z: length,
}
function slopeText(s: Slope): string {
  const share = s.percent === null ? '' : `${s.percent >= 0 ? '+' : '−'}${Math.abs(s.percent).toPrecision(3)} % for 1 %`
  const each = EACH[s.of]
  return each && now(s.parameter).endsWith(' mm') ? `${share}, ${s.slope < 0 ? '−' : ''}${each(Math.abs(s.slope))} for 1 mm` : share
}
const start = computed(() => (mode.value === 'seek' ? ((result.value?.start as Row | undefined) ?? null) : null))
const found = computed(() => (mode.value === 'seek' ? ((result.value?.found as Row | null | undefined) ?? null) : null))

function go(): Promise<void> {
  chosen.value = null
  if (mode.value === 'vary') return explore.start('vary', { ranges: spans.value })
  if (mode.value === 'sensitivity') return explore.start('sensitivity', {})
  return explore.start('seek', {
    of: of.value,
    aim: aim.value,
    value: aim.value === 'reach' ? value.value : '',
    ranges: sought.value,
    hold: hold.value,
  })
}
</script>

<template>
  <p v-if="!explore.parameters.length" class="muted">
    There is no parameter to vary yet: name a number under Parameters, and use it in a step.
  </p>
  <div v-else class="explore">
    <form class="ask" @submit.prevent="go">
      <span class="segmented" role="group">
        <button
          v-for="m in MODES"
          :key="m.key"
          type="button"
          :class="{ on: mode === m.key }"
          :title="m.line"
          :data-testid="`explore-${m.key}`"
          @click="mode = m.key"
        >
          {{ m.label }}
        </button>
      </span>
      <label v-if="mode === 'seek'" class="line">
        <select v-model="aim" class="field" aria-label="What for" data-testid="seek-aim">
          <option value="least">least</option>
          <option value="most">most</option>
          <option value="reach">reach</option>
        </select>
        <select v-model="of" class="field" aria-label="Quantity" data-testid="seek-of">
          <option v-for="q in explore.quantities" :key="q.key" :value="q.key">{{ q.label }}</option>
        </select>
        <input
          v-if="aim === 'reach'"
          v-model="value"
          class="field short"
          aria-label="Value to reach"
          placeholder="250 g"
          data-testid="seek-value"
          @keydown.stop
        />
      </label>
      <RangeFields v-if="mode === 'vary'" v-model="spans" :most="2" counted />
      <RangeFields v-if="mode === 'seek'" v-model="sought" :most="6" />
      <label v-if="mode === 'seek'" class="muted"><input v-model="hold" type="checkbox" /> all that must hold does</label>
      <p v-if="mode === 'sensitivity'" class="muted">Each parameter that stands for itself is changed by one percent to both sides.</p>
      <button class="btn small main" data-testid="explore-go" :disabled="running">
        {{ mode === 'seek' ? 'Seek' : mode === 'vary' ? 'Build the points' : 'Tell' }}
      </button>
    </form>
    <div class="found">
      <JobLine v-if="running && job" :job="job" :what="MODES.find((m) => m.key === mode)!.label" />
      <p v-else-if="job?.state === 'failed'" class="bad">{{ job.error?.text }}</p>
      <p v-if="job?.state === 'done' && explore.old(mode)" class="muted">Something has changed since: this is out of date.</p>
      <label v-if="mode !== 'seek' && (rows.length || slopes.length || result)" class="line"
        >What of it
        <select v-model="of" class="field" aria-label="Quantity" data-testid="explore-of">
          <option v-for="q in explore.quantities" :key="q.key" :value="q.key">{{ q.label }}</option>
        </select>
      </label>
      <div v-if="rows.length" class="beside">
        <RangeChart :rows="rows" :of="of" :label="label" :chosen="chosen" @choose="(r) => (chosen = r)" />
        <PointCard v-if="chosen" :row="chosen" title="This point" usable />
        <p v-else class="muted">Click a point to see it.</p>
      </div>
      <ul v-if="slopes.length" class="slopes" data-testid="slopes">
        <li v-for="s in slopes" :key="s.parameter">
          <span class="name"
            >{{ s.parameter }} <span class="muted num">{{ now(s.parameter) }}</span></span
          >
          <span class="bar"
            ><i :style="{ width: `${(100 * Math.abs(s.percent ?? 0)) / most}%` }" :class="{ down: (s.percent ?? 0) < 0 }"
          /></span>
          <span class="num">{{ slopeText(s) }}<span v-if="s.sides < 2" class="muted"> one side only</span></span>
        </li>
      </ul>
      <div v-if="start && !running" class="beside" data-testid="sought">
        <PointCard :row="start" title="As it is" />
        <PointCard v-if="found" :row="found" title="Found" usable />
        <p v-else class="bad">{{ result?.why }}</p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.explore {
  display: flex;
  gap: 22px;
  align-items: flex-start;
  padding: 6px 0;
}
.ask {
  display: flex;
  flex-direction: column;
  gap: 8px;
  flex: none;
  width: 378px;
  align-items: flex-start;
}
.ask p {
  margin: 0;
}
.line {
  display: flex;
  align-items: center;
  gap: 6px;
}
.short {
  width: 90px;
}
.found {
  flex: 1;
  min-width: 0;
}
.found > p {
  margin: 0 0 6px;
}
.beside {
  display: flex;
  flex-wrap: wrap;
  gap: 18px;
  align-items: flex-start;
  margin-top: 6px;
}
.bad {
  color: var(--bad);
}
.slopes {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
.slopes li {
  display: grid;
  grid-template-columns: 150px 160px 1fr;
  gap: 10px;
  align-items: center;
  padding: 2px 0;
}
.name {
  font-weight: 600;
}
.name .muted {
  font-weight: 400;
}
.bar {
  height: 10px;
  background: var(--chip);
  border-radius: 3px;
}
.bar i {
  display: block;
  height: 100%;
  border-radius: 3px;
  background: var(--accent);
}
.bar i.down {
  background: var(--loose);
}
</style>
