<script setup lang="ts">
// A quantity over one parameter, or a field of two: what fails is shaded, a point is chosen by a click.
import { computed } from 'vue'
import { marked, span, ticks } from '../ui/ticks'
import { good, numberOf, type Row, textOf, unitIn, valueOf } from './store'

const props = defineProps<{ rows: Row[]; of: string; label: string; chosen: Row | null }>()
const emit = defineEmits<{ choose: [row: Row] }>()
const names = computed(() => Object.keys(props.rows[0]?.set ?? {}))
/** A check's numbers in the unit they are shown in; others as they come. */
const scale = computed(() => {
  for (const row of props.rows) {
    const c = row.checks.find((x) => x.id === props.of)
    if (c?.value && c.shown) return { by: numberOf(c.shown) / c.value, unit: unitIn(c.shown) }
  }
  return { by: 1, unit: props.of === 'mass' ? 'g' : props.of === 'volume' ? 'mm³' : props.of.startsWith('size') ? 'mm' : '' }
})
const y0 = (row: Row): number | null => {
  const v = valueOf(row, props.of)
  return v === null ? null : v * scale.value.by
}
const bound = computed(() => {
  const c = props.rows.flatMap((r) => r.checks.filter((x) => x.id === props.of))[0]
  return c?.bound === undefined || c.bound === null ? null : { at: c.bound * scale.value.by, down: c.relation === 'at_least' }
})
const WIDE = 520
const TALL = 170
const LEFT = 56
const BASE = TALL - 30
const xs = computed(() => props.rows.map((r) => numberOf(r.set[names.value[0]])))
const reach = computed(() => {
  const values = props.rows.map(y0).filter((v): v is number => v !== null)
  const [low, high] = span(bound.value ? [...values, bound.value.at] : values)
  const room = 0.06 * (high - low)
  return [low - room, high + room] as const
})
const x = (v: number): number =>
  LEFT + 8 + ((v - Math.min(...xs.value)) / (Math.max(...xs.value) - Math.min(...xs.value) || 1)) * (WIDE - LEFT - 24)
const y = (v: number): number => 10 + (1 - (v - reach.value[0]) / (reach.value[1] - reach.value[0])) * (BASE - 14)
const path = computed(() => {
  let d = ''
  props.rows.forEach((r, n) => {
    const v = y0(r)
    if (v === null) return
    d += `${d && y0(props.rows[n - 1]) !== null ? 'L' : 'M'}${x(xs.value[n]).toFixed(1)} ${y(v).toFixed(1)}`
  })
  return d
})
const shut = computed(() => {
  const b = bound.value
  if (!b) return null
  const at = Math.min(Math.max(y(b.at), 10), BASE)
  return b.down ? { y: at, height: BASE - at, at } : { y: 10, height: at - 10, at }
})
const across = computed(() => ticks(Math.min(...xs.value), Math.max(...xs.value), 6))
const up = computed(() => ticks(reach.value[0], reach.value[1], 4))
const step = (all: number[]): number => (all.length > 1 ? Math.abs(all[1] - all[0]) : 1)
/** Two parameters: the values of each. */
const columns = computed(() => [...new Set(props.rows.map((r) => r.set[names.value[1]]))])
const lines = computed(() => [...new Set(props.rows.map((r) => r.set[names.value[0]]))])
const cell = (a: string, b: string): Row | undefined => props.rows.find((r) => r.set[names.value[0]] === a && r.set[names.value[1]] === b)
function tint(row: Row): string {
  const v = y0(row)
  if (v === null || !good(row)) return 'var(--bad-soft)'
  const [low, high] = reach.value
  return `color-mix(in srgb, var(--accent) ${Math.round(8 + 44 * ((v - low) / (high - low)))}%, var(--panel))`
}
const told = (row: Row): string =>
  `${Object.entries(row.set)
    .map(([n, f]) => `${n} = ${f}`)
    .join(', ')}: ${textOf(row, props.of)}${row.why ? ` (${row.why})` : ''}`
</script>

<template>
  <svg
    v-if="names.length === 1"
    :viewBox="`0 0 ${WIDE} ${TALL}`"
    :width="WIDE"
    :height="TALL"
    role="img"
    :aria-label="`${label} over ${names[0]}`"
    data-testid="range-chart"
  >
    <rect v-if="shut" :x="LEFT" :y="shut.y" :width="WIDE - LEFT - 8" :height="shut.height" class="shut" />
    <g v-for="v in up" :key="v">
      <path :d="`M${LEFT} ${y(v)}H${WIDE - 8}`" class="grid" />
      <text :x="LEFT - 6" :y="y(v) + 3.5" text-anchor="end">{{ marked(v, step(up)) }}</text>
    </g>
    <path v-if="shut" :d="`M${LEFT} ${shut.at}H${WIDE - 8}`" class="limit" />
    <path :d="`M${LEFT} 8V${BASE}H${WIDE - 8}`" class="axis" />
    <g v-for="v in across" :key="v">
      <path :d="`M${x(v)} ${BASE}v4`" class="axis" />
      <text :x="x(v)" :y="BASE + 15" text-anchor="middle">{{ marked(v, step(across)) }}</text>
    </g>
    <text :x="WIDE - 8" :y="TALL - 3" text-anchor="end">{{ names[0] }} ({{ unitIn(rows[0]?.set[names[0]]) }})</text>
    <text :x="4" :y="9">{{ scale.unit }}</text>
    <path :d="path" class="curve" />
    <g v-for="(r, n) in rows" :key="n" class="point" :data-testid="`point-${n}`" @click="emit('choose', r)">
      <title>{{ told(r) }}</title>
      <circle
        v-if="y0(r) !== null"
        :cx="x(xs[n])"
        :cy="y(y0(r)!)"
        :r="r === chosen ? 6.5 : 4.5"
        :class="{ bad: !good(r), on: r === chosen }"
      />
      <path v-else :d="`M${x(xs[n]) - 4} ${BASE - 9}l8 8m0 -8l-8 8`" class="fails" />
    </g>
  </svg>
  <div v-else class="field" data-testid="range-field">
    <table>
      <thead>
        <tr>
          <th>{{ names[0] }} \ {{ names[1] }}</th>
          <th v-for="b in columns" :key="b" class="num">{{ b }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="a in lines" :key="a">
          <th class="num">{{ a }}</th>
          <td
            v-for="b in columns"
            :key="b"
            :style="{ background: cell(a, b) ? tint(cell(a, b)!) : '' }"
            :class="{ on: cell(a, b) === chosen, bad: cell(a, b) && !good(cell(a, b)!) }"
          >
            <button v-if="cell(a, b)" class="num" :title="told(cell(a, b)!)" @click="emit('choose', cell(a, b)!)">
              {{ cell(a, b)!.state === 'ok' ? textOf(cell(a, b)!, of) : '×' }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.shut {
  fill: var(--bad-soft);
}
.grid {
  stroke: var(--line);
}
.axis {
  stroke: var(--ink-3);
  fill: none;
}
.limit {
  stroke: var(--bad);
  stroke-dasharray: 5 3;
}
.curve {
  stroke: var(--accent);
  stroke-width: 1.6;
  fill: none;
}
.point {
  cursor: pointer;
}
circle {
  fill: var(--accent);
  stroke: var(--panel);
  stroke-width: 1.5;
}
circle.bad {
  fill: var(--bad);
}
circle.on {
  stroke: var(--ink);
}
.fails {
  stroke: var(--bad);
  stroke-width: 2;
}
text {
  font-size: 10.5px;
  fill: var(--ink-3);
}
.field {
  border: 0;
  overflow: auto;
  max-height: 230px;
  padding: 0;
  background: none;
  height: auto;
}
table {
  border-collapse: collapse;
}
th {
  font-size: 11.5px;
  font-weight: 500;
  color: var(--ink-2);
  padding: 2px 6px;
  white-space: nowrap;
}
td {
  border: 1px solid var(--line);
  padding: 0;
}
td button {
  padding: 3px 7px;
  font-size: 12px;
  white-space: nowrap;
  width: 100%;
}
td.bad button {
  color: var(--bad);
}
td.on {
  outline: 2px solid var(--ink);
}
</style>
