<script setup lang="ts">
// Curves over a common axis: one strip for each unit, true axes, and a cursor that is dragged.
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { marked, span, ticks } from './ticks'

export interface Curve {
  name: string
  unit: string
  values: (number | null)[]
}
const props = defineProps<{
  xs: number[]
  curves: Curve[]
  /** What runs along the axis. */
  along: string
  cursor?: number | null
  label: string
}>()
const emit = defineEmits<{ at: [x: number] }>()
const root = ref<HTMLElement | null>(null)
const width = ref(420)
let watcher: ResizeObserver | null = null
onMounted(() => {
  watcher = new ResizeObserver(([entry]) => (width.value = Math.max(240, entry.contentRect.width)))
  if (root.value) watcher.observe(root.value)
})
onBeforeUnmount(() => watcher?.disconnect())

const LEFT = 58
const RIGHT = 12
const TALL = 92
const TONES = ['var(--accent)', 'var(--loose)', 'var(--up)', 'var(--ink-2)', 'var(--bad)', 'var(--pick)']
const range = computed<[number, number]>(() => [props.xs[0] ?? 0, props.xs.at(-1) ?? 1])
const x = (v: number): number => LEFT + ((v - range.value[0]) / (range.value[1] - range.value[0] || 1)) * (width.value - LEFT - RIGHT)
const across = computed(() => ticks(Math.min(...range.value), Math.max(...range.value), width.value / 90))
const step = (all: number[]): number => (all.length > 1 ? Math.abs(all[1] - all[0]) : 1)

const strips = computed(() => {
  const units = [...new Set(props.curves.map((c) => c.unit))]
  return units.map((unit) => {
    const own = props.curves.map((c, n) => ({ ...c, tone: TONES[n % TONES.length] })).filter((c) => c.unit === unit)
    const [low, high] = span(own.flatMap((c) => c.values.filter((v): v is number => v !== null)))
    const y = (v: number): number => 14 + (1 - (v - low) / (high - low)) * (TALL - 20)
    const marks = ticks(low, high, 4)
    return {
      unit,
      marks: marks.map((v) => ({ y: y(v), text: marked(v, step(marks)) })),
      zero: low < 0 && high > 0 ? y(0) : null,
      curves: own.map((c) => ({ ...c, d: path(c.values, y), at: here(c.values, y) })),
    }
  })
})
function path(values: (number | null)[], y: (v: number) => number): string {
  let d = ''
  values.forEach((v, k) => {
    if (v === null) return
    d += `${d && values[k - 1] !== null ? 'L' : 'M'}${x(props.xs[k]).toFixed(1)} ${y(v).toFixed(1)}`
  })
  return d
}
/** Where a curve stands at the cursor, and what it is there. */
function here(values: (number | null)[], y: (v: number) => number): { x: number; y: number; text: string } | null {
  const c = props.cursor
  if (c === null || c === undefined) return null
  let k = 0
  for (let n = 1; n < props.xs.length; n++) if (Math.abs(props.xs[n] - c) < Math.abs(props.xs[k] - c)) k = n
  const v = values[k]
  return v === null || v === undefined ? null : { x: x(props.xs[k]), y: y(v), text: `${Number(v.toPrecision(4))}`.replace('-', '−') }
}
let grip = false
function move(event: PointerEvent): void {
  if (event.type === 'pointerdown') {
    grip = true
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  }
  if (!grip) return
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const share = Math.min(Math.max((event.clientX - box.left - LEFT) / (box.width - LEFT - RIGHT), 0), 1)
  emit('at', range.value[0] + share * (range.value[1] - range.value[0]))
}
</script>

<template>
  <div ref="root" class="chart">
    <figure v-for="(s, n) in strips" :key="s.unit">
      <figcaption>
        <span v-for="c in s.curves" :key="c.name" class="curve-name" :title="c.name"
          ><i :style="{ background: c.tone }" />{{ c.name
          }}<b v-if="c.at" class="num">{{ c.at.text }}{{ s.unit.startsWith('°') ? '' : ' ' }}{{ s.unit }}</b></span
        >
      </figcaption>
      <svg
        :viewBox="`0 0 ${width} ${TALL + (n === strips.length - 1 ? 16 : 2)}`"
        :width="width"
        :height="TALL + (n === strips.length - 1 ? 16 : 2)"
        role="img"
        :aria-label="label"
        data-testid="chart"
        @pointerdown="move"
        @pointermove="move"
        @pointerup="grip = false"
      >
        <g v-for="m in s.marks" :key="m.text">
          <path :d="`M${LEFT} ${m.y}H${width - RIGHT}`" class="grid" />
          <text :x="LEFT - 6" :y="m.y + 3.5" text-anchor="end">{{ m.text }}</text>
        </g>
        <text :x="4" :y="10" class="unit">{{ s.unit }}</text>
        <path v-if="s.zero !== null" :d="`M${LEFT} ${s.zero}H${width - RIGHT}`" class="zero" />
        <path :d="`M${LEFT} 10V${TALL - 6}H${width - RIGHT}`" class="axis" />
        <path v-for="c in s.curves" :key="c.name" :d="c.d" class="curve" :style="{ stroke: c.tone }" />
        <path v-if="cursor !== null && cursor !== undefined" :d="`M${x(cursor)} 10V${TALL - 6}`" class="cursor" />
        <circle v-for="c in s.curves.filter((k) => k.at)" :key="c.name" :cx="c.at!.x" :cy="c.at!.y" r="3" :style="{ fill: c.tone }" />
        <template v-if="n === strips.length - 1">
          <g v-for="v in across" :key="v">
            <path :d="`M${x(v)} ${TALL - 6}v4`" class="axis" />
            <text :x="x(v)" :y="TALL + 9" :text-anchor="x(v) > width - 40 ? 'end' : 'middle'">{{ marked(v, step(across)) }}</text>
          </g>
          <text :x="4" :y="TALL + 9" class="unit">{{ along }}</text>
        </template>
      </svg>
    </figure>
  </div>
</template>

<style scoped>
.chart {
  min-width: 0;
  width: 100%;
}
figure {
  margin: 0;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  font-size: 12px;
  color: var(--ink-2);
}
.curve-name {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.curve-name i {
  width: 10px;
  height: 3px;
  border-radius: 2px;
  flex: none;
}
.num {
  color: var(--ink);
  font-variant-numeric: tabular-nums;
}
svg {
  display: block;
  touch-action: none;
  cursor: col-resize;
}
text {
  font-size: 10.5px;
  fill: var(--ink-2);
  font-variant-numeric: tabular-nums;
}
.unit {
  font-weight: 600;
}
.grid {
  stroke: var(--line);
  fill: none;
}
.zero,
.axis {
  stroke: var(--line-2);
  fill: none;
}
.curve {
  fill: none;
  stroke-width: 1.8;
}
.cursor {
  stroke: var(--ink-3);
  stroke-dasharray: 3 2;
}
</style>
