<script setup lang="ts">
// What there is to read of the picks, and notes that stay in the picture.
import { Vector3 } from 'three'
import { computed } from 'vue'
import { useDocument } from '../document/store'
import { trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import type { Engine } from '../viewport/engine'
import { shown, type Size, useMeasuring } from './store'
import { number, units } from '../ui/units'

const props = defineProps<{ engine: Engine; tick: number }>()
const measuring = useMeasuring()
const doc = useDocument()

const labels = computed(() => {
  void props.tick
  return measuring.notes.flatMap((n, i) => {
    if (!n.size) return [{ i, id: n.id, x: 12, y: 60 + 24 * i, text: `${n.label}: lost`, lost: true }]
    const line = n.size.line
    if (!line.length) return [{ i, id: n.id, x: 12, y: 60 + 24 * i, text: `${n.label} ${shown(n.size, measuring.digits)}`, lost: false }]
    const [a, b] = [line[0], line[line.length - 1]]
    const [x, y] = props.engine.camera.project(new Vector3((a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2))
    return [{ i, id: n.id, x, y, text: shown(n.size, measuring.digits), lost: false }]
  })
})
const frames = computed(() => (doc.part?.steps ?? []).filter((s) => ['frame', 'port', 'plane'].includes(s.kind)))
const isNumber = (s: Size): boolean => doc.part !== null && !s.key.startsWith('at_') && s.key !== 'turn'
const isCheck = (s: Size): boolean => s.key === 'least' && measuring.picks.length === 2

async function asNumber(s: Size): Promise<void> {
  const taken = new Set([...(doc.part?.parameters ?? []).map((p) => p.name), ...(doc.build?.measured ?? []).map((m) => m.name)])
  const base = s.label
    .toLowerCase()
    .replace(/[^a-z]+/g, '_')
    .slice(0, 24)
  let name = base
  for (let k = 2; taken.has(name); k++) name = `${base}_${k}`
  if (await doc.edit([{ do: 'add_step', kind: 'measured', name: s.label, fields: { name, picks: measuring.picks, what: s.key } }]))
    doc.say(`${name} can be used in the formulas of later steps`, 'good')
}
async function asCheck(s: Size): Promise<void> {
  const limit = `${trim(number(s.value), units.value.length === 'mm' ? 2 : 4)} ${units.value.length}`
  if (
    await doc.edit([
      {
        do: 'add_check',
        kind: 'distance',
        name: `${s.label} ${limit}`,
        relation: 'at_least',
        limit,
        fields: { picks: measuring.picks },
      },
    ])
  )
    doc.say('Kept as a check: it is run again on every change', 'good')
}
function copy(): void {
  void navigator.clipboard?.writeText(measuring.text)
}
</script>

<template>
  <div v-for="l in labels" :key="l.i" class="note" :class="{ lost: l.lost }" :style="{ left: l.x + 'px', top: l.y + 'px' }">
    {{ l.text }}<button aria-label="Take the note off" title="Take it off" @click="measuring.unpin(l.id)">×</button>
  </div>
  <section v-if="measuring.on" class="card over-card" data-testid="measuring" @pointerdown.stop>
    <header>
      <Icon name="ruler" :size="16" /><b>Measure</b><span class="grow" />
      <select v-if="frames.length" v-model="measuring.frame" class="field" aria-label="Along the axes of">
        <option :value="null">X Y Z of the part</option>
        <option v-for="f in frames" :key="f.id" :value="f.id">{{ f.name }}</option>
      </select>
      <select v-model.number="measuring.digits" class="field" aria-label="Digits">
        <option v-for="d in [1, 2, 3, 4, 6]" :key="d" :value="d">{{ (0).toFixed(d) }}</option>
      </select>
      <button class="icon-btn" aria-label="End measuring" title="End (M)" @click="measuring.stop()">
        <Icon name="close" :size="14" />
      </button>
    </header>
    <p v-if="measuring.trouble" class="trouble">{{ measuring.trouble }}</p>
    <p v-else-if="!measuring.picks.length" class="muted">
      Click one thing for its sizes, a second for what is between them; with Shift more, added up.
    </p>
    <ul v-else @mouseleave="measuring.over = null">
      <li v-for="s in measuring.sizes" :key="s.key" :data-testid="`size-${s.key}`" @mouseenter="measuring.over = s.key">
        <span>{{ s.label }}</span><b>{{ shown(s, measuring.digits) }}</b>
        <button
          class="icon-btn"
          :aria-label="`Keep ${s.label} as a note`"
          title="Keep as a note"
          :data-testid="`pin-${s.key}`"
          @click="measuring.pin(s)"
        >
          <Icon name="plus" :size="13" />
        </button>
        <button
          v-if="isNumber(s)"
          class="icon-btn"
          :aria-label="`${s.label} as a number`"
          title="As a number for later formulas"
          :data-testid="`number-${s.key}`"
          @click="asNumber(s)"
        >
          <Icon name="gauge" :size="13" />
        </button>
        <button
          v-if="isCheck(s)"
          class="icon-btn"
          :aria-label="`${s.label} as a check`"
          title="As a check: at least this"
          :data-testid="`check-${s.key}`"
          @click="asCheck(s)"
        >
          <Icon name="check" :size="13" />
        </button>
      </li>
    </ul>
    <footer v-if="measuring.sizes.length">
      <button class="btn small" @click="measuring.picks = []">Clear</button><button class="btn small" @click="copy">Copy</button>
    </footer>
  </section>
</template>

<style scoped>
.card {
  width: 292px;
}
footer {
  justify-content: flex-end;
}
.grow {
  flex: 1;
}
header .field {
  height: 22px;
  padding: 0 2px;
  font-size: 12px;
  max-width: 92px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  align-items: center;
  gap: 2px;
  height: 25px;
  border-radius: 5px;
  padding: 0 0 0 6px;
}
li:hover {
  background: var(--accent-soft);
}
li span {
  flex: 1;
  color: var(--ink-2);
}
li b {
  font-weight: 600;
  margin-right: 4px;
}
li .icon-btn {
  width: 21px;
  height: 21px;
  color: var(--ink-3);
}
p {
  margin: 0;
  font-size: 12px;
  line-height: 1.4;
}
.note {
  position: absolute;
  z-index: 5;
  transform: translate(-50%, -50%);
  background: var(--panel);
  border: 1px solid var(--accent);
  color: var(--accent);
  border-radius: 6px;
  padding: 0 3px 0 7px;
  font-weight: 600;
  white-space: nowrap;
}
.note.lost {
  border-color: var(--bad);
  color: var(--bad);
  transform: none;
}
.note button {
  padding: 0 4px;
  color: var(--ink-3);
}
</style>
