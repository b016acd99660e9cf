<script setup lang="ts">
// Beside the sketch: what is free, what clashes, what can be put on the selection, Keep or Discard.
import { computed } from 'vue'
import { download } from '../api/client'
import { useDocument, useRegistries } from '../document/store'
import Why from '../help/Why.vue'
import Icon from '../ui/Icon.vue'
import LinkPanel from './LinkPanel.vue'
import MeasureCard from './MeasureCard.vue'
import TextField from './TextField.vue'
import DriveMark from '../members/DriveMark.vue'
import FollowLine from '../revisions/FollowLine.vue'
import { constraints, formOf } from './model'
import { useSketch } from './store'
import { useTool } from './tool'
import ToolCard from './ToolCard.vue'
import { units } from '../ui/units'

const sketch = useSketch()
const tool = useTool()
const registries = useRegistries()
const doc = useDocument()

const kinds = computed(() => registries.found?.constraints ?? [])
const labels = computed(() => new Map(kinds.value.map((k) => [k.type, k.label])))
const forms = computed(() =>
  sketch.selected
    .filter((i) => !isConstraint(i))
    .map((i) => formOf(sketch.drawing, i))
    .sort()
    .join(' '),
)
const out = (form: string): Promise<void> =>
  download(`/api/documents/${doc.view!.id}/sketches/${sketch.step}/export.${form}`).catch((e) => void doc.refused(e))
/** What a person put; what tools hold their copies with stays out of the list. */
const listed = computed(() => constraints(sketch.drawing).filter((c) => !c.linked))
const alike = computed(() => sketch.selected.length === 1 && forms.value !== 'point')
const isSize = (type: string): boolean => Boolean(kinds.value.find((k) => k.type === type)?.dimension)
const isConstraint = (id: string): boolean => constraints(sketch.drawing).some((c) => c.id === id)
const fitting = computed(() =>
  (tool.tool || sketch.tool === 'measure' ? [] : kinds.value).filter(
    (k) => k.offered && forms.value && k.forms.some((f) => [...f].sort().join(' ') === forms.value),
  ),
)
const conditions = computed(() => fitting.value.filter((k) => !k.dimension))
const sizes = computed(() => fitting.value.filter((k) => k.dimension))

const state = computed(() => {
  const s = sketch.solved
  if (!s) return { word: 'Solving …', tone: 'plain' }
  if (!s.holds) return { word: 'No solution: the drawing is as it was', tone: 'bad' }
  if (!sketch.drawing.entities?.length) return { word: 'Empty', tone: 'plain' }
  if (s.freedom > 0) return { word: `${s.freedom} ${s.freedom === 1 ? 'freedom' : 'freedoms'} left`, tone: 'loose' }
  return { word: 'Settled', tone: 'good' }
})
const known = computed(
  () => new Map([...constraints(sketch.refusal?.tried ?? sketch.drawing), ...constraints(sketch.drawing)].map((c) => [c.id, c])),
)
const words = (id: string): string => {
  const c = known.value.get(id)
  return c ? `${labels.value.get(c.type) ?? c.type} on ${c.on.join(', ')}${c.formula ? ` = ${c.formula}` : ''}` : id
}
const refusedSize = computed(() => {
  const r = sketch.refusal
  if (!r) return false
  const known = new Set(constraints(sketch.drawing).map((c) => c.id))
  return constraints(r.tried).some(
    (c) => !known.has(c.id) && c.formula !== undefined && labels.value.has(c.type) && kinds.value.find((k) => k.type === c.type)?.dimension,
  )
})
const selectedConstraint = computed(() =>
  constraints(sketch.drawing).find((c) => sketch.selected.length === 1 && c.id === sketch.selected[0]),
)
</script>

<template>
  <aside class="panel side-panel" data-testid="sketch-panel">
    <header>
      <Icon name="sketch" :size="17" /> <b>{{ sketch.name }}</b>
      <span class="state" :class="state.tone" data-testid="sketch-state"
        ><Icon :name="state.tone === 'good' ? 'check' : state.tone === 'bad' ? 'cross' : 'dot'" :size="14" />{{ state.word }}</span
      >
    </header>
    <div class="body scroll">
      <div v-if="sketch.refusal" class="trouble" role="alert">
        <Icon name="cross" :size="16" />
        <div>
          {{ sketch.refusal.report.text }} <Why :code="sketch.refusal.report.code" />
          <div class="offers">
            <button v-for="o in sketch.refusal.report.offers ?? []" :key="o.label" class="btn small" @click="sketch.takeOffer(o)">
              {{ o.label }}
            </button>
            <button
              v-for="id in sketch.refusal.culprits.slice(0, 5)"
              :key="id"
              class="btn small"
              :title="words(id)"
              @click="sketch.dropOne(id)"
            >
              Drop {{ words(id) }}
            </button>
            <button v-if="refusedSize" class="btn small" @click="sketch.asReference()">Keep it to read out only</button>
            <button class="btn small" @click="sketch.refusal = null">Leave it</button>
          </div>
        </div>
      </div>
      <ToolCard />
      <MeasureCard v-if="sketch.tool === 'measure'" />
      <TextField />
      <section v-if="sketch.proposals" class="settle" data-testid="proposals">
        <h3>What would settle it</h3>
        <p v-if="!sketch.proposals.length" class="muted">
          Nothing fitting was found: drag what is loose to where it is meant, then ask again.
        </p>
        <label v-for="p in sketch.proposals" :key="p.constraint.id"
          ><input v-model="p.ticked" type="checkbox" /><span>{{ p.words }}</span
          ><small>−{{ p.takes }}</small></label
        >
        <footer class="end">
          <button class="btn small" @click="sketch.proposals = null">Leave it</button
          ><button
            class="btn main small"
            data-testid="take-proposals"
            :disabled="!sketch.proposals.some((p) => p.ticked)"
            @click="sketch.takeProposals()"
          >
            Put these on
          </button>
        </footer>
      </section>
      <section v-else-if="(sketch.solved?.freedom ?? 0) > 0 && !tool.tool && !sketch.selected.length" class="help">
        <button class="btn small" data-testid="settle" :disabled="sketch.busy" @click="sketch.propose()">Settle this …</button>
        <button class="btn small" data-testid="wiggle" @click="sketch.wiggle()">
          {{ sketch.motions.length ? 'Stop moving' : 'Show what moves' }}
        </button>
      </section>
      <section v-if="fitting.length">
        <h3>{{ sketch.selected.length }} selected</h3>
        <div class="grid">
          <button v-for="k in conditions" :key="k.type" class="cond" :data-testid="`constrain-${k.type}`" @click="sketch.constrain(k.type)">
            <Icon :name="k.type" :size="16" />{{ k.label }}
          </button>
          <button v-if="alike" class="cond" data-testid="pick-alike" @click="sketch.pickAlike()">
            <Icon name="layers" :size="16" />All like this
          </button>
          <button
            v-for="k in sizes"
            :key="k.type"
            class="cond"
            :data-testid="`size-${k.type}`"
            @click="sketch.dimension(sketch.selected, null, k.type)"
          >
            <Icon name="dimension" :size="16" />{{ k.label }}
          </button>
        </div>
      </section>
      <section v-else-if="selectedConstraint">
        <h3>{{ words(selectedConstraint.id) }}</h3>
        <div class="help">
          <button
            v-if="isSize(selectedConstraint.type)"
            class="btn small"
            data-testid="toggle-reference"
            @click="sketch.toggleReference(selectedConstraint.id)"
          >
            {{ selectedConstraint.reference ? 'Let it drive' : 'Only read out' }}
          </button>
          <button class="btn small" @click="sketch.erase()"><Icon name="bin" :size="14" /> Delete</button>
        </div>
      </section>
      <p v-else-if="sketch.selected.length && !tool.tool && sketch.tool !== 'measure'" class="muted">
        Nothing can be put on this selection. Shift-click adds to it.
      </p>
      <p v-else-if="!tool.tool && !['bring', 'measure'].includes(sketch.tool)" class="muted">
        Draw with the tools on the left. A size can be typed while drawing: digits go into the box at the pointer,
        <kbd>Tab</kbd> to the next, <kbd>Enter</kbd> to place. Click curves and points (<kbd>Shift</kbd> adds) to put conditions and sizes
        on them; drag what is loose. <kbd>Ctrl</kbd> holds hints off.
      </p>
      <section class="planes">
        <label v-if="sketch.plane.edge" class="plane"
          >Turned about the edge by<input
            class="field"
            :value="sketch.plane.angle?.formula ?? ''"
            placeholder="0 deg"
            spellcheck="false"
            data-testid="plane-angle"
            @keydown.stop
            @keydown.enter.stop="($event.target as HTMLInputElement).blur()"
            @change="sketch.setPlane('angle', ($event.target as HTMLInputElement).value)"
        /></label>
        <label class="plane"
          >Plane, shifted by<input
            class="field"
            :value="sketch.plane.offset?.formula ?? ''"
            :placeholder="`0 ${units.length}`"
            spellcheck="false"
            data-testid="plane-offset"
            @keydown.stop
            @keydown.enter.stop="($event.target as HTMLInputElement).blur()"
            @change="sketch.setPlane('offset', ($event.target as HTMLInputElement).value)"
        /></label>
      </section>
      <LinkPanel />
      <section class="help">
        <button class="btn small" title="What was kept last, construction left out" @click="out('dxf')">DXF out</button>
        <button class="btn small" title="What was kept last, construction left out" @click="out('svg')">SVG out</button>
      </section>
      <section>
        <h3>Conditions and sizes</h3>
        <p v-if="!listed.length" class="muted">None yet.</p>
        <ul class="name-list">
          <li v-for="c in listed" :key="c.id" :class="{ on: sketch.selected.includes(c.id) }" @click="sketch.select(c.id, $event.shiftKey)">
            <Icon :name="labels.has(c.type) && kinds.find((k) => k.type === c.type)?.dimension ? 'dimension' : c.type" :size="14" />
            <span>{{ words(c.id) }}</span>
            <DriveMark
              v-if="sketch.step && c.formula && isSize(c.type)"
              drives="field"
              :of="{ step: sketch.step, field: `drawing.constraints.${c.id}.formula` }"
              :what="words(c.id)"
            />
            <button class="icon-btn" :aria-label="`Delete ${words(c.id)}`" @click.stop="(sketch.select(c.id, false), sketch.erase())">
              <Icon name="close" :size="13" />
            </button>
          </li>
        </ul>
      </section>
    </div>
    <footer>
      <button class="icon-btn" :disabled="!sketch.past.length" title="Undo in the sketch (Ctrl+Z)" aria-label="Undo" @click="sketch.undo()">
        <Icon name="undo" :size="16" />
      </button>
      <button class="icon-btn" :disabled="!sketch.future.length" title="Redo" aria-label="Redo" @click="sketch.redo()">
        <Icon name="redo" :size="16" />
      </button>
      <span class="grow" />
      <FollowLine short />
      <button class="btn" data-testid="sketch-discard" @click="sketch.discard()">Discard</button>
      <button class="btn main" data-testid="sketch-keep" :disabled="doc.saving" @click="sketch.keep()">Keep</button>
    </footer>
  </aside>
</template>

<style scoped>
header {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 10px 12px;
  border-bottom: 1px solid var(--line);
}
header b {
  flex: 1;
  font-weight: 600;
}
.state {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  font-size: 12px;
  color: var(--ink-2);
  white-space: nowrap;
}
.state.good {
  color: var(--up);
}
.state.loose {
  color: var(--loose);
}
.state.bad {
  color: var(--bad);
}
.body {
  flex: 1;
  min-height: 0;
  padding: 10px 12px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
h3 {
  font-size: 12px;
  color: var(--ink-3);
  margin-bottom: 5px;
}
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px;
}
.cond {
  display: flex;
  gap: 7px;
  align-items: center;
  padding: 5px 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--panel);
  text-align: left;
}
.cond:hover {
  border-color: var(--accent);
  color: var(--accent);
}
p {
  margin: 0;
  line-height: 1.5;
}
li.on {
  background: var(--pick-soft);
  color: var(--pick);
}
li .icon-btn {
  width: 20px;
  height: 20px;
}
footer {
  display: flex;
  gap: 8px;
  padding: 10px 12px;
  border-top: 1px solid var(--line);
  align-items: center;
}
.grow {
  flex: 1;
}
.help {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.settle label {
  display: flex;
  gap: 7px;
  align-items: baseline;
  padding: 2px 0;
  font-size: 12px;
  accent-color: var(--accent);
}
.settle label span {
  flex: 1;
}
.settle small {
  color: var(--loose);
  font-weight: 600;
}
.end {
  border: 0;
  padding: 6px 0 0;
  justify-content: flex-end;
}
.planes {
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.plane {
  display: flex;
  justify-content: space-between;
  align-items: center;
  color: var(--ink-2);
}
.plane .field {
  width: 120px;
}
</style>
