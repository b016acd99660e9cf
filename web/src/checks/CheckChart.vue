<script setup lang="ts">
// What a check found from revision to revision, against its limit; where it fails is shaded.
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { span } from '../ui/ticks'

const props = defineProps<{ rows: Schemas['FoundView'][]; relation: string }>()
const WIDE = 420
const TALL = 104
const LEFT = 6
const MOST = 40
const rows = computed(() => props.rows.slice(-MOST).filter((r) => r.value !== null && r.bound !== null))
const range = computed(() => {
  const [low, high] = span(rows.value.flatMap((r) => [r.value as number, r.bound as number]))
  const room = 0.08 * (high - low)
  return [low - room, high + room] as const
})
const y = (v: number): number => 4 + (1 - (v - range.value[0]) / (range.value[1] - range.value[0])) * (TALL - 26)
const step = computed(() => (WIDE - 2 * LEFT) / Math.max(rows.value.length, 1))
const x = (n: number): number => LEFT + (n + 0.5) * step.value
/** A stretch for each row: where it fails. */
const shut = computed(() =>
  rows.value.map((r, n) => {
    const at = y(r.bound as number)
    const down = props.relation === 'at_least'
    return { x: LEFT + n * step.value, y: down ? at : 4, height: Math.max(0, down ? TALL - 22 - at : at - 4), at }
  }),
)
const line = computed(() => rows.value.map((r, n) => `${n ? 'L' : 'M'}${x(n).toFixed(1)} ${y(r.value as number).toFixed(1)}`).join(''))
/** The newest, told in the picture. */
const last = computed(() => rows.value.at(-1))
const every = computed(() => Math.max(1, Math.ceil(rows.value.length / 9)))
const told = (r: Schemas['FoundView']): string =>
  `Revision ${r.revision}: ${r.shown} (${props.relation === 'at_least' ? '≥' : '≤'} ${r.limit})`
</script>

<template>
  <svg
    v-if="rows.length"
    :viewBox="`0 0 ${WIDE} ${TALL}`"
    :width="WIDE"
    :height="TALL"
    role="img"
    aria-label="What it found over time"
    data-testid="check-chart"
  >
    <g v-for="(s, n) in shut" :key="n">
      <rect :x="s.x" :y="s.y" :width="step" :height="s.height" class="shut" />
      <path :d="`M${s.x} ${s.at}h${step}`" class="limit" />
    </g>
    <path :d="line" class="found" />
    <text v-if="last" :x="LEFT + 2" :y="shut[0].at < 20 ? shut[0].at + 13 : shut[0].at - 4">limit {{ rows[0].limit }}</text>
    <g v-for="(r, n) in rows" :key="n">
      <circle :cx="x(n)" :cy="y(r.value as number)" r="3.6" :class="r.state">
        <title>{{ told(r) }}</title>
      </circle>
      <text
        v-if="n === rows.length - 1"
        :x="x(n) - 7"
        :y="y(r.value as number) + (y(r.value as number) < 30 ? 14 : -7)"
        text-anchor="end"
        class="now"
      >
        {{ r.shown }}
      </text>
      <text v-if="n % every === 0 || n === rows.length - 1" :x="x(n)" :y="TALL - 6" text-anchor="middle">r {{ r.revision }}</text>
    </g>
  </svg>
</template>

<style scoped>
.shut {
  fill: var(--bad-soft);
}
.limit {
  stroke: var(--bad);
  stroke-width: 1.2;
  stroke-dasharray: 5 3;
  fill: none;
}
.found {
  stroke: var(--ink-2);
  stroke-width: 1.4;
  fill: none;
}
circle {
  fill: var(--up);
}
circle.fails {
  fill: var(--bad);
}
.now {
  fill: var(--ink);
  font-weight: 600;
}
text {
  font-size: 10.5px;
  fill: var(--ink-3);
}
</style>
