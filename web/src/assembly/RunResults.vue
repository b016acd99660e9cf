<script setup lang="ts">
// Motions over time: the list of them, what the chosen one found, curves with a cursor, playback.
import { NDropdown } from 'naive-ui'
import { computed, ref } from 'vue'
import JobLine from '../jobs/JobLine.vue'
import { useJobs } from '../jobs/store'
import CurveChart from '../ui/CurveChart.vue'
import { trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import { fineLength, length } from '../ui/units'
import EnvelopeRow from './EnvelopeRow.vue'
import { inOwn, type Run, type RunClash, type Series, titleOf, useRuns } from './runs'
import { takeOut } from './runFiles'
import { useDocument } from '../document/store'

const emit = defineEmits<{ clash: [clash: RunClash | null] }>()
const runs = useRuns()
const jobs = useJobs()
const doc = useDocument()
const under = computed(() => ['queued', 'running'].includes(runs.job?.state ?? ''))
const old = computed(() => runs.job !== null && jobs.isOld(runs.job.id))
const r = computed(() => runs.result)
const seconds = (t: number): string => `${trim(t, 3)} s`
const menu = (run: Run) => [
  { key: 'edit', label: 'Edit' },
  { key: 'remove', label: 'Delete' },
  ...(run.id === runs.run?.id && r.value
    ? [
        { key: 'csv', label: 'Take curves out (CSV)' },
        { key: 'glb', label: 'Take the motion out (GLB)' },
        { key: 'png', label: 'Take pictures out (PNG)' },
      ]
    : []),
]
async function chose(key: string, run: Run): Promise<void> {
  if (key === 'edit') runs.edit(run)
  else if (key === 'remove') await runs.remove(run.id)
  else await takeOut(key, run, runs).catch(doc.refused)
}
function choose(id: string): void {
  runs.back()
  emit('clash', null)
  runs.chosen = id
}
function toClash(c: RunClash): void {
  runs.look(c.frame, c.value)
  emit('clash', c)
}
const GROUPS: [string, (s: Series) => boolean][] = [
  ['Gaps', (s) => s.quantity === 'gap'],
  ['Joints', (s) => !!s.joint && ['value', 'speed', 'acceleration'].includes(s.quantity)],
  ['Drives', (s) => s.quantity === 'effort'],
  ['Forces in joints', (s) => ['force', 'moment'].includes(s.quantity)],
  ['Places', (s) => !s.joint && ['place', 'speed', 'acceleration'].includes(s.quantity)],
  ['Energy', (s) => ['energy', 'power'].includes(s.quantity)],
]
const grouped = computed(() =>
  GROUPS.map(([label, holds]) => ({ label, series: runs.series.filter(holds) })).filter((g) => g.series.length),
)
const picking = ref(false)
const curves = computed(() => runs.plotted.map((s) => ({ name: titleOf(s), ...inOwn(s) })))
const cursor = computed(() => r.value?.times[runs.at] ?? null)
const summary = computed(() => {
  const x = r.value
  if (!x) return []
  const found: { tone: 'good' | 'bad' | 'muted'; text: string }[] = []
  const end = x.times.at(-1) ?? 0
  if (x.limit) found.push({ tone: 'bad', text: `Ends at ${seconds(x.limit.at)}: ${x.limit.name} is at its limit of ${sizeOf(x.limit)}` })
  if (x.stuck !== null) found.push({ tone: 'bad', text: `It cannot go on from ${seconds(x.stuck)}; there it still stands` })
  if (x.looked && !x.clashes.length) found.push({ tone: 'good', text: `No clash in ${seconds(end)}` })
  for (const t of x.turning.slice(0, 3)) found.push({ tone: 'bad', text: `Change point at ${seconds(t)}: it may go on in two ways` })
  if (x.freedom && x.weighed)
    found.push({
      tone: 'muted',
      text: `${x.freedom === 1 ? 'One motion is' : `${x.freedom} motions are`} not driven: it moves by its masses`,
    })
  if (x.freedom && !x.weighed) found.push({ tone: 'muted', text: 'What is not driven stays as near as the joints let it' })
  for (const e of x.events.slice(0, 4))
    found.push({
      tone: 'muted',
      text: `${seconds(e.time)}: ${e.name} ${e.what === 'stop' ? 'comes to its stop' : 'leaves its stop'} at ${sizeOf(e)}`,
    })
  if (x.shared.length) {
    const names = x.shared.slice(0, 2).join(', ')
    found.push({
      tone: 'muted',
      text: `Held more than once, so shared as may be: forces in ${names}${x.shared.length > 2 ? ` and ${x.shared.length - 2} more` : ''}`,
    })
  }
  if (
    x.balance &&
    Math.abs(x.balance.gained - x.balance.work) > 0.02 * Math.max(Math.abs(x.balance.gained), Math.abs(x.balance.work), 1e-6)
  )
    found.push({
      tone: 'bad',
      text: `Work in (${x.balance.work.toPrecision(3)} J) and energy gained (${x.balance.gained.toPrecision(3)} J) differ: take more frames`,
    })
  if (x.left.length) found.push({ tone: 'bad', text: `Not looked at, for they are surfaces: ${x.left.slice(0, 3).join(', ')}` })
  return found
})
const sizeOf = (x: { value: number; unit: string }): string => (x.unit === 'mm' ? length(x.value) : `${trim(x.value, 2)}°`)
</script>

<template>
  <div class="runs">
    <section class="list">
      <div class="every">
        <div
          v-for="x in runs.runs"
          :key="x.id"
          class="run"
          :class="{ on: x.id === runs.run?.id }"
          :data-testid="`run-${x.id}`"
          @click="choose(x.id)"
          @dblclick="runs.edit(x)"
        >
          <b>{{ x.name }}</b>
          <span class="muted">{{ x.duration }}</span>
          <NDropdown :options="menu(x)" trigger="click" @select="(k: string) => chose(k, x)">
            <button class="icon-btn" :aria-label="`More for ${x.name}`" :data-testid="`run-more-${x.id}`" @click.stop>
              <Icon name="more" :size="14" />
            </button>
          </NDropdown>
        </div>
      </div>
      <p v-if="!runs.runs.length && !runs.draft" class="muted">
        A run drives joints over time and tells speeds, forces, clashes and gaps all the way.
      </p>
      <div class="deeds">
        <button v-if="runs.run" class="btn small main" data-testid="go-run" :disabled="under" @click="runs.go()">
          <Icon name="play" :size="14" /> Run
        </button>
        <button class="btn small" data-testid="new-run" @click="runs.begin()"><Icon name="plus" :size="13" /> New run</button>
      </div>
      <JobLine v-if="runs.job && under" :job="runs.job" what="Running" />
      <p v-else-if="runs.job?.state === 'failed'" class="bad" data-testid="run-trouble">{{ runs.job.error?.text }}</p>
      <p v-else-if="runs.job?.state === 'cancelled'" class="muted">It was stopped.</p>
      <p v-if="r && old" class="old" data-testid="run-old">Something it hangs on has changed since: run it again.</p>
      <template v-if="r">
        <ul v-if="r.clashes.length" class="found">
          <li v-for="c in r.clashes" :key="`${c.a}${c.b}${c.value}`" class="bad" data-testid="run-clash" @click="toClash(c)">
            <Icon name="cross" :size="14" /> {{ c.name_a }} meets {{ c.name_b }}
            <span class="muted"
              >{{ seconds(c.value) }} {{ c.end === null ? 'to the end' : `to ${seconds(c.end)}`
              }}{{ c.depth ? `, up to ${fineLength(c.depth)} deep` : '' }}</span
            >
          </li>
        </ul>
        <ul v-if="r.watched.length" class="found">
          <li
            v-for="w in r.watched"
            :key="`${w.a}${w.b}`"
            data-testid="run-gap"
            title="Show it there"
            @click="runs.look(w.frame, w.value, w.near)"
          >
            {{ w.name_a }} – {{ w.name_b }}: <b>{{ w.least > 0 ? fineLength(w.least) : 'no gap' }}</b>{{ ' '
            }}<span class="muted">{{ w.least > 0 ? 'least, at' : 'from about' }} {{ seconds(w.value) }}</span>
            <span v-if="w.within > 0" class="muted">; its curve to ± {{ fineLength(w.within) }}</span>
          </li>
        </ul>
        <p v-for="s in summary" :key="s.text" :class="s.tone">{{ s.text }}</p>
        <EnvelopeRow />
      </template>
    </section>
    <section v-if="r" class="right">
      <div class="play">
        <button class="icon-btn round" :aria-label="runs.playing ? 'Pause' : 'Play'" data-testid="run-play" @click="runs.play()">
          <Icon :name="runs.playing ? 'pause' : 'play'" :size="16" />
        </button>
        <input
          type="range"
          min="0"
          :max="r.times.length - 1"
          :value="runs.at"
          aria-label="Time"
          data-testid="run-scrub"
          @input="((runs.playing = false), runs.show(Number(($event.target as HTMLInputElement).value)), emit('clash', null))"
        />
        <span class="time" data-testid="run-time">{{ seconds(cursor ?? 0) }}</span>
        <select v-model.number="runs.pace" class="field pace" aria-label="Pace" title="How fast it plays">
          <option :value="0.1">1/10</option>
          <option :value="0.25">1/4</option>
          <option :value="0.5">1/2</option>
          <option :value="1">1 : 1</option>
          <option :value="2">2 ×</option>
        </select>
        <button
          class="icon-btn"
          :class="{ lit: runs.loop }"
          aria-label="Again and again"
          title="Again and again"
          @click="runs.loop = !runs.loop"
        >
          <Icon name="repeat" :size="15" />
        </button>
        <template v-if="runs.shows">
          <button class="btn small" data-testid="run-stay" title="Keep everything where the preview shows it" @click="runs.stay()">
            Stay here
          </button>
          <button class="btn small" data-testid="run-back" @click="(runs.back(), emit('clash', null))">Go back</button>
        </template>
        <button class="btn small" :class="{ on: picking }" data-testid="run-curves" @click="picking = !picking">Curves</button>
      </div>
      <div class="plot">
        <CurveChart
          v-if="curves.length"
          :xs="r.times"
          :curves="curves"
          along="s"
          :cursor="cursor"
          label="Curves over time"
          @at="(t) => runs.showAt(t)"
        />
        <p v-else class="muted">Choose what is plotted under Curves.</p>
        <div v-if="picking" class="picker" data-testid="curve-picker">
          <template v-for="g in grouped" :key="g.label">
            <h4>{{ g.label }}</h4>
            <label v-for="s in g.series" :key="s.id" :title="titleOf(s)">
              <input type="checkbox" :checked="runs.wanted.includes(s.id)" :data-testid="`curve-${s.id}`" @change="runs.plot(s.id)" />
              <span>{{ titleOf(s) }}</span>
            </label>
          </template>
        </div>
      </div>
    </section>
  </div>
</template>

<style scoped>
.runs {
  display: grid;
  grid-template-columns: minmax(230px, 300px) minmax(0, 1fr);
  gap: 22px;
  padding-top: 6px;
}
p {
  margin: 4px 0;
}
.run {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 2px 4px 2px 8px;
  border-radius: 6px;
  cursor: pointer;
}
/* What the chosen one found stays in sight under many. */
.every {
  max-height: 104px;
  overflow: auto;
}
.run b {
  font-weight: 500;
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.run.on {
  background: var(--accent-soft);
}
.deeds,
.play {
  display: flex;
  gap: 8px;
  align-items: center;
  margin: 4px 0;
}
.found {
  list-style: none;
  margin: 4px 0;
  padding: 0;
}
.found li {
  padding: 2px 6px;
  border-radius: 5px;
  cursor: pointer;
}
.found li:hover {
  background: var(--accent-soft);
}
.found svg {
  vertical-align: -2px;
}
.good {
  color: var(--up);
}
.bad,
.old {
  color: var(--bad);
}
.right {
  min-width: 0;
}
.play input[type='range'] {
  flex: 1 1 60px;
  min-width: 60px;
  accent-color: var(--accent);
}
.play > * {
  flex: none;
}
.time {
  width: 58px;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.pace {
  width: 70px;
}
.round {
  border: 1px solid var(--line-2);
  border-radius: 50%;
}
.lit {
  color: var(--accent);
}
.plot {
  display: flex;
  gap: 14px;
  align-items: flex-start;
}
.picker {
  flex: 0 0 230px;
  max-height: 300px;
  overflow: auto;
  font-size: 12px;
  display: flex;
  flex-direction: column;
  gap: 2px;
}
.picker label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
}
.picker label span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.picker h4 {
  margin: 6px 0 0;
  font-size: 11.5px;
  color: var(--ink-2);
}
</style>
