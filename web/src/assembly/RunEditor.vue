<script setup lang="ts">
// A motion over time being made or edited: what is driven how, what acts, what is followed.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import PickRow from './PickRow.vue'
import { type DriverDraft, type LoadDraft, useRuns } from './runs'
import type { End } from './store'

const runs = useRuns()
const doc = useDocument()
const draft = computed(() => runs.draft!)
const WAYS = ['-Z', 'Z', '-Y', 'Y', '-X', 'X']
const nameOf = (path: string): string => {
  const id = path.split('/')[0]
  return doc.assembly?.components?.find((c) => c.id === id)?.name ?? id
}
const wordsOf = (end: End | null, asked: boolean): string => (end ? nameOf(end.component) : asked ? 'pick it in the picture' : 'pick')
const lawOf = (d: DriverDraft) => runs.laws.find((l) => l.kind === d.law)
const kindOf = (l: LoadDraft) => runs.kinds.find((k) => k.kind === l.kind)
function drives(d: { joint: string; coordinate: string }, key: string): void {
  const found = runs.drivable.find((x) => x.key === key)
  if (!found) return
  d.joint = found.joint
  d.coordinate = found.coordinate.name
}
function redrive(d: DriverDraft, key: string): void {
  drives(d, key)
  if (d.law === 'speed' || d.law === 'go_to') d.law = runs.firstLaw(d.joint, d.coordinate)
  d.value = runs.example(d.law, d.joint, d.coordinate)
}
function choose(d: DriverDraft, law: string): void {
  d.law = law
  d.value = runs.example(law, d.joint, d.coordinate)
  d.over = ''
  if (law === 'points' && !d.points) {
    const turns = runs.coordinateOf(d.joint, d.coordinate)?.unit !== 'mm'
    d.points = turns ? '0 s, 0 deg\n1 s, 45 deg\n2 s, 0 deg' : '0 s, 0 mm\n1 s, 20 mm\n2 s, 0 mm'
  }
}
const slotOf = (l: LoadDraft, name: string) => kindOf(l)?.slots.find((s) => s.name === name)
const asks = (k: number, side: 'a' | 'b'): boolean => {
  const a = runs.asking
  return typeof a === 'object' && a !== null && a.load === k && a.side === side
}
function pickAnew(k: number, side: 'a' | 'b'): void {
  draft.value.loads[k][side] = null
  runs.ask({ load: k, side })
}
const hint = computed(() => {
  if (runs.asking === 'watch') return runs.half ? `Pick what ${nameOf(runs.half)} may come near to` : 'Pick the first of two components'
  if (runs.asking === 'trace') return 'Pick a corner, edge or face whose way is followed'
  return runs.asking ? 'Pick where it acts' : null
})
const text = (e: Event): string => (e.target as HTMLInputElement).value
</script>

<template>
  <EditCard testid="run-editor" @keep="runs.keepAndGo()" @leave="runs.discard()">
    <header>
      <Icon name="play" :size="16" />
      <input
        v-model="draft.name"
        class="field title"
        aria-label="Name of the run"
        maxlength="80"
        spellcheck="false"
        data-testid="run-name"
      />
    </header>
    <div class="row">
      <label for="run-duration">Duration</label>
      <input id="run-duration" v-model="draft.duration" class="field" spellcheck="false" data-testid="run-duration" @keydown.stop />
    </div>
    <div class="row">
      <label for="run-frames">Frames</label>
      <input id="run-frames" v-model.number="draft.frames" class="field" type="number" min="2" max="2000" data-testid="run-frames" />
    </div>

    <h4>Driven</h4>
    <section v-for="(d, k) in draft.drivers" :key="k" class="part" :data-testid="`driver-${k}`">
      <div class="line">
        <select class="field grow" :value="`${d.joint} ${d.coordinate}`" aria-label="Joint" @change="redrive(d, text($event))">
          <option v-for="x in runs.drivable" :key="x.key" :value="x.key">{{ x.name }}</option>
        </select>
        <button class="icon-btn" aria-label="Drive it no more" title="Drive it no more" @click="draft.drivers.splice(k, 1)">
          <Icon name="close" :size="13" />
        </button>
      </div>
      <div class="line">
        <select
          class="field grow"
          :value="d.law"
          :title="lawOf(d)?.line"
          aria-label="How it is driven"
          data-testid="driver-law"
          @change="choose(d, text($event))"
        >
          <option v-for="l in runs.laws" :key="l.kind" :value="l.kind">{{ l.label }}</option>
        </select>
      </div>
      <template v-for="s in lawOf(d)?.slots ?? []" :key="s.name">
        <textarea
          v-if="s.what === 'points'"
          v-model="d.points"
          class="field points"
          rows="4"
          :aria-label="s.label"
          spellcheck="false"
          data-testid="driver-points"
          @keydown.stop
        />
        <div v-else class="row" :class="{ tall: s.what === 'formula' }">
          <label>{{ s.label }}</label>
          <input
            v-if="s.name === 'over'"
            v-model="d.over"
            class="field"
            :placeholder="s.empty"
            :aria-label="s.label"
            spellcheck="false"
            data-testid="driver-over"
          />
          <input
            v-else
            v-model="d.value"
            class="field"
            :class="{ wide: s.what === 'formula' }"
            :aria-label="s.label"
            spellcheck="false"
            data-testid="driver-value"
          />
        </div>
      </template>
    </section>
    <button class="btn small add" data-testid="add-driver" :disabled="!runs.drivable.length" @click="runs.drive()">
      <Icon name="plus" :size="13" /> Drive a joint
    </button>
    <p v-if="!runs.drivable.length" class="muted small">No joint here leaves a motion.</p>

    <h4>Forces</h4>
    <div class="row">
      <label for="run-weighed">From masses and loads</label>
      <input id="run-weighed" v-model="draft.weighed" type="checkbox" data-testid="run-weighed" />
    </div>
    <template v-if="draft.weighed">
      <div class="row">
        <label for="run-gravity">Things fall along</label>
        <select id="run-gravity" v-model="draft.gravity" class="field" data-testid="run-gravity">
          <option v-for="w in WAYS" :key="w" :value="w">{{ w.replace('-', '−') }}</option>
          <option value="">no weight</option>
        </select>
      </div>
      <section v-for="(l, k) in draft.loads" :key="k" class="part" :data-testid="`load-${k}`">
        <div class="line">
          <b class="grow" :title="kindOf(l)?.line">{{ kindOf(l)?.label ?? l.kind }}</b>
          <button class="icon-btn" aria-label="Take the load away" title="Take it away" @click="draft.loads.splice(k, 1)">
            <Icon name="close" :size="13" />
          </button>
        </div>
        <template v-for="s in kindOf(l)?.slots ?? []" :key="s.name">
          <PickRow
            v-if="s.what === 'place'"
            :label="s.label"
            :words="wordsOf(l[s.name as 'a' | 'b'], asks(k, s.name as 'a' | 'b'))"
            :next="asks(k, s.name as 'a' | 'b')"
            :set="l[s.name as 'a' | 'b'] !== null"
            :testid="`load-${k}-${s.name}`"
            @anew="pickAnew(k, s.name as 'a' | 'b')"
          />
          <div v-else-if="s.what === 'joint'" class="line">
            <select class="field grow" :value="`${l.joint} ${l.coordinate}`" aria-label="Joint" @change="drives(l, text($event))">
              <option v-for="x in runs.drivable" :key="x.key" :value="x.key">{{ x.name }}</option>
            </select>
          </div>
          <div v-else-if="s.what === 'way'" class="row">
            <label>{{ s.label }}</label>
            <select v-model="l.along" class="field" :aria-label="s.label">
              <option v-for="w in WAYS" :key="w" :value="w">{{ w.replace('-', '−') }}</option>
            </select>
          </div>
          <div v-else class="row">
            <label>{{ s.label }}</label>
            <input
              v-model="l[s.name as 'value' | 'rest' | 'damping']"
              class="field"
              :placeholder="slotOf(l, s.name)?.empty"
              :aria-label="s.label"
              spellcheck="false"
              :data-testid="`load-${k}-${s.name}`"
            />
          </div>
        </template>
      </section>
      <select
        class="field add"
        aria-label="Add a load"
        data-testid="add-load"
        value=""
        @change="(runs.load(text($event)), (($event.target as HTMLSelectElement).value = ''))"
      >
        <option value="">Add a load …</option>
        <option v-for="k in runs.kinds" :key="k.kind" :value="k.kind" :title="k.line">{{ k.label }}</option>
      </select>
    </template>

    <h4>Followed</h4>
    <div class="row">
      <label for="run-clashes">Everything that clashes</label>
      <input id="run-clashes" v-model="draft.clashes" type="checkbox" data-testid="run-clashes" />
    </div>
    <div v-for="(w, k) in draft.watched" :key="`w${k}`" class="line one">
      <span class="grow" :title="`${nameOf(w.a)} – ${nameOf(w.b)}`">Gap {{ nameOf(w.a) }} – {{ nameOf(w.b) }}</span>
      <button class="icon-btn" aria-label="Watch this gap no more" title="Watch it no more" @click="draft.watched.splice(k, 1)">
        <Icon name="close" :size="13" />
      </button>
    </div>
    <div v-for="(t, k) in draft.traced" :key="`t${k}`" class="line one">
      <input v-model="t.name" class="field grow" aria-label="Name of the place" maxlength="80" spellcheck="false" @keydown.stop />
      <button class="icon-btn" aria-label="Trace it no more" title="Trace it no more" @click="draft.traced.splice(k, 1)">
        <Icon name="close" :size="13" />
      </button>
    </div>
    <div class="line">
      <button class="btn small" :class="{ on: runs.asking === 'watch' }" data-testid="watch-gap" @click="runs.ask('watch')">
        Watch a gap
      </button>
      <button class="btn small" :class="{ on: runs.asking === 'trace' }" data-testid="trace-place" @click="runs.ask('trace')">
        Trace a place
      </button>
    </div>
    <p v-if="hint" class="hint"><Icon name="hand" :size="15" /> {{ hint }}</p>
    <footer>
      <button class="btn" @click="runs.discard()">Discard</button>
      <button class="btn" data-testid="keep-run" @click="runs.keep()">Keep</button>
      <button class="btn main" data-testid="keep-and-run" @click="runs.keepAndGo()"><Icon name="play" :size="14" /> Run</button>
    </footer>
  </EditCard>
</template>

<style scoped>
.title {
  flex: 1;
  font-weight: 600;
}
h4 {
  margin: 8px 0 0;
  font-size: 12px;
  color: var(--ink-2);
}
.part {
  display: flex;
  flex-direction: column;
  gap: 5px;
  padding: 6px 8px;
  border: 1px solid var(--line);
  border-radius: 7px;
  background: var(--panel-2);
}
.line {
  display: flex;
  gap: 6px;
  align-items: center;
  min-width: 0;
}
.one > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.grow {
  flex: 1;
  min-width: 0;
}
.points {
  font-variant-numeric: tabular-nums;
  height: auto;
  padding: 4px 8px;
  resize: vertical;
}
.tall {
  flex-direction: column;
  align-items: stretch !important;
  gap: 2px;
}
.tall .field {
  width: 100% !important;
}
.add {
  align-self: flex-start;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
