<script setup lang="ts">
// A joint driven through its range: where it clashes, how near things come, played.
import { computed, reactive, watch } from 'vue'
import { useDocument } from '../document/store'
import JobLine from '../jobs/JobLine.vue'
import { useJobs } from '../jobs/store'
import { trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { useAssembly } from './store'
import { fineLength, length, number, toMm, units } from '../ui/units'

interface Clash {
  a: string
  b: string
  name_a: string
  name_b: string
  faces_a: string[]
  faces_b: string[]
  value?: number
}
const emit = defineEmits<{ clash: [clash: Clash | null] }>()
const doc = useDocument()
const jobs = useJobs()
const asm = useAssembly()

const moving = computed(() => jobs.newest('motion'))
const under = (state: string | undefined): boolean => state === 'running' || state === 'queued'
const motion = computed(
  () =>
    (moving.value?.result ?? null) as {
      unit: string
      left: string[]
      values: number[]
      clearance: (number | null)[]
      frames: Record<string, { p: [number, number, number]; q: [number, number, number, number] }>[]
      clash: Clash | null
      stuck: number | null
      least: { clearance: number; value: number } | null
    } | null,
)
/** Bodies without a volume, which nothing was said of. */
const leftOut = (names: string[]): string =>
  `Not looked at, for ${names.length === 1 ? 'it is a surface' : 'they are surfaces'}: ${names.slice(0, 4).join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`
/** What can be driven: every coordinate of every joint that is awake. */
const drivable = computed(() =>
  (doc.assembly?.joints ?? [])
    .filter((j) => !j.asleep)
    .flatMap((j) => {
      const own = asm.built?.joints.find((x) => x.id === j.id)?.coordinates ?? []
      return own.map((c) => ({
        id: `${j.id} ${c.name}`,
        joint: j.id,
        name: own.length > 1 ? `${j.name}: ${c.label}` : j.name,
        coordinate: c,
      }))
    }),
)
const driven = computed(() => drivable.value.find((d) => d.id === wish.what))
/** From and to in degrees, or in the document's unit of length. */
const wish = reactive({ what: '', start: 0, end: 90, steps: 60 })
const slides = computed(() => driven.value?.coordinate.unit === 'mm')
watch(
  drivable,
  (list) => {
    const limited = list.find(({ coordinate: c }) => c.least !== null && c.most !== null) ?? list[0]
    if (!list.some((d) => d.id === wish.what)) wish.what = limited?.id ?? ''
  },
  { immediate: true },
)
watch(
  [() => wish.what, () => asm.built],
  () => {
    const j = driven.value?.coordinate
    if (!j) return
    const own = (v: number): number => Number((j.unit === 'mm' ? number(v) : v).toFixed(4))
    wish.start = own(Math.max(j.least ?? 0, 0))
    wish.end = own(j.most ?? (j.unit === 'deg' ? 360 : 100))
  },
  { immediate: true },
)
/** A place along the way, with its unit. */
const along = (v: number): string => (motion.value?.unit === 'mm' ? length(v) : `${trim(v, 2)}°`)
async function drive(): Promise<void> {
  emit('clash', null)
  const [start, end] = [wish.start, wish.end].map((v) => (slides.value ? toMm(v) : v))
  const { joint, coordinate } = driven.value!
  await jobs.start('motion', { joint, coordinate: coordinate.name, start, end, steps: wish.steps }).catch(doc.refused)
}
function at(i: number): void {
  const m = motion.value
  if (!m) return
  asm.show(m.frames[i])
  emit('clash', m.clash && i === m.values.length - 1 ? m.clash : null)
}
watch(
  () => moving.value?.state,
  (state, before) => {
    if (state === 'done' && before && motion.value) at(motion.value.values.length - 1)
  },
)
/** Clearance over the way, as a little curve. */
const curve = computed(() => {
  const m = motion.value
  if (!m || m.values.length < 2) return null
  const known = m.clearance.filter((c): c is number => c !== null)
  if (!known.length) return null
  const top = Math.max(...known, 1e-6)
  const [v0, v1] = [m.values[0], m.values.at(-1)!]
  const x = (v: number): number => 34 + ((v - v0) / (v1 - v0 || 1)) * 250
  const d = m.values
    .map((v, i) => (m.clearance[i] === null ? '' : `${i ? 'L' : 'M'}${x(v).toFixed(1)} ${(64 - (m.clearance[i]! / top) * 48).toFixed(1)}`))
    .join('')
  return { d: d.replace(/^L/, 'M'), top, v0, v1 }
})
</script>

<template>
  <section>
    <h3>Motion</h3>
    <form v-if="drivable.length" class="wish" @submit.prevent="drive">
      <select v-model="wish.what" class="field" aria-label="Joint">
        <option v-for="j in drivable" :key="j.id" :value="j.id">{{ j.name }}</option>
      </select>
      <input v-model.number="wish.start" class="field n" type="number" step="any" aria-label="From" /> to
      <input v-model.number="wish.end" class="field n" type="number" step="any" aria-label="To" data-testid="motion-end" />
      {{ slides ? units.length : '°' }}
      <button class="btn small main" data-testid="run-motion"><Icon name="play" :size="14" /> Drive</button>
    </form>
    <p v-else class="muted">A joint that leaves a motion can be driven through its range here.</p>
    <JobLine v-if="moving && under(moving.state)" :job="moving" what="Driving" />
    <p v-else-if="moving?.state === 'failed'" class="trouble">{{ moving.error?.text }}</p>
    <template v-else-if="motion">
      <p v-if="motion.clash" class="bad" data-testid="clash">
        <Icon name="cross" :size="15" /> Clash at {{ along(motion.clash.value ?? 0) }}: {{ motion.clash.name_a }} meets
        {{ motion.clash.name_b }}
        <span class="muted">({{ motion.clash.faces_a.length + motion.clash.faces_b.length }} faces)</span>
      </p>
      <p v-else-if="motion.stuck !== null" class="bad"><Icon name="cross" :size="15" /> It cannot move on from {{ along(motion.stuck) }}</p>
      <p v-else class="good">
        <Icon name="check" :size="15" /> No clash from {{ along(motion.values[0]) }} to {{ along(motion.values.at(-1) ?? 0) }};
        {{
          motion.least ? `least clearance ${fineLength(motion.least.clearance)} at ${along(motion.least.value)}` : 'nothing else comes near'
        }}
      </p>
      <p v-if="motion.left.length" class="left"><Icon name="alert" :size="15" /> {{ leftOut(motion.left) }}</p>
      <div class="play">
        <input
          type="range"
          min="0"
          :max="motion.values.length - 1"
          :value="motion.values.length - 1"
          aria-label="Position"
          @input="at(Number(($event.target as HTMLInputElement).value))"
        />
        <svg v-if="curve" viewBox="0 0 300 82" width="300" height="82" role="img" aria-label="Clearance over the motion">
          <path d="M34 12V64H288" class="axis" />
          <path :d="curve.d" class="curve" />
          <text x="30" y="20" text-anchor="end">{{ fineLength(curve.top) }}</text>
          <text x="30" y="66" text-anchor="end">0</text>
          <text x="34" y="79">{{ along(curve.v0) }}</text>
          <text x="288" y="79" text-anchor="end">{{ along(curve.v1) }}</text>
          <text x="34" y="8">clearance, {{ units.length }} (but for what slides or touches by design)</text>
        </svg>
      </div>
    </template>
  </section>
</template>

<style scoped>
h3 {
  font-size: 13px;
  margin-bottom: 4px;
}
p {
  margin: 4px 0;
}
.good {
  color: var(--up);
}
.bad {
  color: var(--bad);
  font-weight: 600;
}
.good svg,
.bad svg {
  vertical-align: -3px;
}
.wish {
  display: flex;
  gap: 6px;
  align-items: center;
}
.n {
  width: 70px;
}
.play {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.play input {
  accent-color: var(--accent);
  width: 300px;
}
.axis {
  stroke: var(--line-2);
  fill: none;
}
.curve {
  stroke: var(--accent);
  fill: none;
  stroke-width: 1.8;
}
text {
  font-size: 10px;
  fill: var(--ink-3);
}
section {
  min-width: 0;
}
.left {
  color: var(--bad);
}
</style>
