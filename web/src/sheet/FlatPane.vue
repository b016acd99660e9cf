<script setup lang="ts">
// The blank of a sheet in the second pane: what is picked in it is picked on the body, and lit in both.
import { NDropdown } from 'naive-ui'
import { Vector3 } from 'three'
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { call, download } from '../api/client'
import { turns } from '../api/newest'
import BesideChoice from '../document/BesideChoice.vue'
import { useDocument } from '../document/store'
import { useJobs } from '../jobs/store'
import { useEdited } from '../part/edited'
import Icon from '../ui/Icon.vue'
import { mass } from '../ui/format'
import { area, bare, length, rounded, units } from '../ui/units'
import type { BodySpec, Hit } from '../viewport/body'
import type { Mark, Wanted } from '../viewport/engine'
import { usePanes } from '../viewport/panes'
import { arrow, cross, edgeOf, faceNamed, faceOf, type Flat, formFace, lit, open, path, type Struck, wordsOf } from './flat'

import LayersPanel from './LayersPanel.vue'
import { useLayers } from './layers'
import NestPanel from './NestPanel.vue'
import StrikeView from './StrikeView.vue'

const props = defineProps<{ bodies: BodySpec[]; marks: Mark[]; wanted: Wanted }>()
const emit = defineEmits<{ pick: [hit: Hit | null, add: boolean] }>()
const doc = useDocument()
const edited = useEdited()
const panes = usePanes()
const flat = shallowRef<Flat | null>(null)
const trouble = ref('')
const loading = ref(false)
const side = ref<'top' | 'bottom'>('top')
const turn = ref(0)
/** What stands under the picture. */
const under = ref<'bends' | 'faults' | 'nest' | 'layers' | null>('bends')
const looked = ref<number | null>(null)
const notes = ref(true)
const over = ref<string | null>(null)
const newest = turns()

/** The open step as it is tried, so that the blank goes along. */
const tried = computed(() => (edited.open && edited.trial && !edited.error ? edited.command : null))
const key = computed(() => [doc.view?.id, panes.blank, side.value, turn.value, tried.value ? edited.trial : doc.build])
async function load(): Promise<void> {
  if (!doc.view || !doc.build) return
  const last = newest()
  loading.value = true
  try {
    const found = await call('post', '/api/documents/{id}/flat', {
      path: { id: doc.view.id },
      body: {
        body: panes.blank ?? '',
        side: side.value,
        turn: turn.value,
        commands: tried.value ? [tried.value] : [],
        upto: tried.value ? edited.index + 1 : null,
      },
    })
    if (!last()) return
    const other = flat.value?.body !== found.body || flat.value.side !== found.side || flat.value.turn !== found.turn
    flat.value = found
    trouble.value = ''
    // Until somebody looks closer, all of it is seen.
    if (other || !closer) fit()
  } catch (error) {
    if (last()) trouble.value = error instanceof Error ? error.message : String(error)
  } finally {
    if (last()) loading.value = false
  }
}
watch(key, () => void load(), { immediate: true })

// --- looking: shifted by dragging, scaled at the pointer
const stage = ref<HTMLDivElement | null>(null)
const room = ref({ w: 600, h: 400 })
/** Pixels per mm, and what of the blank is in the middle. */
const scale = ref(1)
const at = ref<[number, number]>([0, 0])
let closer = false
let observer: ResizeObserver | null = null
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    room.value = { w: entry.contentRect.width, h: entry.contentRect.height }
    if (!closer) fit()
  })
  observer.observe(stage.value!)
})
onUnmounted(() => observer?.disconnect())
function fit(): void {
  closer = false
  const [w, h] = flat.value?.size ?? [100, 100]
  scale.value = 0.86 * Math.min(room.value.w / Math.max(w, 1e-6), (room.value.h - 30) / Math.max(h, 1e-6))
  at.value = [w / 2, h / 2]
}
const box = computed(() => {
  const { w, h } = room.value
  return `${at.value[0] - w / 2 / scale.value} ${-at.value[1] - h / 2 / scale.value} ${w / scale.value} ${h / scale.value}`
})
const place = (event: MouseEvent): [number, number] => {
  const b = stage.value!.getBoundingClientRect()
  const [x, y] = [event.clientX - b.left - room.value.w / 2, event.clientY - b.top - room.value.h / 2]
  return [at.value[0] + x / scale.value, at.value[1] - y / scale.value]
}
function wheel(event: WheelEvent): void {
  const p = place(event)
  const by = Math.exp(-Math.max(-1, Math.min(1, event.deltaY * 0.0016)))
  at.value = [p[0] + (at.value[0] - p[0]) / by, p[1] + (at.value[1] - p[1]) / by]
  scale.value *= by
  closer = true
}
let from: [number, number] | null = null
let moved = 0
function down(event: PointerEvent): void {
  from = [event.clientX, event.clientY]
  moved = 0
}
function move(event: PointerEvent): void {
  if (!from || !event.buttons) return
  const [dx, dy] = [event.clientX - from[0], event.clientY - from[1]]
  moved += Math.abs(dx) + Math.abs(dy)
  if (moved < 4) return
  at.value = [at.value[0] - dx / scale.value, at.value[1] + dy / scale.value]
  from = [event.clientX, event.clientY]
  closer = true
}

// --- picking
const spec = computed(() => props.bodies.find((b) => b.id === flat.value?.body) ?? null)
const bright = computed(() =>
  spec.value ? lit(props.marks, spec.value) : { patches: new Set<string>(), walls: new Set<string>(), forms: new Set<string>() },
)
const edges = computed(() => props.wanted !== 'face' && props.wanted !== 'none')
function hit(mark: Mark | null, event: MouseEvent): void {
  if (moved >= 4 || props.wanted === 'none') return
  const t = spec.value?.mesh.topology
  const item = mark && t ? (mark.kind === 'face' ? t.faces[mark.index] : t.edges[mark.index]) : null
  emit('pick', mark && item ? { ...mark, point: new Vector3(...item.at), depth: 0 } : null, event.shiftKey)
}
function pickPatch(id: string, event: MouseEvent): void {
  if (flat.value && spec.value && props.wanted !== 'edge') hit(faceOf(flat.value, spec.value, id), event)
}
function pickWall(patch: string, wall: string, event: MouseEvent): void {
  if (!flat.value || !spec.value) return
  const face = faceNamed(spec.value.mesh.topology, wall)
  if (edges.value) hit(edgeOf(flat.value, spec.value, patch, wall), event)
  else if (face >= 0) hit({ body: spec.value.id, kind: 'face', index: face }, event)
}

function pickForm(id: string, event: MouseEvent): void {
  const face = spec.value ? formFace(spec.value, id) : -1
  if (spec.value && face >= 0 && props.wanted !== 'edge') hit({ body: spec.value.id, kind: 'face', index: face }, event)
}

// --- what cannot be made
function see(i: number | null): void {
  looked.value = i
  panes.spots = i === null ? [] : [flat.value!.faults[i].spot]
}
function go(i: number): void {
  at.value = flat.value!.faults[i].at
  scale.value = Math.max(scale.value, (0.25 * room.value.w) / Math.max(...flat.value!.size, 1) / 0.1)
  closer = true
}
onUnmounted(() => (panes.spots = []))

// --- the order bends are struck in
const jobs = useJobs()
const job = computed(() => {
  const last = jobs.newest('bend_order')
  return last && !jobs.isOld(last.id) ? last : null
})
const seeking = computed(() => job.value?.state === 'queued' || job.value?.state === 'running')
const struck = computed(() => (job.value?.state === 'done' ? (job.value.result as unknown as Struck) : null))
/** Of a bend: which strike it is, and what is done before it. */
const strikes = computed(() => {
  const found = new Map<string, string>()
  struck.value?.strikes.forEach((s, i, all) => {
    const before = all[i - 1]
    const notes = [
      ...(before && s.over !== before.over ? ['turn over'] : !before && s.over ? ['bottom up'] : []),
      ...(before && s.round !== before.round ? ['turn round'] : []),
      ...(!before || s.punch !== before.punch ? [`${s.punch} punch`] : []),
      ...(s.pressed ? ['then pressed'] : []),
    ]
    found.set(s.bend, [`${i + 1}.`, notes.join(', ')].join(' ').trim())
  })
  return found
})
/** The order stands in the table, in the place of lengths in the flat. */
const showsOrder = ref(true)
const ordered = computed(() => showsOrder.value && struck.value !== null)
const listed = computed(() => {
  const rank = new Map(struck.value?.strikes.map((s, i) => [s.bend, i]))
  return ordered.value && rank.size ? [...bends.value].sort((a, b) => (rank.get(a.id) ?? 1e6) - (rank.get(b.id) ?? 1e6)) : bends.value
})
const numbers = computed(() => new Map(bends.value.map((b) => [b.id, b.number])))
const played = ref(false)
const numberOf = (id: string): number | undefined => bends.value.find((b) => b.id === id)?.number
function order(): void {
  void jobs.start('bend_order', { body: flat.value?.body ?? '' }).catch(doc.refused)
}

/** What is not in it because it does not build. */
const failed = computed(() => (doc.build?.steps ?? []).filter((s) => s.status === 'failed').length)

// --- handing over
const FILES = [
  { label: 'DXF: outline, bend lines, notes', key: 'dxf' },
  { label: 'Layers of the DXF …', key: 'layers' },
  { label: 'PDF at 1:1', key: 'pdf' },
  { label: 'SVG at true size', key: 'svg' },
  { label: 'STEP, laid flat', key: 'step' },
  { label: 'Bend table (CSV)', key: 'csv' },
]
function save(form: string): void {
  if (form === 'layers') {
    under.value = 'layers'
    return
  }
  const asked = new URLSearchParams({ body: flat.value?.body ?? '', side: side.value, turn: String(turn.value) })
  if (form === 'dxf' && layers.told.value) asked.set('layers', layers.told.value)
  void download(`/api/documents/${doc.view!.id}/flat.${form}?${asked}`).catch(doc.refused)
}
const layers = useLayers()
const bends = computed(() => flat.value?.bends ?? [])
const facts = computed(() => {
  const f = flat.value
  if (!f) return []
  return [
    `${length(f.size[0])} × ${length(f.size[1])}`,
    area(f.area),
    ...(f.mass ? [mass(f.mass)] : []),
    `cut ${length(f.cut)}`,
    `${f.pierces} ${f.pierces === 1 ? 'pierce' : 'pierces'}`,
  ]
})
/** Bend notes that have room on their lines. */
const words = computed(() =>
  bends.value.flatMap((b) => {
    const w = wordsOf(b)
    if (!w) return []
    const text = `${b.number} ${b.up ? 'up' : 'down'} ${rounded(b.angle, 2)}° R${rounded(b.radius, 3)}`
    const room = w.long * scale.value
    // Over its line, or under it where the blank ends there.
    const a = ((w.turn + 90) * Math.PI) / 180
    const [x, y] = [w.x + (16 * Math.cos(a)) / scale.value, w.y + (16 * Math.sin(a)) / scale.value]
    const [wide, high] = flat.value!.size
    const over = x > 0 && y > 0 && x < wide && y < high
    return [{ ...w, id: b.id, up: b.up, dy: over ? -4 : 12, text: notes.value && room > 6.2 * text.length ? text : String(b.number) }]
  }),
)
</script>

<template>
  <section class="flat" data-testid="flat">
    <div class="bar">
      <BesideChoice />
      <span class="chips" role="group" aria-label="Side kept up">
        <button class="chip" :class="{ on: side === 'top' }" title="The top of the sheet is seen" @click="side = 'top'">Top up</button>
        <button class="chip" :class="{ on: side === 'bottom' }" title="The bottom of the sheet is seen" @click="side = 'bottom'">
          Bottom up
        </button>
      </span>
      <span class="grow" />
      <button class="icon-btn" title="Turn by 90°" aria-label="Turn by 90°" data-testid="flat-turn" @click="turn = (turn + 90) % 360">
        <Icon name="revolute" :size="16" />
      </button>
      <button class="icon-btn" title="All of it" aria-label="Fit the blank" @click="fit"><Icon name="fit" :size="16" /></button>
      <NDropdown :options="FILES" trigger="click" @select="save">
        <button class="icon-btn" title="Hand over" aria-label="Hand over the blank" data-testid="flat-files">
          <Icon name="download" :size="16" />
        </button>
      </NDropdown>
      <button class="icon-btn" aria-label="Shut this pane" title="Shut this pane (B)" data-testid="shut-beside" @click="panes.close()">
        <Icon name="close" :size="16" />
      </button>
    </div>
    <div
      ref="stage"
      class="stage"
      :class="{ old: loading }"
      @wheel.prevent="wheel"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="from = null"
      @pointerleave="from = null"
      @click.self="(e) => hit(null, e)"
    >
      <svg v-if="flat" class="picture" :viewBox="box" data-testid="flat-picture" @click.self="(e) => hit(null, e)">
        <path
          v-for="p in flat.patches"
          :key="p.id"
          class="patch"
          :class="{ bend: p.bend, lit: bright.patches.has(p.id) || over === p.id }"
          :d="path(p.loops)"
          :data-patch="p.id"
          @click="(e) => pickPatch(p.id, e)"
        />
        <path v-for="(l, i) in flat.outline" :key="`o${i}`" class="outline" :d="path([l])" />
        <g v-for="f in flat.forms" :key="f.id" class="form" :class="{ down: !f.up, lit: bright.forms.has(f.id) }" :data-form="f.id">
          <title>{{ f.name }}: {{ f.said }}</title>
          <path class="area" :d="path(f.loops)" @click="(e) => pickForm(f.id, e)" />
          <path v-if="f.path.length" class="along" :d="open(f.path)" />
          <path v-else class="along" :d="cross(f.at, 3)" />
        </g>
        <path v-if="flat.grain !== null" class="grain" :d="arrow(flat.size, flat.grain)"><title>The way it was rolled</title></path>
        <template v-for="b in bends" :key="b.id">
          <path
            v-for="(l, i) in b.lines"
            :key="i"
            class="line"
            :class="{ down: !b.up, lit: over === b.id || bright.patches.has(b.id) }"
            :d="open(l)"
          />
        </template>
        <template v-for="p in flat.patches" :key="`w${p.id}`">
          <path
            v-for="w in p.walls"
            :key="w.name"
            class="wall"
            :class="{ lit: bright.walls.has(w.name) }"
            :d="open(w.points)"
            :data-wall="w.name"
            @click="(e) => pickWall(p.id, w.name, e)"
          />
        </template>
        <circle
          v-for="(lap, i) in flat.laps"
          :key="`l${i}`"
          class="lap"
          :cx="lap.at[0]"
          :cy="-lap.at[1]"
          :r="Math.max(9 / scale, Math.sqrt(lap.area) / 2)"
        />
        <template v-if="under === 'faults'">
          <g v-for="(f, i) in flat.faults" :key="`f${i}`" :transform="`translate(${f.at[0]} ${-f.at[1]}) scale(${1 / scale})`">
            <circle class="fault" :class="{ lit: looked === i }" r="8" />
            <text class="number" y="4">{{ i + 1 }}</text>
          </g>
        </template>
        <g v-for="w in words" :key="w.id" :transform="`translate(${w.x} ${-w.y}) rotate(${-w.turn}) scale(${1 / scale})`">
          <text class="words" :class="{ down: !w.up, lit: over === w.id }" :y="w.dy">{{ w.text }}</text>
        </g>
      </svg>
      <p v-if="trouble" class="trouble note" role="alert">{{ trouble }}</p>
      <p v-else-if="failed" class="trouble note" role="alert" data-testid="flat-failed">
        {{ failed === 1 ? 'A step does' : `${failed} steps do` }} not build: the blank is without {{ failed === 1 ? 'it' : 'them' }}
      </p>
      <p v-else-if="flat?.laps.length" class="trouble note" role="alert" data-testid="flat-laps">
        The blank lies on itself: {{ flat.laps[0].name_a }} on {{ flat.laps[0].name_b }} by {{ area(flat.laps[0].area)
        }}<template v-if="flat.laps.length > 1"> and {{ flat.laps.length - 1 }} more</template>
      </p>
    </div>
    <div v-if="flat" class="facts" data-testid="flat-facts">
      <span v-for="f in facts" :key="f">{{ f }}</span>
      <span class="grow" />
      <button class="chip" :class="{ on: notes }" title="What stands on bend lines" @click="notes = !notes">Notes</button>
      <button
        class="chip"
        :class="{ on: under === 'bends' }"
        title="The table of bends"
        data-testid="flat-bends"
        @click="under = under === 'bends' ? null : 'bends'"
      >
        Bends
      </button>
      <button
        class="chip"
        :class="{ on: under === 'faults' }"
        title="What the shop cannot make, or not well"
        data-testid="flat-faults"
        @click="under = under === 'faults' ? null : 'faults'"
      >
        Makeable<span v-if="flat.faults.length" class="badge">{{ flat.faults.length }}</span>
      </button>
      <button
        class="chip"
        :class="{ on: under === 'nest' }"
        title="Blanks laid out on stock sheets"
        data-testid="flat-nest"
        @click="under = under === 'nest' ? null : 'nest'"
      >
        Nest
      </button>
    </div>
    <NestPanel v-if="flat && under === 'nest'" :flat="flat" />
    <LayersPanel v-if="under === 'layers'" @shut="under = null" />
    <div v-if="flat && under === 'bends' && bends.length" class="table" :class="{ played }">
      <p class="order" data-testid="flat-order">
        <template v-if="seeking">
          <span>looking for an order: {{ job?.stage }}</span>
          <button class="btn small" @click="jobs.cancel(job!.id)">Stop</button>
        </template>
        <template v-else-if="struck">
          <span v-if="struck.whole">Can be bent in this order on a press brake.</span>
          <span v-else class="trouble"
            >After {{ struck.strikes.length }} of {{ bends.length }} bends:
            <template v-for="s in struck.stops.slice(0, 2)" :key="s.bend"
              >at bend {{ numberOf(s.bend) }} ({{ s.name }}) {{ s.meets }} meets the {{ s.tool }} at {{ Math.round(s.share * 100) }} % of
              its angle.
            </template>
            <template v-if="!struck.in_time">There was no time to try all.</template></span
          >
        </template>
        <template v-if="!seeking && struck">
          <button v-if="ordered" class="btn small" data-testid="play-order" @click="played = !played">
            {{ played ? 'Hide strikes' : 'Play' }}
          </button>
          <button class="btn small" @click="showsOrder = !showsOrder">{{ ordered ? 'Flat lengths' : 'Order' }}</button>
        </template>
        <template v-else-if="!seeking">
          <span class="muted">Numbered as they were made.</span>
          <button class="btn small" data-testid="find-order" @click="order">Find a bend order</button>
        </template>
      </p>
      <StrikeView v-if="played && ordered && struck" :struck="struck" :numbers="numbers" @over="(b) => (over = b)" />
      <table v-else>
        <thead>
          <tr>
            <th>Bend</th>
            <th>Made by</th>
            <th v-if="ordered">Struck</th>
            <th class="n">Angle</th>
            <th class="n" :title="`In ${units.length}`">Radius</th>
            <th v-if="!ordered" class="n" :title="`In ${units.length}`">Length</th>
            <th v-if="!ordered" class="n" :title="`Length of the bend in the flat, in ${units.length}`">Allowance</th>
            <th v-if="!ordered" class="n" :title="`What the blank is shorter than the outside lengths, in ${units.length}`">Deduction</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="b in listed"
            :key="b.id"
            :class="{ lit: over === b.id || bright.patches.has(b.id) }"
            @mouseenter="over = b.id"
            @mouseleave="over = null"
            @click="(e) => pickPatch(b.id, e)"
          >
            <td>{{ b.number }}</td>
            <td class="by">{{ b.name }}</td>
            <td v-if="ordered" class="said">{{ strikes.get(b.id) ?? 'not yet' }}</td>
            <td class="n">{{ b.up ? 'up' : 'down' }} {{ rounded(b.angle, 3) }}°</td>
            <td class="n">{{ bare(b.radius) }}</td>
            <td v-if="!ordered" class="n">{{ bare(b.length) }}</td>
            <td v-if="!ordered" class="n">{{ bare(b.allowance) }}</td>
            <td v-if="!ordered" class="n">{{ bare(b.deduction) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="flat && under === 'faults'" class="table" data-testid="flat-makeable">
      <p v-if="!flat.faults.length" class="well">Nothing stands against making it.</p>
      <table v-else>
        <tbody>
          <tr
            v-for="(f, i) in flat.faults"
            :key="i"
            :class="{ lit: looked === i }"
            @mouseenter="see(i)"
            @mouseleave="see(null)"
            @click="go(i)"
          >
            <td>{{ i + 1 }}</td>
            <td class="by">{{ f.name }}</td>
            <td class="said">{{ f.text }}: {{ f.mend }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.flat {
  container-type: inline-size;
  display: flex;
  flex-direction: column;
  height: 100%;
  min-width: 0;
  border-left: 1px solid var(--line-2);
  background: var(--paper);
}
.bar {
  height: 38px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 6px;
  padding: 0 10px;
  overflow: hidden;
}
.grow {
  flex: 1;
}
.stage {
  position: relative;
  flex: 1;
  min-height: 0;
  overflow: hidden;
  touch-action: none;
}
.picture {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  cursor: default;
}
.stage.old .picture {
  opacity: 0.55;
  transition: opacity 0.2s 0.25s;
}
.picture path {
  fill: none;
  stroke: none;
  vector-effect: non-scaling-stroke;
}
.picture .patch {
  fill: var(--panel);
  fill-rule: evenodd;
}
.picture .patch.bend {
  fill: color-mix(in srgb, var(--accent) 13%, var(--panel));
}
.picture .patch:hover {
  fill: color-mix(in srgb, var(--hover) 22%, var(--panel));
}
.picture .patch.lit {
  fill: color-mix(in srgb, var(--pick) 26%, var(--panel));
}
.picture .form .area {
  fill: color-mix(in srgb, var(--down) 10%, transparent);
  fill-rule: evenodd;
  stroke: var(--ink-2);
  stroke-width: 1;
}
.picture .form .along {
  stroke: var(--ink-2);
  stroke-width: 1;
  pointer-events: none;
}
.picture .form.down path {
  stroke-dasharray: 4 3;
}
.picture .form:hover .area {
  fill: color-mix(in srgb, var(--hover) 30%, transparent);
}
.picture .form.lit .area {
  fill: color-mix(in srgb, var(--pick) 30%, transparent);
  stroke: var(--pick);
}
.picture .grain {
  stroke: var(--ink-3);
  stroke-width: 1.2;
  pointer-events: none;
}
.picture .outline {
  stroke: var(--ink);
  stroke-width: 1.4;
  pointer-events: none;
}
.picture .line {
  stroke: var(--accent);
  stroke-width: 1.3;
  pointer-events: none;
}
.picture .line.down {
  stroke: var(--down);
  stroke-dasharray: 7 4;
}
.picture .line.lit {
  stroke: var(--pick);
  stroke-width: 2.4;
}
.picture .wall {
  stroke: transparent;
  stroke-width: 9;
  pointer-events: stroke;
}
.picture .wall:hover {
  stroke: color-mix(in srgb, var(--hover) 60%, transparent);
  stroke-width: 4;
}
.picture .wall.lit {
  stroke: var(--pick);
  stroke-width: 3;
}
.lap {
  fill: color-mix(in srgb, var(--bad) 18%, transparent);
  stroke: var(--bad);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
  pointer-events: none;
}
.words {
  font-size: 11px;
  text-anchor: middle;
  fill: var(--accent);
  paint-order: stroke;
  stroke: var(--panel);
  stroke-width: 3px;
  stroke-linejoin: round;
  pointer-events: none;
}
.words.down {
  fill: var(--down);
}
.words.lit {
  fill: var(--pick);
  font-weight: 600;
}
.fault {
  fill: var(--bad);
}
.fault.lit {
  fill: var(--pick);
}
.number {
  font-size: 10.5px;
  font-weight: 600;
  text-anchor: middle;
  fill: var(--panel);
  pointer-events: none;
}
.said {
  white-space: normal;
}
.well {
  margin: 0;
  padding: 8px 12px;
  color: var(--ink-2);
}
.badge {
  margin-left: 5px;
  padding: 0 5px;
  border-radius: 8px;
  background: var(--bad);
  color: var(--panel);
  font-size: 11px;
  font-weight: 600;
}
.note {
  position: absolute;
  left: 12px;
  top: 8px;
  margin: 0;
}
.facts {
  flex: none;
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 3px 12px;
  border-top: 1px solid var(--line);
  font-size: 12px;
  color: var(--ink-2);
}
.table {
  flex: none;
  max-height: 34%;
  overflow: auto;
  border-top: 1px solid var(--line);
  background: var(--panel);
}
.table.played {
  max-height: 72%;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
}
th,
td {
  padding: 3px 7px;
  text-align: left;
  white-space: nowrap;
}
th {
  position: sticky;
  top: 0;
  background: var(--panel-2);
  color: var(--ink-2);
  font-weight: 600;
}
.n {
  text-align: right;
}
.order {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 10px;
  margin: 0;
  padding: 4px 8px;
  font-size: 12px;
}
.by {
  max-width: 110px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.facts .chip {
  height: 20px;
  margin-left: -8px;
}
tbody tr {
  border-top: 1px solid var(--line);
  cursor: pointer;
}
tr.lit {
  background: var(--pick-soft);
}
</style>
