<script setup lang="ts">
// The planes that cut the picture open: typed, slid, or dragged by their handles in the picture.
import { computed, ref } from 'vue'
import { Vector3 } from 'three'
import Icon from '../ui/Icon.vue'
import { trim } from '../ui/format'
import type { Engine } from './engine'
import type { Triple } from './mesh'
import { axisOf, type Cut, planesOf, planeThrough, rangeOfPlane, withPlaneAt } from './sections'
import { number, toMm, units } from '../ui/units'

const props = defineProps<{
  engine: Engine
  tick: number
  /** A picked flat face. */ face: { normal: Triple; at: Triple } | null
}>()
const cut = defineModel<Cut | null>({ required: true })

const AXES = ['X', 'Y', 'Z']
const box = computed(() => {
  void cut.value
  return props.engine.box()
})
const rows = computed(() =>
  cut.value
    ? planesOf(cut.value).map((plane, i) => {
        const axis = axisOf(plane)
        const sign = axis === null ? 1 : plane.normal[axis]
        const [low, high] = rangeOfPlane(box.value, plane)
        const word = cut.value?.kind === 'box' ? `${i % 2 ? 'to' : 'from'} ${AXES[Math.floor(i / 2)]}` : axis === null ? 'Face' : AXES[axis]
        // Shown as the coordinate for planes square to an axis, else along the normal.
        return { plane, axis, word, sign, low: sign > 0 ? low : -high, high: sign > 0 ? high : -low, at: sign * plane.at }
      })
    : [],
)
const put = (i: number, shown: number): void => {
  if (cut.value && Number.isFinite(shown)) cut.value = withPlaneAt(cut.value, i, rows.value[i].sign * shown)
}
function setAxis(i: number, axis: 0 | 1 | 2): void {
  if (cut.value?.kind !== 'planes') return
  cut.value = { ...cut.value, planes: cut.value.planes.map((p, k) => (k === i ? planeThrough(box.value, axis) : p)) }
}
function flip(i: number): void {
  if (cut.value?.kind !== 'planes') return
  const turn = (v: Triple): Triple => [-v[0] + 0, -v[1] + 0, -v[2] + 0]
  cut.value = { ...cut.value, planes: cut.value.planes.map((p, k) => (k === i ? { normal: turn(p.normal), at: -p.at } : p)) }
}
function add(): void {
  if (cut.value?.kind !== 'planes') return
  const used = cut.value.planes.map(axisOf)
  const axis = ([0, 2, 1] as const).find((a) => !used.includes(a)) ?? 0
  cut.value = { ...cut.value, planes: [...cut.value.planes, planeThrough(box.value, axis)] }
}
function remove(i: number): void {
  if (cut.value?.kind !== 'planes') return
  const planes = cut.value.planes.filter((_, k) => k !== i)
  cut.value = planes.length ? { ...cut.value, planes } : null
}
function shape(kind: 'planes' | 'box'): void {
  if (kind === cut.value?.kind) return
  const { min, max } = box.value
  const size = max.clone().sub(min)
  if (kind === 'planes') cut.value = { kind, planes: [planeThrough(box.value, 1)], corner: false }
  // A box that takes a quarter off the near upper corner shows at once what it does.
  else cut.value = { kind, low: [min.x, min.y + size.y / 4, min.z], high: [max.x - size.x / 4, max.y, max.z - size.z / 4] }
}
function alongFace(): void {
  const f = props.face
  if (!f || cut.value?.kind !== 'planes') return
  const at = f.normal[0] * f.at[0] + f.normal[1] * f.at[1] + f.normal[2] * f.at[2]
  const [low, high] = rangeOfPlane(box.value, { normal: f.normal, at })
  // On the skin itself there is nothing to see: start a tenth further in.
  const plane = { normal: f.normal, at: at > high - 1e-6 ? at - 0.1 * (high - low) : at }
  cut.value = { ...cut.value, planes: [...cut.value.planes.slice(0, -1), plane] }
}

/** Handles: an arrow along each normal, from the middle of the box on its plane. */
const handles = computed(() => {
  void props.tick
  const c = box.value.getCenter(new Vector3())
  const reach = 40 * props.engine.camera.unit
  return rows.value.map(({ plane }) => {
    const n = new Vector3(...plane.normal)
    const on = c.clone().addScaledVector(n, plane.at - c.dot(n))
    const [x, y] = props.engine.camera.project(on)
    const [tx, ty] = props.engine.camera.project(on.clone().addScaledVector(n, reach))
    return { x, y, tx, ty, along: Math.hypot(tx - x, ty - y) }
  })
})
const dragging = ref<{ i: number; x: number; y: number; at: number } | null>(null)
function down(event: PointerEvent, i: number): void {
  if (!cut.value) return
  ;(event.target as Element).setPointerCapture(event.pointerId)
  dragging.value = { i, x: event.clientX, y: event.clientY, at: planesOf(cut.value)[i].at }
}
function move(event: PointerEvent): void {
  const d = dragging.value
  if (!d || !cut.value) return
  const h = handles.value[d.i]
  const [dx, dy] = [(h.tx - h.x) / h.along, (h.ty - h.y) / h.along]
  const pixels = (event.clientX - d.x) * dx + (event.clientY - d.y) * dy
  const [low, high] = rangeOfPlane(box.value, planesOf(cut.value)[d.i])
  // A plane seen at a slant moves by more than the pixels say.
  const at = d.at + (pixels * props.engine.camera.unit * 40) / h.along
  cut.value = withPlaneAt(cut.value, d.i, Math.min(high, Math.max(low, at)))
}
</script>

<template>
  <svg v-if="cut" class="handles">
    <g
      v-for="(h, i) in handles"
      :key="i"
      :class="{ flat: h.along < 6 }"
      :data-testid="`section-handle-${i}`"
      @pointerdown.stop="down($event, i)"
      @pointermove="move"
      @pointerup="dragging = null"
    >
      <line class="grip" :x1="h.x" :y1="h.y" :x2="h.tx" :y2="h.ty" />
      <line :x1="h.x" :y1="h.y" :x2="h.tx" :y2="h.ty" />
      <circle :cx="h.x" :cy="h.y" r="4" />
      <circle :cx="h.tx" :cy="h.ty" r="6" />
    </g>
  </svg>
  <div v-if="cut" class="section" :class="cut.kind" data-testid="section" @pointerdown.stop>
    <header>
      <span class="segmented">
        <button :class="{ on: cut.kind === 'planes' }" @click="shape('planes')">Planes</button>
        <button :class="{ on: cut.kind === 'box' }" @click="shape('box')">Box</button>
      </span>
      <template v-if="cut.kind === 'planes'">
        <button class="chip" :disabled="cut.planes.length > 2" data-testid="section-add" @click="add">+ plane</button>
        <button
          class="chip"
          :disabled="!face"
          :title="face ? 'Turn the last plane along the picked face' : 'Pick a flat face first'"
          @click="alongFace"
        >
          Along face
        </button>
        <button
          v-if="cut.planes.length > 1"
          class="chip"
          :class="{ on: cut.corner }"
          title="Take away only what lies beyond all planes"
          data-testid="section-corner"
          @click="cut = { ...cut, corner: !cut.corner }"
        >
          Corner only
        </button>
      </template>
    </header>
    <div v-for="(r, i) in rows" :key="i" class="row">
      <span v-if="cut.kind === 'planes'" class="segmented">
        <button v-for="(word, k) in AXES" :key="word" :class="{ on: r.axis === k }" @click="setAxis(i, k as 0 | 1 | 2)">
          {{ word }}
        </button>
      </span>
      <span v-else class="word">{{ r.word }}</span>
      <input
        v-if="cut.kind === 'planes'"
        type="range"
        :min="r.low"
        :max="r.high"
        step="any"
        :value="r.at"
        :aria-label="`Section position ${i + 1}`"
        @input="put(i, Number(($event.target as HTMLInputElement).value))"
      />
      <input
        class="field num"
        :value="trim(number(r.at), units.length === 'mm' ? 2 : 4)"
        :aria-label="`Section at ${i + 1}`"
        :data-testid="`section-at-${i}`"
        @keydown.stop
        @change="put(i, toMm(parseFloat(($event.target as HTMLInputElement).value)))"
      />
      <span class="mm">{{ units.length }}</span>
      <template v-if="cut.kind === 'planes'">
        <button class="icon-btn" title="Other side" aria-label="Other side" @click="flip(i)">
          <Icon name="slider" :size="14" />
        </button>
        <button class="icon-btn" title="Take this plane away" aria-label="Take this plane away" @click="remove(i)">
          <Icon name="close" :size="14" />
        </button>
      </template>
    </div>
  </div>
</template>

<style scoped>
.handles {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.handles g {
  pointer-events: auto;
  cursor: grab;
}
.handles g.flat {
  display: none;
}
.handles line {
  stroke: var(--accent);
  stroke-width: 2;
}
.handles line.grip {
  stroke: transparent;
  stroke-width: 14;
}
.handles circle {
  fill: var(--accent);
  stroke: var(--panel);
  stroke-width: 1.5;
}
.section {
  position: absolute;
  left: 50%;
  transform: translateX(-50%);
  bottom: 10px;
  z-index: 3;
  background: var(--panel);
  border: 1px solid var(--line);
  border-radius: 8px;
  padding: 6px 10px;
  box-shadow: var(--shadow);
  display: flex;
  flex-direction: column;
  gap: 4px;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
}
/* A box is dragged in the picture; its six numbers stand in three rows. */
.section.box {
  display: grid;
  grid-template-columns: auto auto;
  column-gap: 14px;
}
.box header {
  grid-column: 1 / -1;
}
.chip:disabled {
  opacity: 0.5;
  cursor: default;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
.word {
  min-width: 46px;
  color: var(--ink-2);
}
.row input[type='range'] {
  width: 150px;
  accent-color: var(--accent);
}
.num {
  width: 66px;
  height: 24px;
  text-align: right;
}
.mm {
  color: var(--ink-2);
  font-size: 12px;
}
</style>
