<script setup lang="ts">
// A part: rail, view, build list, drawer. Chooses what is shown and what a click means.
import { turns } from '../api/newest'
import { computed, defineAsyncComponent, ref, shallowRef, watch } from 'vue'
import { type BuildView, call, refusalOf, type Schemas, type Step } from '../api/client'
import { partBodies } from '../document/bodies'
import { useDocument, useRegistries } from '../document/store'
import Workbench from '../shell/Workbench.vue'
import { useSketch } from '../sketch/store'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import Icon from '../ui/Icon.vue'
import StartCard from '../ui/StartCard.vue'
import { aidLines, faultLines, ghostLines, measureLines } from '../viewport/aids'
import { useRoute, useRouter } from 'vue-router'
import { useCompare } from './compare'
import { useEdited } from './edited'
import { placeOf, useInPlace } from './inplace'
import { fieldType } from './fields/types'
import { type Picked, usePartLayers } from './layers'
import { usePlacing } from './placing'
import { useShown } from '../document/shown'
import { useMeasuring } from '../measure/store'
import { usePrinting } from '../exchange/printing'
import { useParameters } from '../parameters/store'
import { usePanes } from '../viewport/panes'

const ViewPane = defineAsyncComponent(() => import('../viewport/ViewPane.vue'))
const PlanePrompt = defineAsyncComponent(() => import('./PlanePrompt.vue'))
const RegionLayer = defineAsyncComponent(() => import('./RegionLayer.vue'))
const FlatPane = defineAsyncComponent(() => import('../sheet/FlatPane.vue'))
const MeasureCard = defineAsyncComponent(() => import('../measure/MeasureCard.vue'))
const SketchLayer = defineAsyncComponent(() => import('../sketch/SketchLayer.vue'))

const props = defineProps<{ drawer: string | null }>()
const emit = defineEmits<{ drawer: [key: string | null]; engine: [engine: Engine] }>()
const doc = useDocument()
const edited = useEdited()
const sketch = useSketch()
const registries = useRegistries()
const sees = useShown()
const measuring = useMeasuring()
const compare = useCompare()
const panes = usePanes()
const parameters = useParameters()
const printing = usePrinting()
const inplace = useInPlace()
const route = useRoute()
const router = useRouter()
// What stands around it follows what changes elsewhere, and what is kept here.
watch(
  [() => [doc.view?.id, doc.view?.revision, route.query.in], () => doc.touched],
  async () => {
    if (!doc.view) return
    await inplace.load(placeOf(route.query.in))
    if (!('take' in route.query) || !inplace.place) return
    // Asked for by the assembly it stands in, once.
    await router.replace({ query: { ...route.query, take: undefined } })
    await tool('neighbours')
  },
  { immediate: true },
)
watch(
  () => doc.view?.id,
  () => printing.close(),
)

const engine = shallowRef<Engine | null>(null)
const tick = ref(0)
const built = shallowRef<BodySpec[]>([])
const bodies = computed(() => (sees.hidden.size ? built.value.filter((b) => !sees.hidden.has(b.id)) : built.value))
/** Bodies before the open step: what its picks are found in. */
const pickBodies = shallowRef<BodySpec[] | null>(null)
/** Bodies as they stand before the open sketch: what it can take edges from. */
const beneath = shallowRef<BodySpec[]>([])
const picked = ref<Picked[]>([])
const placing = usePlacing(engine, bodies, () => (picked.value = []))
const choosingPlane = placing.choosing
const { stack, looked, faceKind } = usePartLayers(picked, { bodies, before: pickBodies, beneath }, placing, tool)
const sketching = computed(() => stack.is('sketch'))
watch(
  () => !stack.is('part') && !stack.is('check'),
  (busy) => busy && compare.close(),
)
watch(
  () => parameters.jump,
  (jump) => {
    const step = jump?.kind === 'step' ? doc.part?.steps?.find((s) => s.id === jump.id) : undefined
    if (!step || sketching.value) return
    parameters.jump = null
    if (step.kind === 'sketch') void placing.open(step.id)
    else void edited.edit(step.id)
  },
)

// --- rail
watch(
  () => (sketching.value ? sketch.step : null),
  async (step) => {
    beneath.value = []
    const upto = (doc.part?.steps ?? []).findIndex((s) => s.id === step)
    if (upto < 0) return
    try {
      const found = await call('get', '/api/documents/{id}/build', {
        path: { id: doc.view!.id },
        query: { revision: doc.view!.revision, upto },
      })
      if (sketch.step === step) beneath.value = await partBodies(found)
    } catch (error) {
      doc.refused(error)
    }
  },
)
async function tool(key: string): Promise<void> {
  if (key === 'draw:construction') await sketch.toggleConstruction()
  else if (key.startsWith('draw:')) {
    const name = key.slice(5)
    // What is selected is what tools like mirror and offset work on.
    if (!registries.found?.tools.find((t) => t.name === name)?.wants.length && name !== 'measure') sketch.selected = []
    sketch.tool = name
  } else if (key === 'sketch') {
    edited.discard()
    // A face that is already picked is where the sketch is meant to lie.
    const face = picked.value.find((p) => p.pick.kind === 'face')
    const edge = picked.value.find((p) => p.pick.kind === 'edge')
    if (face && faceKind(face.mark) === 'plane') await placing.begin({ base: null, face: face.pick })
    else if (edge && (await placing.throughEdge(edge.mark, edge.pick))) return
    else choosingPlane.value = true
  } else if (key === 'neighbours') {
    edited.discard()
    picked.value = []
    await edited.begin(key, inplace.begun())
  } else if (key === 'import') {
    chooser.value?.click()
  } else {
    choosingPlane.value = false
    const taking = key === 'extrude:cut'
    const kind = taking ? 'extrude' : key
    const taker = registries.kind(kind)?.fields.find((f) => fieldType(f.type).picks && fieldType(f.type).first)
    const given: Record<string, unknown> = taking ? { result: 'cut' } : {}
    if (taker) {
      const fitting = picked.value.map((p) => p.pick).filter((p) => p.kind === taker.accepts)
      if (fitting.length) given[taker.name] = fitting
    }
    picked.value = []
    await edited.begin(kind, given)
  }
}

/** A file is kept with the project first; the step that reads it then opens as any other. */
const SHAPES = '.step,.stp,.igs,.iges,.brep,.brp,.stl,.3mf'
const chooser = ref<HTMLInputElement | null>(null)
async function bringFile(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  ;(event.target as HTMLInputElement).value = ''
  if (!chosen) return
  try {
    const response = await fetch(`/api/documents/${doc.view!.id}/bring`, {
      method: 'POST',
      body: chosen,
      headers: { 'X-File-Name': encodeURIComponent(chosen.name) },
    })
    if (!response.ok) throw await refusalOf(response)
    await edited.begin('import', (await response.json()) as Schemas['BroughtFileView'])
  } catch (error) {
    doc.refused(error)
  }
}

// --- what is shown
const shownBuild = computed<BuildView | null>(() => (edited.open && edited.trial && !edited.error ? edited.trial : doc.build))
const GREYED = '#c9ccc6'
const turn = turns()

watch(
  [shownBuild, () => edited.before, () => edited.open, () => edited.focus, () => edited.error, sketching],
  async () => {
    const newest = turn()
    try {
      const shown = await partBodies(shownBuild.value, sketching.value)
      const before = edited.open && edited.before && edited.focus && !edited.holder.made ? await partBodies(edited.before) : null
      if (!newest()) return
      // While an open step cannot be built, the part as it was stands greyed behind it.
      built.value = edited.open && edited.error && !edited.missing ? shown.map((b) => ({ ...b, colour: GREYED, paints: undefined })) : shown
      pickBodies.value = before
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  },
  { immediate: true },
)

/** Ids of the sketches a step is built from, by its declaration. */
function sketchesOf(step: Step): string[] {
  const fields = step.fields as Record<string, unknown>
  return (registries.kind(step.kind)?.fields ?? []).flatMap((f) => fieldType(f.type).sketches?.(fields[f.name]) ?? [])
}
/** Sketches nothing was built from yet, and the one the open step uses. */
const lines = computed(() => {
  const build = shownBuild.value
  if (!build || sketching.value) return []
  const used = new Set((doc.part?.steps ?? []).flatMap((s) => sketchesOf(s)))
  return [
    ...aidLines(build, engine.value?.box() ?? null, (id) => used.has(id) && edited.fields.sketch !== id),
    ...faultLines(build, edited.error, engine.value?.box() ?? null),
    ...ghostLines(Object.values(sees.ghosts).flat()),
    ...measureLines(measuring.lines),
  ]
})

const painting = computed(() => stack.is('part') && picked.value.some((p) => p.pick.kind === 'face'))
function paint(colour: string | null): void {
  const picks = picked.value.map((p) => p.pick).filter((p) => p.kind === 'face')
  void doc.edit([{ do: 'paint_faces', picks, colour }], colour ? `paint ${picks.length} faces` : 'take paint off')
}
function ready(e: Engine): void {
  engine.value = e
  if (!doc.build?.bodies.length) e.fit(false)
  emit('engine', e)
}
const regionStep = computed(() => {
  const field = edited.shownFields.find((f) => fieldType(f.type).drawn)
  const id = edited.fields.sketch as string | undefined
  return field && id ? (doc.build?.steps.find((s) => s.id === id)?.sketch ?? null) : null
})
/** The lines of the model, and the triangles a print would have. */
const drawnLines = computed(() => (printing.mesh ? [...lines.value, { pairs: printing.mesh, tone: 'accent', width: 1 }] : lines.value))
/** All that is drawn: the part, and what stands around it in its place. */
const drawn = computed(() => [...(compare.before ?? bodies.value), ...(compare.before ? [] : inplace.drawn)])
/** What clicks are looked for in. */
const pickable = computed(() => {
  if (sketch.tool === 'bring' && beneath.value.length) return beneath.value
  return inplace.asking ? inplace.around : pickBodies.value
})
defineExpose({ stack, tool })
</script>

<template>
  <Workbench
    :verbs="stack.verbs.value"
    :active="stack.active.value"
    :drawer="props.drawer"
    :values="doc.build?.parameters ?? {}"
    :engine="engine"
    :tick="tick"
    :bodies="compare.after ?? bodies"
    @tool="tool"
    @drawer="(k) => emit('drawer', k)"
  >
    <template #view>
      <ViewPane
        :bodies="drawn"
        :pick-bodies="pickable"
        :lines="drawnLines"
        :spots="[...printing.places, ...panes.spots]"
        :centre="measuring.centre"
        :picked="stack.marks.value"
        :counted="stack.counted.value"
        :candidates="looked"
        :wanted="compare.after ? 'none' : stack.wanted.value"
        :floor="!sketching"
        :taken="sketching && sketch.tool !== 'bring'"
        :title="sketching ? sketch.name : 'Model'"
        :caption="compare.captions?.[0]"
        @pick="(hit, add) => stack.pick(hit, add)"
        @box="(marks, add) => stack.box(marks, add)"
        @ready="ready"
        @frame="tick++"
      >
        <template #bar>
          <button v-if="sketching" class="chip" title="Look straight at the sketch" @click="placing.face()">Straight on</button>
          <button v-if="compare.captions" class="chip on" title="End comparing" data-testid="end-compare" @click="panes.close()">
            End
          </button>
          <button
            v-else-if="!sketching"
            class="chip"
            :class="{ on: measuring.on }"
            title="Read sizes off (M)"
            data-testid="measure"
            @click="measuring.toggle()"
          >
            Measure
          </button>
          <template v-if="painting">
            <label class="chip paint" title="A colour for the picked faces"
              ><Icon name="paint" :size="15" /> Paint<input
                type="color"
                value="#2f7d5b"
                data-testid="paint"
                @change="paint(($event.target as HTMLInputElement).value)"
            /></label>
            <button class="chip" title="The colour of the body again" @click="paint(null)">No paint</button>
          </template>
        </template>
        <div v-if="inplace.place && !sketching" class="place">
          <RouterLink
            class="chip"
            :to="`/d/${inplace.place.assembly}`"
            title="Back to the assembly it stands in"
            data-testid="back-to-assembly"
            ><Icon name="assembly" :size="14" /> {{ inplace.name || 'its assembly' }}</RouterLink
          >
          <button
            class="chip"
            :class="{ on: inplace.shown }"
            title="Show what stands around it"
            data-testid="around"
            @click="inplace.shown = !inplace.shown"
          >
            Around
          </button>
        </div>
        <SketchLayer v-if="sketching && engine" :engine="engine" :tick="tick" :beneath="beneath" />
        <RegionLayer v-else-if="engine && regionStep && edited.open" :engine="engine" :tick="tick" :sketch="regionStep" />
        <MeasureCard v-if="engine && !sketching && (measuring.on || measuring.notes.length)" :engine="engine" :tick="tick" />
        <PlanePrompt
          v-if="choosingPlane && engine"
          :engine="engine"
          :tick="tick"
          :bodies="bodies.length > 0"
          :steps="placing.planes.value"
          @plane="(base: string) => placing.begin({ base, face: null })"
          @step="(id: string) => placing.begin({ base: null, face: null, plane: id })"
          @cancel="choosingPlane = false"
        />
        <div v-if="doc.building || edited.trying" class="busy" role="status">
          <template v-if="doc.searching"
            >looking for the largest that fits
            <button class="btn small" data-testid="stop-search" @click="doc.stopSearch()">Stop</button></template
          >
          <template v-else>building {{ doc.stage || '…' }}</template>
        </div>
        <StartCard
          v-if="!bodies.length && stack.is('part') && doc.part && !doc.part.steps?.length && !inplace.place"
          title="An empty part"
          action="Start a sketch"
          testid="first-sketch"
          @act="tool('sketch')"
          >Choose <b>Sketch</b>, a plane, and draw an outline. Then <b>Grow</b> it into a body.</StartCard
        >
      </ViewPane>
    </template>
    <template #blank>
      <FlatPane
        :bodies="pickBodies ?? bodies"
        :marks="stack.marks.value"
        :wanted="stack.wanted.value"
        @pick="(hit, add) => stack.pick(hit, add)"
      />
    </template>
    <template #panel>
      <input ref="chooser" type="file" :accept="SHAPES" hidden data-testid="bring-file" @change="bringFile" />
      <component :is="stack.panel.value" @sketch="(id: string) => placing.open(id)" />
    </template>
  </Workbench>
</template>

<style scoped>
.place {
  position: absolute;
  top: 10px;
  left: 10px;
  display: flex;
  gap: 5px;
  padding: 3px;
  border-radius: 8px;
  background: var(--panel);
  box-shadow: 0 1px 4px rgb(0 0 0 / 12%);
}
.place .chip {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  text-decoration: none;
}
.paint {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  cursor: pointer;
}
.paint input {
  width: 20px;
  height: 16px;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.busy {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
