<script setup lang="ts">
// A strength study: supports and loads picked on the part, the run, stress and deflection.
import { Vector3 } from 'three'
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { partBodies } from '../document/bodies'
import { useDocument } from '../document/store'
import { useJobs } from '../jobs/store'
import { Stack } from '../shell/layers'
import type { Verb } from '../shell/VerbRail.vue'
import Workbench from '../shell/Workbench.vue'
import { trim } from '../ui/format'
import type { BodySpec, Hit } from '../viewport/body'
import type { Engine, Mark, Wanted } from '../viewport/engine'
import { findPick, pickAt, type StoredPick } from '../viewport/mesh'
import { asMesh, fetchField, lengths, moved, type ResultField, tint } from './field'
import { scale } from '../ui/scale'
import StudyPanel, { type Condition } from './StudyPanel.vue'
import StudyResults from './StudyResults.vue'
import { length, number, stress, stressNumber, typed, units } from '../ui/units'

const ViewPane = defineAsyncComponent(() => import('../viewport/ViewPane.vue'))
const props = defineProps<{ drawer: string | null }>()
const emit = defineEmits<{ drawer: [key: string | null]; engine: [engine: Engine] }>()
const doc = useDocument()
const jobs = useJobs()

const built = shallowRef<Schemas['StudyView'] | null>(null)
const engine = shallowRef<Engine | null>(null)
const tick = ref(0)
const edited = ref<Condition | null>(null)
const selected = ref<string | null>(null)
const show = ref<'part' | 'stress' | 'deflection'>('part')
const factor = ref(0)
const field = shallowRef<ResultField | null>(null)
const base = shallowRef<BodySpec[]>([])

async function rebuild(): Promise<void> {
  const view = doc.view
  if (!view || view.kind !== 'study') return
  try {
    built.value = await call('get', '/api/documents/{id}/study', { path: { id: view.id } })
    base.value = await partBodies(built.value.part)
  } catch (error) {
    doc.refused(error)
  }
}
watch([() => doc.view?.revision, () => doc.touched], () => void rebuild(), { immediate: true })

// The newest finished run; out of date when the part or the study changed since.
const job = computed(() => jobs.newest('strength'))
const answer = computed(() =>
  job.value?.state === 'done'
    ? (job.value.result as { answer: Answer; field: string; material: string; yield: number; body: string } | null)
    : null,
)
interface Answer {
  nodes: number
  unknowns: number
  mesh_size: number
  volume_error: number
  peak: number
  peak_at: [number, number, number]
  peak_jump: number | null
  safety: number
  deflection: number
  deflection_at: [number, number, number]
  reactions: { id: string; force: [number, number, number] }[]
  reaction: [number, number, number]
  load: [number, number, number]
  imbalance: number
  corner: 'inner' | 'support' | null
  growth: number | null
  away_from_corners: number | null
  seconds: Record<string, number>
}
const key = ref<string | null>(null)
const stale = ref(false)
watch(
  [answer, () => doc.touched],
  async () => {
    stale.value = false
    if (answer.value && answer.value.field !== key.value) {
      try {
        field.value = await fetchField(answer.value.field)
        key.value = answer.value.field
        show.value = 'stress'
        factor.value = auto.value
      } catch (error) {
        doc.refused(error)
      }
    }
  },
  { immediate: true },
)
watch(
  () => [base.value.map((b) => b.mesh.key), answer.value?.body],
  () => {
    stale.value = Boolean(answer.value && base.value.length && !base.value.some((b) => b.mesh.key === answer.value!.body))
  },
)

const values = computed(() => (field.value ? (show.value === 'deflection' ? lengths(field.value.displacement) : field.value.mises) : null))
const top = computed(() => {
  let most = 0
  for (const v of values.value ?? []) if (v > most) most = v
  return most
})
/** Exaggeration that shows the shape: the largest shift becomes a tenth of the part. */
const auto = computed(() => {
  const f = field.value
  if (!f) return 0
  let size = 0
  for (const p of f.points) size = Math.max(size, Math.abs(p))
  let most = 0
  for (const d of lengths(f.displacement)) if (d > most) most = d
  return most > 0 ? Number(((0.12 * size) / most).toPrecision(1)) : 0
})
const bodies = computed<BodySpec[]>(() => {
  const f = field.value
  if (show.value === 'part' || !f || !values.value || edited.value) return base.value
  const positions = moved(f, factor.value)
  const name = `${key.value}-${show.value}-${factor.value}`
  return [
    { id: 'result', mesh: asMesh(f, name, positions), colour: '#ffffff', tint: tint(values.value, top.value) },
    ...base.value.map((b) => ({ ...b, id: `ghost-${b.id}`, ghost: true })),
  ]
})

const verbs: Verb[] = [
  {
    label: 'Hold',
    icon: 'fixed',
    tools: [{ key: 'support', label: 'Support', icon: 'fixed', line: 'Faces and edges held, fully or in part' }],
  },
  {
    label: 'Load',
    icon: 'force',
    tools: [
      { key: 'force', label: 'Force', icon: 'force', line: 'A force spread over faces' },
      { key: 'pressure', label: 'Pressure', icon: 'pressure', line: 'A pressure on faces' },
      { key: 'gravity', label: 'Gravity', icon: 'gravity', line: 'The part’s own weight' },
    ],
  },
  { label: 'Solve', icon: 'play', tools: [{ key: 'solve', label: 'Solve', icon: 'play', line: 'Mesh and solve' }] },
]
/** What a plain number is in the size of a load. */
const SIZE_KIND: Record<string, string> = { force: 'force', pressure: 'pressure' }
const SIZE: Record<string, string> = { force: '100 N', pressure: '1 MPa', gravity: '9.80665 m/s**2', support: '' }
async function tool(kind: string): Promise<void> {
  if (kind === 'solve') {
    emit('drawer', 'results')
    await jobs.start('strength').catch(doc.refused)
    return
  }
  show.value = 'part'
  edited.value = {
    id: null,
    kind: kind as Condition['kind'],
    faces: [],
    edges: [],
    hold: 'all',
    ways: [true, true, true],
    size: SIZE[kind],
    direction: [0, 0, -1],
    name: '',
  }
}
const onPart = computed(() => show.value === 'part' || edited.value !== null)
function take(hit: Hit | null): void {
  const d = edited.value
  const spec = hit && base.value.find((b) => b.id === hit.body)
  if (!d || !spec) return
  const pick = pickAt(spec.mesh.topology, hit.body, hit.kind, hit.index)
  const same = JSON.stringify([pick.name, pick.witness?.at])
  const group = hit.kind === 'edge' ? 'edges' : 'faces'
  const rest = d[group].filter((f) => JSON.stringify([f.name, f.witness?.at]) !== same)
  edited.value = { ...d, [group]: rest.length < d[group].length ? rest : [...rest, pick] }
}
/** What a condition is put on, by its kind. */
const PUT_ON: Record<string, Wanted> = { support: 'axis', force: 'face', pressure: 'face', gravity: 'none' }
const stack = new Stack([
  {
    name: 'condition',
    open: () => edited.value !== null,
    wanted: () => PUT_ON[edited.value?.kind ?? ''] ?? 'none',
    pick: take,
    active: () => edited.value?.kind ?? null,
    leave: () => (edited.value = null),
    alone: () => true,
  },
  {
    name: 'study',
    open: () => true,
    wanted: () => (show.value === 'part' ? 'any' : 'none'),
    marks: () => (onPart.value ? shownPicks.value.flatMap(markOf) : []),
    verbs: () => verbs,
  },
])
async function keep(): Promise<void> {
  const d = edited.value
  if (!d) return
  const shared = { faces: d.faces, ...(d.name ? { name: d.name } : {}) }
  const fields =
    d.kind === 'support'
      ? { ...shared, edges: d.edges, hold: d.hold, ways: d.ways }
      : { ...shared, size: typed(d.size, SIZE_KIND[d.kind]), direction: d.direction }
  const kept = d.id
    ? await doc.edit([{ do: 'edit_condition', id: d.id, fields }])
    : await doc.edit([d.kind === 'support' ? { do: 'add_support', ...fields } : { do: 'add_load', kind: d.kind, ...fields }])
  if (kept) edited.value = null
}
const shownPicks = computed<StoredPick[]>(() => {
  if (edited.value) return [...edited.value.faces, ...edited.value.edges]
  const item = [...(doc.study?.supports ?? []), ...(doc.study?.loads ?? [])].find((x) => x.id === selected.value)
  return [...(item?.faces ?? []), ...(item && 'edges' in item ? (item.edges ?? []) : [])] as StoredPick[]
})
function markOf(pick: StoredPick): Mark[] {
  const spec = base.value.find((b) => b.id === pick.body)
  const index = spec ? findPick(spec.mesh.topology, pick) : -1
  return spec && index >= 0 ? [{ body: spec.id, kind: pick.kind as 'face' | 'edge', index }] : []
}
/** Arrows where forces act, standing off the face against the pull. */
const lines = computed(() => {
  const size = base.value.length ? Math.max(...[...base.value[0].mesh.positions].map(Math.abs)) : 50
  const forces: number[] = []
  const holds: number[] = []
  const arrow = (out: number[], at: Vector3, way: Vector3, length: number): void => {
    const tail = at.clone().addScaledVector(way, -length)
    const side = new Vector3(Math.abs(way.z) > 0.9 ? 1 : 0, 0, Math.abs(way.z) > 0.9 ? 0 : 1).cross(way).normalize()
    out.push(...tail.toArray(), ...at.toArray())
    for (const s of [-1, 1])
      out.push(
        ...at.toArray(),
        ...at
          .clone()
          .addScaledVector(way, -0.25 * length)
          .addScaledVector(side, s * 0.12 * length)
          .toArray(),
      )
  }
  for (const load of doc.study?.loads ?? [])
    for (const p of (load.faces ?? []) as StoredPick[]) {
      const at = new Vector3(...((p.witness?.at ?? [0, 0, 0]) as [number, number, number]))
      if (load.kind === 'force') arrow(forces, at, new Vector3(...(load.direction as [number, number, number])).normalize(), 0.3 * size)
    }
  for (const s of doc.study?.supports ?? [])
    for (const p of [...(s.faces ?? []), ...(s.edges ?? [])] as StoredPick[]) {
      const at = new Vector3(...((p.witness?.at ?? [0, 0, 0]) as [number, number, number]))
      const r = 0.05 * size
      for (const [u, v] of [
        [
          [1, 0, 0],
          [0, 1, 0],
        ],
        [
          [0, 1, 0],
          [0, 0, 1],
        ],
        [
          [0, 0, 1],
          [1, 0, 0],
        ],
      ]) {
        const a = new Vector3(...u).multiplyScalar(r)
        const b = new Vector3(...v).multiplyScalar(r)
        holds.push(...at.clone().add(a).add(b).toArray(), ...at.clone().sub(a).sub(b).toArray())
      }
    }
  return [
    { pairs: new Float32Array(forces), tone: 'bad', width: 2.4 },
    { pairs: new Float32Array(holds), tone: 'slate', width: 2 },
  ]
})

const peakMark = computed(() => {
  void tick.value
  const a = answer.value?.answer
  const f = field.value
  const e = engine.value
  if (!a || !f || !e || show.value === 'part' || edited.value) return null
  const at = show.value === 'stress' ? a.peak_at : a.deflection_at
  let best = 0
  let least = Infinity
  for (let i = 0; i < f.points.length / 3; i++) {
    const d = Math.hypot(f.points[3 * i] - at[0], f.points[3 * i + 1] - at[1], f.points[3 * i + 2] - at[2])
    if (d < least) [best, least] = [i, d]
  }
  const p = new Vector3(...[0, 1, 2].map((k) => f.points[3 * best + k] + factor.value * f.displacement[3 * best + k]))
  const [x, y] = e.camera.project(p)
  return { x, y, text: show.value === 'stress' ? stress(a.peak) : length(a.deflection) }
})
const ticks = computed(() => {
  const most = show.value === 'stress' ? stressNumber(top.value) : number(top.value)
  return [1, 0.75, 0.5, 0.25, 0].map((t) => ({ t, text: trim(t * most, most < 1 ? 4 : most < 10 ? 2 : 1) }))
})
const gradient = `linear-gradient(to top, ${Array.from(
  { length: 9 },
  (_, i) =>
    `rgb(${scale(i / 8)
      .map(Math.round)
      .join(' ')}) ${(i * 12.5).toFixed(1)}%`,
).join(', ')})`

function ready(e: Engine): void {
  engine.value = e
  emit('engine', e)
}
defineExpose({ tool, stack })
/** One and the same: a new list would draw the picture anew each time. */
const NONE: typeof lines.value = []
</script>

<template>
  <Workbench
    :verbs="stack.verbs.value"
    :active="stack.active.value"
    :drawer="props.drawer"
    :values="built?.parameters ?? {}"
    :engine="engine"
    :tick="tick"
    :bodies="base"
    @tool="tool"
    @drawer="(k) => emit('drawer', k)"
  >
    <template #view>
      <ViewPane
        :bodies="bodies"
        :lines="show === 'part' || edited ? lines : NONE"
        :picked="stack.marks.value"
        :wanted="stack.wanted.value"
        title="Strength"
        :styles="false"
        @pick="(hit, add) => stack.pick(hit, add)"
        @ready="ready"
        @frame="tick++"
      >
        <template #bar>
          <span class="chips">
            <button class="chip" :class="{ on: show === 'part' }" @click="show = 'part'">Part</button>
            <button class="chip" :class="{ on: show === 'stress' }" :disabled="!field" @click="show = 'stress'">Stress</button>
            <button class="chip" :class="{ on: show === 'deflection' }" :disabled="!field" @click="show = 'deflection'">Deflection</button>
          </span>
        </template>
        <div v-if="show !== 'part' && field && !edited" class="legend" data-testid="legend">
          <b>{{ show === 'stress' ? `von Mises, ${units.stress}` : `deflection, ${units.length}` }}</b>
          <div class="scale">
            <i :style="{ background: gradient }" /><span v-for="t in ticks" :key="t.t" :style="{ bottom: `calc(${t.t * 100}% - 8px)` }">{{
              t.text
            }}</span>
          </div>
          <label
            >Shape × {{ factor
            }}<input v-model.number="factor" type="range" min="0" :max="auto * 2 || 1" :step="auto / 10 || 1" aria-label="Exaggeration"
          /></label>
        </div>
        <div v-if="peakMark" class="peak" :style="{ left: peakMark.x + 'px', top: peakMark.y + 'px' }">
          <span>{{ peakMark.text }}</span>
        </div>
        <div v-if="stale" class="stale" role="status">
          out of date: the part changed since this run <button class="btn small" @click="tool('solve')">Solve again</button>
        </div>
      </ViewPane>
    </template>
    <template #results><StudyResults :job="job" :stale="stale" @run="tool('solve')" /></template>
    <template #panel>
      <StudyPanel
        :edited="edited"
        :selected="selected"
        :troubles="built?.troubles ?? []"
        @update="(d) => (edited = d)"
        @select="
          (id) => {
            selected = id
            show = 'part'
          }
        "
        @keep="keep"
        @discard="edited = null"
        @solve="tool('solve')"
      />
    </template>
  </Workbench>
</template>

<style scoped>
.legend {
  position: absolute;
  right: 14px;
  top: 12px;
  background: color-mix(in srgb, var(--panel) 92%, transparent);
  border: 1px solid var(--line);
  border-radius: 9px;
  padding: 9px 12px;
  width: 132px;
}
.legend b {
  font-size: 12px;
}
.scale {
  position: relative;
  height: 168px;
  margin: 10px 0 8px;
}
.scale i {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  width: 18px;
  border-radius: 3px;
}
.scale span {
  position: absolute;
  left: 27px;
  font-size: 12px;
  line-height: 16px;
}
.legend label {
  display: grid;
  font-size: 12px;
  color: var(--ink-2);
}
.legend input {
  width: 100%;
  accent-color: var(--accent);
}
.peak {
  position: absolute;
  width: 0;
  height: 0;
  pointer-events: none;
}
.peak::before {
  content: '';
  position: absolute;
  left: -5px;
  top: -5px;
  width: 10px;
  height: 10px;
  border: 2px solid var(--ink);
  border-radius: 50%;
  background: var(--panel);
}
.peak span {
  position: absolute;
  left: 11px;
  top: -24px;
  background: var(--head);
  color: var(--head-ink);
  border-radius: 5px;
  padding: 1px 8px;
  white-space: nowrap;
  font-weight: 600;
}
.stale {
  position: absolute;
  left: 50%;
  bottom: 12px;
  transform: translateX(-50%);
  background: var(--panel);
  border: 1px solid var(--loose);
  border-radius: 8px;
  padding: 5px 10px;
  color: var(--loose);
  display: flex;
  gap: 9px;
  align-items: center;
}
</style>
