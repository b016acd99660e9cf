<script setup lang="ts">
// A joint driven through its range: where it clashes, how near things come, played.
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { useDocument } from '../document/store'
import { useMeasuring } from '../measure/store'
import { freeName } from '../parameters/names'
import JobLine from '../jobs/JobLine.vue'
import { useJobs } from '../jobs/store'
import CurveChart from '../ui/CurveChart.vue'
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
  end?: number | null
  depth?: number
  frame?: Record<string, { p: [number, number, number]; q: [number, number, number, number] }>
}
const emit = defineEmits<{ clash: [clash: Clash | null] }>()
const doc = useDocument()
const jobs = useJobs()
const measuring = useMeasuring()
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
      clashes?: Clash[]
      limit?: { name: string; value: number; unit: string; at: number } | null
      stuck: number | null
      least: { clearance: number; value: number; name_a?: string; name_b?: string } | null
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
interface End {
  value: number
  why: 'clash' | 'limit' | 'own' | 'stuck' | 'free'
  name_a?: string
  name_b?: string
  name: string
  between?: number
  frame: Record<string, { p: [number, number, number]; q: [number, number, number, number] }>
}
const going = computed(() => jobs.newest('reach'))
const reached = computed(() => (going.value?.result ?? null) as { unit: string; ends: End[] } | null)
const farOf = (v: number): string => (reached.value?.unit === 'mm' ? length(v) : `${trim(v, 3)}°`)
/** What stops it there. */
function why(e: End): string {
  if (e.why === 'clash') return `${e.name_a} meets ${e.name_b}`
  if (e.why === 'limit') return `${e.name} is at its limit`
  return { own: 'its own limit', stuck: 'it cannot go on', free: 'nothing stops it' }[e.why]
}
async function goFar(): Promise<void> {
  emit('clash', null)
  const { joint, coordinate } = driven.value!
  const picks = pair.value ? { picks: measuring.picks } : {}
  await jobs.start('reach', { joint, coordinate: coordinate.name, ...picks }).catch(doc.refused)
}
/** Two things are being measured: how far they come apart is told too. */
const pair = computed(() => measuring.on && measuring.picks.length === 2)
/** A value that was found becomes a parameter, for formulas to use. */
async function keep(what: string, value: number, unit: string): Promise<void> {
  const name = freeName(`${driven.value?.name ?? 'reach'} ${what}`, Object.keys(asm.built?.parameters ?? {}))
  const kept = await doc.edit([{ do: 'add_parameter', name, formula: `${Number(value.toPrecision(9))} ${unit}` }])
  if (kept) doc.say(`Kept as the parameter ${name}`, 'good')
}
/** Which stand of the run is shown, and which clash. */
const shown = ref(0)
const looked = shallowRef<Clash | null>(null)
const clashes = computed(() => motion.value?.clashes ?? (motion.value?.clash ? [motion.value.clash] : []))
function at(i: number): void {
  const m = motion.value
  if (!m) return
  shown.value = i
  looked.value = null
  asm.show(m.frames[i])
  emit('clash', null)
}
/** Stand where a clash begins, its faces lit. */
function goTo(clash: Clash): void {
  const m = motion.value
  if (!m) return
  looked.value = clash
  const away = (i: number): number => Math.abs(m.values[i] - (clash.value ?? 0))
  shown.value = m.values.reduce((best, _, i) => (away(i) < away(best) ? i : best), 0)
  if (clash.frame) asm.show(clash.frame)
  emit('clash', clash)
}
/** A run only shows what would be: everything stands again as it is kept. */
function back(): void {
  asm.live = null
  looked.value = null
  emit('clash', null)
}
/** Keep what is shown: the driven joint at its value, everything where it went. */
async function stay(): Promise<void> {
  const m = motion.value
  const asked = moving.value?.request as { joint?: string; coordinate?: string } | undefined
  if (!m || !asked?.joint) return
  const name = asked.coordinate ?? asm.coordinateOf(asked.joint)?.name
  if (name) await asm.keepValue(asked.joint, name, looked.value?.value ?? m.values[shown.value])
}
watch(
  () => moving.value?.state,
  (state, before) => {
    if (state !== 'done' || !before || !motion.value) return
    if (clashes.value.length) goTo(clashes.value[0])
    else at(motion.value.values.length - 1)
  },
)
/** Clearance over the way: of what else comes near than what slides or touches by design. */
const curves = computed(() => {
  const m = motion.value
  if (!m || m.values.length < 2 || m.clearance.every((c) => c === null)) return []
  return [{ name: 'clearance', unit: units.value.length, values: m.clearance.map((c) => (c === null ? null : number(c))) }]
})
const across = computed(() => (motion.value?.unit === 'mm' ? motion.value.values.map(number) : (motion.value?.values ?? [])))
const cursor = computed(() => across.value[shown.value] ?? null)
function follow(x: number): void {
  at(across.value.reduce((best, v, i) => (Math.abs(v - x) < Math.abs(across.value[best] - x) ? i : best), 0))
}
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
      <button
        type="button"
        class="btn small"
        :title="
          pair
            ? 'To both sides, and how far the two that are measured come apart'
            : 'To both sides, from where it stands to the first contact or limit; measure two things to be told how far they come apart'
        "
        data-testid="run-reach"
        @click="goFar"
      >
        How far
      </button>
    </form>
    <p v-else class="muted">A joint that leaves a motion can be driven through its range here.</p>
    <JobLine v-if="going && under(going.state)" :job="going" what="Looking how far it goes" />
    <p v-else-if="going?.state === 'failed'" class="trouble">{{ going.error?.text }}</p>
    <ul v-else-if="reached" class="met" data-testid="reach">
      <li v-for="(e, k) in reached.ends" :key="k" title="Show it there" @click="asm.show(e.frame)">
        <div class="end">
          <span
            >{{ k ? 'up to' : 'back to' }} <b>{{ farOf(e.value) }}</b> <span class="muted">{{ why(e) }}</span></span
          >
          <button
            class="icon-btn"
            :aria-label="`Keep ${farOf(e.value)} as a parameter`"
            title="Keep it as a parameter: formulas can use it"
            :data-testid="`keep-reach-${k}`"
            @click.stop="keep(k ? 'up' : 'back', e.value, reached.unit)"
          >
            <Icon name="plus" :size="14" />
          </button>
        </div>
        <div v-if="e.between !== undefined" class="end" data-testid="reach-between">
          <span
            ><b>{{ fineLength(e.between) }}</b> between the two that are measured</span
          >
          <button
            class="icon-btn"
            :aria-label="`Keep ${fineLength(e.between)} as a parameter`"
            title="Keep it as a parameter: formulas can use it"
            @click.stop="keep(k ? 'open' : 'shut', e.between, 'mm')"
          >
            <Icon name="plus" :size="14" />
          </button>
        </div>
      </li>
    </ul>
    <JobLine v-if="moving && under(moving.state)" :job="moving" what="Driving" />
    <p v-else-if="moving?.state === 'failed'" class="trouble">{{ moving.error?.text }}</p>
    <template v-else-if="motion">
      <p v-if="clashes.length" class="bad" data-testid="clash">
        <Icon name="cross" :size="15" />
        {{ clashes.length === 1 ? 'One clash' : `${clashes.length} clashes, the first` }} at {{ along(clashes[0].value ?? 0) }}:
        {{ clashes[0].name_a }} meets {{ clashes[0].name_b }}
      </p>
      <p v-else-if="motion.stuck === null" class="good" data-testid="no-clash">
        <Icon name="check" :size="15" /> No clash from {{ along(motion.values[0]) }} to {{ along(motion.values.at(-1) ?? 0) }}
      </p>
      <p v-if="motion.limit" class="bad" data-testid="motion-limit">
        <Icon name="alert" :size="15" /> It ends at {{ along(motion.limit.at) }}: {{ motion.limit.name }} is at its limit of
        {{ motion.limit.unit === 'mm' ? length(motion.limit.value) : `${trim(motion.limit.value, 2)}°` }}
      </p>
      <p v-if="motion.stuck !== null" class="bad">
        <Icon name="cross" :size="15" /> It cannot move on from {{ along(motion.stuck) }}; there it still stands
      </p>
      <ul v-if="clashes.length" class="met">
        <li v-for="c in clashes" :key="`${c.a}${c.b}${c.value}`" :class="{ on: looked === c }" data-testid="met" @click="goTo(c)">
          {{ c.name_a }} × {{ c.name_b }}
          <span class="muted"
            >{{ along(c.value ?? 0) }} {{ c.end == null ? 'to the end' : `to ${along(c.end)}`
            }}{{ c.depth ? `, up to ${fineLength(c.depth)} deep` : '' }}</span
          >
        </li>
      </ul>
      <p v-if="motion.least && (motion.least.clearance > 0 || !clashes.length)" class="muted">
        Least clearance {{ fineLength(motion.least.clearance) }} at {{ along(motion.least.value)
        }}{{ motion.least.name_a ? `, ${motion.least.name_a} to ${motion.least.name_b}` : '' }}
      </p>
      <p v-else-if="!clashes.length" class="muted">Nothing else comes near.</p>
      <p v-if="motion.left.length" class="left"><Icon name="alert" :size="15" /> {{ leftOut(motion.left) }}</p>
      <p v-if="asm.live" class="preview">
        A preview at {{ along(looked?.value ?? motion.values[shown] ?? 0) }}
        <button class="btn small" data-testid="motion-stay" @click="stay">Stay here</button>
        <button class="btn small" data-testid="motion-back" @click="back">Go back</button>
      </p>
      <div class="play">
        <input
          type="range"
          min="0"
          :max="motion.values.length - 1"
          :value="shown"
          aria-label="Position"
          @input="at(Number(($event.target as HTMLInputElement).value))"
        />
        <CurveChart
          v-if="curves.length"
          :xs="across"
          :curves="curves"
          :along="motion.unit === 'mm' ? units.length : '°'"
          :cursor="cursor"
          label="Clearance over the motion"
          @at="follow"
        />
        <p v-if="curves.length" class="muted small">but for what slides or touches by design</p>
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
  flex-wrap: wrap;
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
  width: 100%;
}
.small {
  font-size: 12px;
  margin: 0;
}
.met {
  list-style: none;
  margin: 2px 0;
  padding: 0;
}
.met li {
  padding: 3px 6px;
  border-radius: 5px;
  cursor: pointer;
}
.met li:hover,
.met li.on {
  background: var(--accent-soft);
}
.end {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.preview {
  display: flex;
  gap: 7px;
  align-items: center;
}
section {
  min-width: 0;
}
.left {
  color: var(--bad);
}
</style>
