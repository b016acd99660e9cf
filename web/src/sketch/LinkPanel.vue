<script setup lang="ts">
// Beside the sketch: how to take geometry from elsewhere, what is linked, layouts lying underneath.
import { computed, ref } from 'vue'
import Icon from '../ui/Icon.vue'
import { bare, readLength, units } from '../ui/units'
import { useLinks } from './links'
import type { Pair } from './model'
import { usePlaces } from './places'
import { type Brought, type Underlay, useSketch } from './store'

const sketch = useSketch()
const links = useLinks()
const places = usePlaces()
const openLayout = ref<string | null>(null)

const wholeLabel = computed(() =>
  [
    links.takes.includes('body') ? 'the whole body' : '',
    links.takes.includes('curve') ? 'the whole sketch' : '',
    links.takes.includes('layout') ? 'the whole chain' : '',
  ]
    .filter(Boolean)
    .join(', '),
)
const about = computed(() => links.ways.find((w) => w.name === links.way)?.lines ?? [])
const label = (b: Brought): string => {
  const way = links.ways.find((w) => w.name === b.way)?.label ?? b.way
  if (b.layout) return `${b.layout.items.length} of ${sketch.underlays.find((u) => u.id === b.layout!.underlay)?.source ?? 'a layout'}`
  const from = b.pick
    ? b.pick.kind
    : b.body
      ? 'body'
      : `${links.others.find((o) => o.id === b.sketch)?.name ?? 'sketch'}${b.curves?.length ? '' : ' (all)'}`
  return `${way}: ${from}`
}
function chosen(event: Event): File | null {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0] ?? null
  field.value = ''
  return file
}
async function lay(event: Event): Promise<void> {
  const file = chosen(event)
  if (file) await links.lay(file)
  openLayout.value = sketch.underlays.at(-1)?.id ?? null
}
async function own(event: Event): Promise<void> {
  const file = chosen(event)
  if (file) await links.own(file)
}
async function newer(u: Underlay, event: Event): Promise<void> {
  const file = chosen(event)
  if (file) await links.compare(u, file)
}
const layersOf = (u: Underlay): string[] => links.files[u.file]?.layers ?? []
function toggleLayer(u: Underlay, layer: string): void {
  const hidden = u.hidden ?? []
  void links.change(u.id, { hidden: hidden.includes(layer) ? hidden.filter((l) => l !== layer) : [...hidden, layer] })
}
const plain = (event: Event): number => Number((event.target as HTMLInputElement).value.replace(',', '.').replace(/\s*(deg|°)$/, ''))
function set(u: Underlay, field: 'x' | 'y' | 'turn' | 'scale', event: Event): void {
  const place = field === 'x' || field === 'y'
  const value = place ? (readLength((event.target as HTMLInputElement).value) ?? Number.NaN) : plain(event)
  const at = (u.at ?? [0, 0]) as Pair
  if (!Number.isFinite(value) || (field === 'scale' && value <= 0))
    (event.target as HTMLInputElement).value = field === 'x' ? bare(at[0]) : field === 'y' ? bare(at[1]) : trim(u[field] ?? 0)
  else if (field === 'x' || field === 'y') void links.change(u.id, { at: field === 'x' ? [value, at[1]] : [at[0], value] })
  else void links.change(u.id, { [field]: value })
}
async function shift(u: Underlay): Promise<void> {
  const got = await places.ask('a place of the layout', 'where it belongs')
  if (!got) return
  const at = (u.at ?? [0, 0]) as Pair
  await links.change(u.id, { at: [at[0] + got[1][0] - got[0][0], at[1] + got[1][1] - got[0][1]] })
}
const measured = ref<{ u: Underlay; from: Pair; to: Pair; text: string } | null>(null)
async function scaleBy(u: Underlay): Promise<void> {
  const got = await places.ask('a place of the layout', 'another one: their distance is known')
  if (!got) return
  const gap = Math.hypot(got[1][0] - got[0][0], got[1][1] - got[0][1])
  if (gap > 1e-9) measured.value = { u, from: got[0], to: got[1], text: bare(gap) }
}
async function takeScale(): Promise<void> {
  const m = measured.value
  if (!m) return
  const wanted = readLength(m.text)
  if (!wanted || wanted < 0) return
  const k = wanted / Math.hypot(m.to[0] - m.from[0], m.to[1] - m.from[1])
  const at = (m.u.at ?? [0, 0]) as Pair
  measured.value = null
  // The first place stays where it is.
  await links.change(m.u.id, {
    scale: (m.u.scale ?? 1) * k,
    at: [m.from[0] + (at[0] - m.from[0]) * k, m.from[1] + (at[1] - m.from[1]) * k],
  })
}
async function turnBy(u: Underlay): Promise<void> {
  const got = await places.ask('a place of the layout to turn about', 'a second place of it', 'a place in the direction it should lie')
  if (!got) return
  const angle = (p: Pair): number => Math.atan2(p[1] - got[0][1], p[0] - got[0][0])
  const t = angle(got[2]) - angle(got[1])
  const at = (u.at ?? [0, 0]) as Pair
  const d = [at[0] - got[0][0], at[1] - got[0][1]]
  const turn = (((((u.turn ?? 0) + (t * 180) / Math.PI + 180) % 360) + 360) % 360) - 180
  await links.change(u.id, {
    turn,
    at: [got[0][0] + Math.cos(t) * d[0] - Math.sin(t) * d[1], got[0][1] + Math.sin(t) * d[0] + Math.cos(t) * d[1]],
  })
}
const trim = (v: number): string => String(Number(v.toFixed(4)))
</script>

<template>
  <section v-if="sketch.tool === 'bring'" class="ask-card" data-testid="link-card">
    <header><Icon name="link" :size="16" /><b>Link from elsewhere</b></header>
    <div class="ways">
      <button
        v-for="w in links.ways"
        :key="w.name"
        class="chip"
        :class="{ on: links.way === w.name }"
        :data-testid="`way-${w.name}`"
        @click="links.way = w.name"
      >
        {{ w.label }}
      </button>
    </div>
    <p v-for="l in about" :key="l" class="muted">{{ l }}.</p>
    <label v-if="wholeLabel" class="flag"
      ><input v-model="links.whole" type="checkbox" data-testid="link-whole" />Take {{ wholeLabel }}</label
    >
    <p class="prompt">Click in the picture; <kbd>Esc</kbd> when done.</p>
  </section>
  <div v-if="places.open" class="ask-card">
    <p class="prompt">Next: {{ places.prompt }}</p>
    <p class="muted">Ends and centres of the layout catch the pointer. <kbd>Esc</kbd> leaves.</p>
  </div>
  <div v-if="measured" class="ask-card">
    <label
      >True distance, {{ units.length
      }}<input v-model="measured.text" class="field" data-testid="true-distance" @keydown.stop @keydown.enter="takeScale()"
    /></label>
    <footer>
      <button class="btn small" @click="measured = null">Leave it</button
      ><button class="btn main small" data-testid="take-scale" @click="takeScale()">Scale</button>
    </footer>
  </div>
  <section v-if="links.replacing" class="ask-card" data-testid="difference">
    <header>
      <Icon name="layers" :size="16" /><b>{{ links.replacing.name }}</b>
    </header>
    <ul class="name-list plain">
      <li>{{ links.replacing.same }} as before</li>
      <li v-if="links.replacing.changed.length" class="changed">
        <i />{{ links.replacing.changed.length }} changed<template v-if="links.replacing.changed.some((c) => c.guessed)">
          ({{ links.replacing.changed.filter((c) => c.guessed).length }} told by likeness)</template
        >
      </li>
      <li v-if="links.replacing.gone.length" class="gone"><i />{{ links.replacing.gone.length }} gone</li>
      <li v-if="links.replacing.new.length" class="new"><i />{{ links.replacing.new.length }} new</li>
    </ul>
    <p v-for="(r, id) in links.replacing.lost" :key="id" class="bad">{{ r.text }}</p>
    <p v-if="!Object.keys(links.replacing.lost).length" class="muted">Everything taken from it follows.</p>
    <footer>
      <button class="btn small" @click="links.replacing = null">Leave the old one</button
      ><button class="btn main small" data-testid="take-newer" @click="links.replace()">Take the newer file</button>
    </footer>
  </section>
  <section v-if="sketch.brought.length">
    <h3>Linked</h3>
    <ul class="name-list">
      <li
        v-for="b in sketch.brought"
        :key="b.id"
        :class="{ lost: links.lost[b.id] }"
        :title="links.lost[b.id]?.text"
        @click="links.select(b.id)"
      >
        <Icon :name="links.lost[b.id] ? 'alert' : 'link'" :size="14" /><span
          >{{ label(b) }}<template v-if="links.lost[b.id]"> · lost</template></span
        >
        <button class="btn tiny" title="Keep it as it lies, following nothing" @click.stop="links.letGo(b.id)">Let go</button>
        <button class="icon-btn" :aria-label="`Delete ${label(b)}`" @click.stop="(links.select(b.id), sketch.erase())">
          <Icon name="close" :size="13" />
        </button>
      </li>
    </ul>
  </section>
  <section>
    <h3>Layouts underneath</h3>
    <article v-for="u in sketch.underlays" :key="u.id" class="layout" data-testid="underlay">
      <header>
        <button
          class="icon-btn"
          :aria-label="u.shown === false ? 'Show' : 'Hide'"
          :title="u.shown === false ? 'Show' : 'Hide'"
          @click="links.change(u.id, { shown: u.shown === false })"
        >
          <Icon name="eye" :size="15" :style="{ opacity: u.shown === false ? 0.35 : 1 }" />
        </button>
        <span class="name" @click="openLayout = openLayout === u.id ? null : u.id">{{ u.source || 'layout' }}</span>
        <button class="icon-btn" :aria-label="`Place ${u.source}`" @click="openLayout = openLayout === u.id ? null : u.id">
          <Icon :name="openLayout === u.id ? 'up' : 'down'" :size="15" />
        </button>
      </header>
      <template v-if="openLayout === u.id">
        <div class="four">
          <label
            >X <input class="field" :value="bare((u.at ?? [0, 0])[0])" data-testid="layout-x" @keydown.stop @change="set(u, 'x', $event)"
          /></label>
          <label
            >Y <input class="field" :value="bare((u.at ?? [0, 0])[1])" data-testid="layout-y" @keydown.stop @change="set(u, 'y', $event)"
          /></label>
          <label
            >Turn °
            <input class="field" :value="trim(u.turn ?? 0)" data-testid="layout-turn" @keydown.stop @change="set(u, 'turn', $event)"
          /></label>
          <label
            >Scale
            <input class="field" :value="trim(u.scale ?? 1)" data-testid="layout-scale" @keydown.stop @change="set(u, 'scale', $event)"
          /></label>
        </div>
        <div class="help">
          <button class="btn small" data-testid="layout-shift" @click="shift(u)">Move</button>
          <button class="btn small" data-testid="layout-turn-by" @click="turnBy(u)">Turn</button>
          <button class="btn small" data-testid="layout-scale-by" @click="scaleBy(u)">Scale by two places</button>
        </div>
        <label v-for="l in layersOf(u)" :key="l" class="flag"
          ><input type="checkbox" :checked="!(u.hidden ?? []).includes(l)" :data-testid="`layer-${l}`" @change="toggleLayer(u, l)" />{{
            l
          }}</label
        >
        <div class="help">
          <label class="btn small"
            >Newer file …<input type="file" accept=".dxf,.svg" hidden data-testid="layout-newer" @change="newer(u, $event)"
          /></label>
          <button class="btn small" title="What was taken from it stays as it lies" @click="links.lift(u.id)">Take away</button>
        </div>
      </template>
    </article>
    <div class="help">
      <label class="btn small" title="DXF or SVG: stays underneath, to be traced and taken from"
        >Lay a file underneath …<input type="file" accept=".dxf,.svg" hidden data-testid="layout-in" @change="lay"
      /></label>
      <label class="btn small" title="DXF or SVG: its curves become the sketch's own"
        >Take all in …<input type="file" accept=".dxf,.svg" hidden data-testid="dxf-in" @change="own"
      /></label>
    </div>
  </section>
</template>

<style scoped>
.layout header {
  display: flex;
  gap: 7px;
  align-items: center;
}
p {
  margin: 0;
  font-size: 12px;
  line-height: 1.4;
}
.prompt {
  color: var(--accent);
  font-weight: 600;
}
.bad {
  color: var(--bad);
}
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}
h3 {
  font-size: 12px;
  color: var(--ink-3);
  margin-bottom: 5px;
}
.flag {
  display: flex;
  gap: 7px;
  align-items: center;
  accent-color: var(--accent);
  font-size: 12px;
}
li.lost {
  color: var(--bad);
}
li .icon-btn {
  width: 20px;
  height: 20px;
}
.plain li {
  cursor: default;
  padding: 1px 0;
}
.plain li:hover {
  background: none;
}
.plain i {
  width: 18px;
  border-top: 3px solid var(--loose);
}
.plain .gone i {
  border-top: 3px dashed var(--bad);
}
.plain .new i {
  border-top: 3px dashed var(--up);
}
.tiny {
  height: 20px;
  padding: 0 6px;
  font-size: 11px;
}
.layout {
  border: 1px solid var(--line);
  border-radius: 7px;
  background: var(--panel);
  padding: 3px 6px 5px;
  display: flex;
  flex-direction: column;
  gap: 5px;
  margin-bottom: 6px;
}
.name {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.four {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 4px 10px;
}
.four label,
.ask-card label:not(.flag) {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 6px;
  color: var(--ink-2);
  font-size: 12px;
}
.four .field {
  width: 84px;
}
.ask-card .field {
  width: 120px;
}
.help {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
</style>
