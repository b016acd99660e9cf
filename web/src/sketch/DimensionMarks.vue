<script setup lang="ts">
// Dimensions of the sketch: extension lines, arrows, labels that drag and open for typing.
import { computed, nextTick, ref, watch } from 'vue'
import { shapeOf } from './dimensions'
import { constraints, entities, formOf, lineEnds, type Pair, pointAt, roundOf } from './model'
import { useMembers } from '../members/store'
import { useSketch } from './store'
import { angle, bare, rounded, shown as shownAs } from '../ui/units'

const props = defineProps<{ toPane: (p: Pair) => Pair; toPlane: (x: number, y: number) => Pair; px: number }>()
const sketch = useSketch()
const members = useMembers()
/** What of the part a size of the sketch is, for the variants. */
const drivenBy = (id: string): Record<string, string> => ({ step: sketch.step ?? '', field: `drawing.constraints.${id}.formula` })
const text = ref('')
const field = ref<HTMLInputElement[] | HTMLInputElement | null>(null)

const SIZES = new Set([
  'distance',
  'distance_x',
  'distance_y',
  'angle',
  'radius',
  'diameter',
  'diameter_across',
  'width',
  'height',
  'arc_length',
  'along',
  'ratio',
  'offset',
  'text_height',
  'least_radius',
])
const PREFIX: Record<string, string> = {
  radius: 'R ',
  diameter: '⌀ ',
  diameter_across: '⌀ ',
  arc_length: '⌒ ',
  width: 'W ',
  height: 'H ',
  ratio: '× ',
  offset: '∥ ',
  text_height: 'A ',
  least_radius: 'R ≥ ',
}

const marks = computed(() => {
  const gap = 30 / props.px
  const taken: Pair[] = []
  return constraints(sketch.drawing)
    .filter((c) => SIZES.has(c.type) && !c.linked)
    .map((c) => {
      let shape = shapeOf(sketch.drawing, c, gap, 0, sketch.free)
      // A label that would cover another one moves a row further out.
      for (let slot = 1; slot < 5 && shape && !c.at; slot++) {
        const p = props.toPane(shape.label)
        if (!taken.some((t) => Math.abs(t[0] - p[0]) < 58 && Math.abs(t[1] - p[1]) < 22)) break
        shape = shapeOf(sketch.drawing, c, gap, slot, sketch.free)
      }
      if (!shape) return null
      taken.push(props.toPane(shape.label))
      const value = sketch.solved?.values[c.id]
      const number = value === undefined ? '?' : c.type === 'angle' ? angle(value) : c.type === 'ratio' ? rounded(value) : bare(value)
      const shown = `${PREFIX[c.type] ?? ''}${number}`
      return {
        c,
        shape,
        shown: c.reference ? `(${shown})` : shown,
        label: props.toPane(shape.label),
        width: Math.max(shown.length * 7.4 + 14, 30),
      }
    })
    .filter((m) => m !== null)
})

const GLYPH: Record<string, string> = {
  horizontal: 'M-4 0h8',
  vertical: 'M0 -4v8',
  parallel: 'M-3 4L0 -4M1 4L4 -4',
  perpendicular: 'M0 -4v7M-4 3h8',
  tangent: 'M-4 4h8M-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0',
  equal: 'M-4 -2h8M-4 2h8',
  midpoint: 'M-4 3L0 -3L4 3Z',
  symmetric: 'M0 -4v8M-4 -2l2 2l-2 2M4 -2l-2 2l2 2',
  concentric: 'M-4 0a4 4 0 1 0 8 0a4 4 0 1 0 -8 0M-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0 -3 0',
  fixed: 'M-4 2h8M-3 2l-1 2M1 2l-1 2M4 2l-1 2M0 -4v6',
  on_curve: 'M-4 3C-2 -3 2 -3 4 -1M-1 -1.5h.01',
  coincident: 'M-3 0a3 3 0 1 0 6 0a3 3 0 1 0 -6 0',
}
/** Small signs beside what a constraint holds. */
const glyphs = computed(() => {
  const count = new Map<string, number>()
  return constraints(sketch.drawing)
    .filter((c) => GLYPH[c.type] && !c.linked)
    .flatMap((c) =>
      c.on
        .filter((id) => !id.endsWith('_axis') && id !== 'origin')
        .slice(0, 2)
        .map((id) => {
          const at = anchor(id)
          if (!at) return null
          const k = count.get(id) ?? 0
          count.set(id, k + 1)
          const p = props.toPane(at)
          const x = p[0] + 11 + k * 13
          let y = p[1] + 12
          // Under a size nobody would see it.
          for (
            let n = 0;
            n < 4 && marks.value.some((m) => Math.abs(m.label[0] - x) < m.width / 2 + 7 && Math.abs(m.label[1] - y) < 17);
            n++
          )
            y += 9
          return { key: c.id + id, id: c.id, path: GLYPH[c.type], x, y }
        }),
    )
    .filter((g) => g !== null)
})
function anchor(id: string): Pair | null {
  const d = sketch.drawing
  if (formOf(d, id) === 'point') return entities(d).some((e) => e.id === id) ? pointAt(d, id) : null
  const ends = lineEnds(d, id)
  if (ends) return [(ends[0][0] + ends[1][0]) / 2, (ends[0][1] + ends[1][1]) / 2]
  const round = roundOf(d, id)
  return round ? [round.centre[0] + round.radius * 0.707, round.centre[1] - round.radius * 0.707] : null
}

let grabbed: { id: string; from: Pair; moved: boolean } | null = null
function down(event: PointerEvent, id: string): void {
  if (event.button !== 0) return
  event.stopPropagation()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  grabbed = { id, from: [event.clientX, event.clientY], moved: false }
}
function drag(event: PointerEvent): void {
  if (!grabbed) return
  event.stopPropagation()
  if (Math.hypot(event.clientX - grabbed.from[0], event.clientY - grabbed.from[1]) > 4) grabbed.moved = true
  if (!grabbed.moved) return
  const box = (event.currentTarget as SVGGElement).ownerSVGElement!.getBoundingClientRect()
  sketch.moveLabel(grabbed.id, props.toPlane(event.clientX - box.left, event.clientY - box.top))
}
function up(event: PointerEvent, id: string): void {
  event.stopPropagation()
  const was = grabbed
  grabbed = null
  if (was && !was.moved && members.driving !== null) void members.drive('field', drivenBy(id))
  else if (was && !was.moved) {
    if (sketch.selected.length === 1 && sketch.selected[0] === id) sketch.typing = id
    else sketch.select(id, event.shiftKey)
  }
}
watch(
  () => sketch.typing,
  async (id) => {
    if (!id) return
    const c = constraints(sketch.drawing).find((x) => x.id === id)
    const value = sketch.solved?.values[id]
    text.value =
      c?.formula ??
      (value === undefined
        ? ''
        : c?.type === 'ratio'
          ? rounded(value)
          : shownAs(c?.type === 'angle' ? 'angle' : 'length', value).replace('°', ' deg'))
    await nextTick()
    const el = Array.isArray(field.value) ? field.value[0] : field.value
    el?.focus()
    el?.select()
  },
)
async function typed(event: KeyboardEvent, id: string): Promise<void> {
  event.stopPropagation()
  if (event.key === 'Enter') await sketch.setFormula(id, text.value)
  else if (event.key === 'Escape') sketch.typing = null
}
const line = (l: [Pair, Pair]): string => {
  const [a, b] = l.map(props.toPane)
  return `M${a[0].toFixed(1)} ${a[1].toFixed(1)}L${b[0].toFixed(1)} ${b[1].toFixed(1)}`
}
function arrow(at: Pair, way: Pair): string {
  const p = props.toPane(at)
  const q = props.toPane([at[0] + way[0], at[1] + way[1]])
  const n = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1
  const u: Pair = [(q[0] - p[0]) / n, (q[1] - p[1]) / n]
  return `M${p[0]} ${p[1]}L${p[0] - 8 * u[0] - 3 * u[1]} ${p[1] - 8 * u[1] + 3 * u[0]}L${p[0] - 8 * u[0] + 3 * u[1]} ${p[1] - 8 * u[1] - 3 * u[0]}Z`
}
</script>

<template>
  <g
    v-for="g in glyphs"
    :key="g.key"
    class="glyph"
    :class="{ selected: sketch.selected.includes(g.id), bad: sketch.refusal?.culprits.includes(g.id) }"
    :transform="`translate(${g.x} ${g.y})`"
    @pointerdown.stop
    @pointerup.stop="sketch.select(g.id, $event.shiftKey)"
    ><rect x="-6" y="-6" width="12" height="12" rx="3" /><path :d="g.path"
  /></g>
  <g
    v-for="m in marks"
    :key="m.c.id"
    class="dim"
    :class="{
      selected: sketch.selected.includes(m.c.id),
      reference: m.c.reference,
      driven: members.driver('field', drivenBy(m.c.id)),
      lit: members.lit && members.lit === members.driver('field', drivenBy(m.c.id)),
      bad: sketch.refusal?.culprits.includes(m.c.id),
    }"
  >
    <path v-for="(l, i) in m.shape.lines" :key="i" :d="line(l)" class="ext" />
    <path v-for="(a, i) in m.shape.arrows" :key="'a' + i" :d="arrow(a.at, a.way)" class="arrow" />
    <foreignObject v-if="sketch.typing === m.c.id" :x="m.label[0] - 60" :y="m.label[1] - 13" width="120" height="28">
      <input
        ref="field"
        v-model="text"
        class="field dim-field"
        spellcheck="false"
        data-testid="dimension-field"
        @keydown="typed($event, m.c.id)"
        @blur="sketch.typing === m.c.id && sketch.setFormula(m.c.id, text)"
        @pointerdown.stop
        @pointerup.stop
      />
    </foreignObject>
    <g
      v-else
      class="label"
      :data-testid="`dim-${m.c.id}`"
      @pointerdown="down($event, m.c.id)"
      @pointermove="drag"
      @pointerup="up($event, m.c.id)"
      @dblclick.stop="sketch.typing = m.c.id"
    >
      <title>
        {{ m.c.formula ?? 'drawn size'
        }}{{
          members.driving !== null
            ? members.driver('field', drivenBy(m.c.id))
              ? ' — click to let it go'
              : ' — click to have it differ between variants'
            : m.c.reference
              ? ' (reads out only)'
              : ' — double-click to change'
        }}
      </title>
      <rect :x="m.label[0] - m.width / 2" :y="m.label[1] - 10" :width="m.width" height="20" rx="4" />
      <text :x="m.label[0]" :y="m.label[1] + 4.5">{{ m.shown }}</text>
    </g>
  </g>
</template>

<style scoped>
.ext {
  stroke: var(--accent);
  stroke-width: 1;
  fill: none;
  opacity: 0.85;
}
.arrow {
  fill: var(--accent);
}
.label {
  cursor: pointer;
}
.label rect {
  fill: var(--panel);
  stroke: var(--accent);
  stroke-width: 1;
}
.label text {
  fill: var(--ink);
  font-size: 12.5px;
  text-anchor: middle;
  font-variant-numeric: tabular-nums;
}
.label:hover rect {
  stroke-width: 2;
}
.driven .label rect {
  stroke-width: 2;
  stroke-dasharray: 6 2;
}
.lit .label rect {
  fill: var(--accent-soft);
}
.selected .label rect {
  stroke: var(--pick);
  fill: var(--pick-soft);
  stroke-width: 2;
}
.reference .label rect {
  stroke-dasharray: 3 2;
}
.bad .label rect {
  stroke: var(--bad);
  fill: var(--bad-soft);
}
.dim-field {
  width: 118px;
  height: 25px;
  text-align: center;
}
.glyph {
  cursor: pointer;
}
.glyph rect {
  fill: var(--panel);
  fill-opacity: 0.8;
}
.glyph path {
  stroke: var(--ink-2);
  stroke-width: 1.3;
  fill: none;
  stroke-linecap: round;
}
.glyph:hover path {
  stroke: var(--hover);
}
.glyph.selected path {
  stroke: var(--pick);
  stroke-width: 2;
}
.glyph.bad path {
  stroke: var(--bad);
  stroke-width: 2;
}
</style>
