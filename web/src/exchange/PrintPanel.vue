<script setup lang="ts">
// A part for a printer: file, deviation, which way down, and what would go wrong.
import { turns } from '../api/newest'
import { computed, reactive, ref, watch } from 'vue'
import { call, Refusal, saveAs, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'
import Icon from '../ui/Icon.vue'
import LengthInput from '../ui/LengthInput.vue'
import SidePanel from '../ui/SidePanel.vue'
import { area, lengthUnit, number, rounded, volume } from '../ui/units'
import { usePrinting } from './printing'

const printing = usePrinting()
const doc = useDocument()
const shown = useShown()
type Ask = Schemas['PrintRequest']
const stored = JSON.parse(localStorage.getItem('vireo-print') ?? '{}') as Partial<{
  bed: [number, number, number]
  steepest: number
  thin: number
  form: Ask['form']
}>
const ask = reactive({
  form: stored.form ?? ('3mf' as Ask['form']),
  deviation: 0.05,
  lay: true,
  down: false,
  batch: false,
  bodies: [] as string[],
  bed: stored.bed ?? ([220, 220, 250] as [number, number, number]),
  steepest: stored.steepest ?? 45,
  thin: stored.thin ?? 0.8,
  mesh: false,
})
const review = ref<Schemas['PrintReview'] | null>(null)
const trouble = ref('')
const busy = ref(false)
const bodies = computed(() => doc.build?.bodies ?? [])
const face = computed(() => shown.picked.find((p) => p.kind === 'face') ?? null)
const request = computed<Ask>(() => ({
  form: ask.form,
  deviation: ask.deviation,
  bodies: ask.bodies,
  lay: ask.lay,
  down: ask.down && face.value ? (face.value as unknown as Schemas['Pick']) : null,
  batch: ask.batch && bodies.value.length > 1,
  bed: ask.bed,
  steepest: ask.steepest,
  thin: ask.thin,
}))
const turn = turns()
watch(
  [request, () => doc.view?.revision],
  async () => {
    const view = doc.view
    if (!view) return
    const newest = turn()
    trouble.value = ''
    busy.value = true
    localStorage.setItem('vireo-print', JSON.stringify({ bed: ask.bed, steepest: ask.steepest, thin: ask.thin, form: ask.form }))
    try {
      const found = await call('post', '/api/documents/{id}/print-review', { path: { id: view.id }, body: request.value })
      if (!newest()) return
      review.value = found
      printing.places = found.troubles.flatMap((t) => (t.here ? [t.here] : []))
    } catch (error) {
      if (!newest()) return
      review.value = null
      trouble.value = error instanceof Refusal ? error.report.text : String(error)
    } finally {
      if (newest()) busy.value = false
    }
  },
  { deep: true, immediate: true },
)
watch(face, (picked) => (ask.down = Boolean(picked)), { immediate: true })
watch([() => ask.mesh, () => request.value.deviation, () => doc.view?.revision], async () => {
  printing.mesh = null
  if (!ask.mesh) return
  try {
    trouble.value = await printing.preview(request.value.deviation)
  } catch (error) {
    trouble.value = error instanceof Refusal ? error.report.text : String(error)
  }
})
/** The number of a trouble's place in the picture, or null. */
function numberOf(i: number): number | null {
  const list = review.value?.troubles ?? []
  return list[i]?.here ? list.slice(0, i + 1).filter((t) => t.here).length : null
}
async function write(): Promise<void> {
  const view = doc.view
  if (!view) return
  try {
    await saveAs(`/api/documents/${view.id}/print`, request.value)
    doc.say('Handed over for printing', 'good')
    printing.close()
  } catch (error) {
    doc.refused(error)
    trouble.value = error instanceof Refusal ? error.report.text : String(error)
  }
}
function toggle(id: string): void {
  ask.bodies = ask.bodies.includes(id) ? ask.bodies.filter((b) => b !== id) : [...ask.bodies, id]
}
</script>

<template>
  <SidePanel title="For printing" testid="printing" @shut="printing.close()">
    <form class="print" data-testid="print" @submit.prevent="write">
      <label
        >File
        <span class="segmented"
          ><button
            v-for="[key, word] in [
              ['3mf', '3MF'],
              ['stl', 'STL'],
              ['stl-text', 'STL, text'],
            ] as const"
            :key="key"
            type="button"
            :class="{ on: ask.form === key }"
            :data-testid="`form-${key}`"
            @click="ask.form = key"
          >
            {{ word }}
          </button></span
        >
      </label>
      <label>Largest deviation <LengthInput v-model="ask.deviation" :least="0" data-testid="deviation" /></label>
      <div v-if="bodies.length > 1" class="row">
        <span>Bodies</span
        ><span class="some"
          ><button
            v-for="b in bodies"
            :key="b.id"
            type="button"
            class="chip"
            :class="{ on: ask.bodies.includes(b.id) }"
            @click="toggle(b.id)"
          >
            {{ b.name }}</button
          ><small v-if="!ask.bodies.length" class="muted">all</small></span
        >
      </div>
      <label v-if="bodies.length > 1">A file for each body <input v-model="ask.batch" type="checkbox" /></label>
      <label>Set onto the bed <input v-model="ask.lay" type="checkbox" /></label>
      <label :class="{ off: !face }"
        >Picked face down <input v-model="ask.down" type="checkbox" :disabled="!face || !ask.lay" data-testid="down"
      /></label>
      <p v-if="!face" class="muted">Pick a flat face in the picture to lay it down.</p>
      <label>Show the triangles <input v-model="ask.mesh" type="checkbox" data-testid="show-mesh" /></label>
      <div class="row">
        <span>Bed</span
        ><span class="bed"
          ><LengthInput v-for="k in [0, 1, 2]" :key="k" v-model="ask.bed[k]" :least="0" :plain="k < 2" :label="`Bed ${'XYZ'[k]}`"
        /></span>
      </div>
      <label
        >Prints without supports up to
        <span><input v-model.number="ask.steepest" class="field tiny" type="number" min="0" max="90" /> ° from upright</span></label
      >
      <label>Walls are thin below <LengthInput v-model="ask.thin" :least="0" data-testid="thin" /></label>
      <section class="found">
        <p v-if="trouble" class="trouble"><Icon name="cross" :size="15" /> {{ trouble }}</p>
        <template v-else-if="review">
          <p>
            <b data-testid="triangles">{{ review.triangles.toLocaleString('en') }} triangles</b> ·
            {{ review.size.map((v) => rounded(number(v), 2)).join(' × ') }} {{ lengthUnit() }} · {{ volume(review.volume, true) }}
          </p>
          <p>Rests on {{ area(review.rests, true) }}, overhangs with {{ area(review.overhangs, true) }}</p>
          <p v-for="(t, i) in review.troubles" :key="i" class="warn">
            <b v-if="numberOf(i)">{{ numberOf(i) }}</b><Icon v-else name="alert" :size="14" /> {{ t.text }}
          </p>
          <p v-if="!review.troubles.length" class="good"><Icon name="check" :size="14" /> Nothing to complain about</p>
        </template>
        <p v-else class="muted">{{ busy ? 'meshing …' : '' }}</p>
      </section>
      <button class="btn main" data-testid="write-print" :disabled="Boolean(trouble) || busy">
        Write {{ ask.form === '3mf' ? '3MF' : 'STL' }}
      </button>
    </form>
  </SidePanel>
</template>

<style scoped>
.warn b {
  flex: none;
  width: 17px;
  height: 17px;
  border-radius: 50%;
  border: 1.4px solid currentColor;
  text-align: center;
  font-size: 11px;
  line-height: 15px;
}
.print {
  display: grid;
  gap: 8px;
}
label,
.row {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 12px;
  color: var(--ink-2);
}
label > span,
.row > span:last-child {
  color: var(--ink);
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
.off {
  opacity: 0.55;
}
.some {
  flex-wrap: wrap;
  justify-content: flex-end;
}
.tiny {
  width: 66px;
}
input[type='checkbox'] {
  width: 16px;
  height: 16px;
  accent-color: var(--accent);
}
.found {
  border-top: 1px solid var(--line);
  padding-top: 8px;
  display: grid;
  gap: 5px;
  min-height: 66px;
  align-content: start;
}
p {
  margin: 0;
  font-size: 12px;
}
.warn {
  color: var(--loose);
  display: flex;
  gap: 6px;
}
.good {
  color: var(--up);
  display: flex;
  gap: 6px;
}
</style>
