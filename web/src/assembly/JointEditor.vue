<script setup lang="ts">
// A joint being made: its ends, what kind it is, and what it leaves to move, before it is kept.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import { trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import PickRow from './PickRow.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { type Side, natureOf, useJoining } from './joining'

const joining = useJoining()
const doc = useDocument()
const FAMILIES = { Joint: 'Joints', Condition: 'Conditions', Drive: 'Drives' } as const

function words(side: Side): string {
  const end = joining.ends[side]
  if (!end) return joining.next === side ? 'pick it in the picture' : side.endsWith('2') ? 'one more, if any' : 'not picked yet'
  const name = doc.assembly?.components?.find((c) => c.id === end.component)?.name ?? end.component
  if (!end.pick) return `${name} · port`
  const nature = natureOf(end.pick)
  return `${name} · ${nature === 'axis' ? 'round face' : nature === 'plane' ? 'flat face' : nature}`
}
const LABELS: Record<Side, string> = { a: 'First end', a2: 'and', b: 'Other end', b2: 'and', mirror: 'In the middle', mirror2: 'and' }
const label = (side: Side): string => LABELS[side]
const families = computed(() =>
  Object.entries(FAMILIES).map(([family, title]) => ({ title, kinds: joining.kinds.filter((k) => k.family === family) })),
)
const firm = computed(() => joining.kind?.family === 'Condition')
const left = computed(() => {
  const n = joining.left
  if (n === null) return null
  return n ? `leaves ${n} ${n === 1 ? 'freedom' : 'freedoms'}` : 'holds it fast'
})
const reads = (name: string, unit: string): string => {
  const now = joining.stands(name)
  return now === null ? (firm.value ? '' : 'free') : `${trim(now, 2)} ${unit === 'deg' ? '°' : unit}`
}
const text = (event: Event): string => (event.target as HTMLInputElement).value
function later(set: () => void): void {
  set()
  joining.schedule(150)
}
</script>

<template>
  <EditCard testid="joint-editor" @keep="joining.keep()" @leave="joining.discard()">
    <header>
      <Icon :name="joining.kind?.icon ?? 'link'" :size="16" />
      <select
        class="field kind"
        :value="joining.kindName ?? ''"
        aria-label="Kind"
        data-testid="joint-kind"
        @change="joining.choose(text($event))"
      >
        <option v-if="!joining.kindName" value="" disabled>what the picks fit</option>
        <optgroup v-for="f in families" :key="f.title" :label="f.title">
          <option v-for="k in f.kinds" :key="k.kind" :value="k.kind">{{ k.label }}</option>
        </optgroup>
      </select>
      <span v-if="joining.trying" class="muted">…</span>
      <span v-else-if="left" class="muted" data-testid="joint-leaves">{{ left }}</span>
    </header>
    <PickRow
      v-for="side in joining.sides"
      :key="side"
      :label="label(side)"
      :words="words(side)"
      :next="joining.next === side"
      :set="joining.ends[side] !== null"
      :testid="`end-${side}`"
      @anew="joining.put(side, null)"
    />
    <div v-if="joining.kind?.factor" class="row">
      <label>{{ joining.kind.factor.label }}</label>
      <input
        class="field"
        :value="joining.factor"
        :placeholder="joining.kind.factor.default"
        :aria-label="joining.kind.factor.label"
        spellcheck="false"
        data-testid="joint-factor"
        @input="later(() => (joining.factor = text($event)))"
      />
    </div>
    <template v-for="c in joining.kind?.coordinates ?? []" :key="c.name">
      <div class="row">
        <label :for="`joint-${c.name}`">{{ c.label }}</label>
        <button
          class="icon-btn"
          :class="{ on: joining.motions[c.name]?.value }"
          :title="joining.motions[c.name]?.value ? 'Let it go' : 'Hold it where it stands'"
          :aria-label="`Hold ${c.label.toLowerCase()}`"
          :data-testid="`joint-hold-${c.name}`"
          @click="joining.hold(c.name)"
        >
          <Icon :name="joining.motions[c.name]?.value ? 'lock' : 'unlock'" :size="14" />
        </button>
        <input
          :id="`joint-${c.name}`"
          class="field"
          :value="joining.motions[c.name]?.value ?? ''"
          :placeholder="reads(c.name, c.unit)"
          title="Held at a value; empty lets it move"
          spellcheck="false"
          :data-testid="`joint-value-${c.name}`"
          @input="joining.set(c.name, 'value', text($event))"
        />
      </div>
      <div v-if="!joining.motions[c.name]?.value" class="row limits">
        <label>from</label>
        <template v-for="field in ['least', 'most'] as const" :key="field">
          <span v-if="field === 'most'">to</span>
          <input
            class="field"
            :value="joining.motions[c.name]?.[field] ?? ''"
            placeholder="no limit"
            :aria-label="`${c.label}: ${field}`"
            spellcheck="false"
            :data-testid="`joint-${field}-${c.name}`"
            @input="joining.set(c.name, field, text($event))"
          />
        </template>
      </div>
    </template>
    <div v-if="joining.kind?.shifts && joining.kind.family !== 'Drive'" class="row">
      <label for="joint-offset">Offset</label>
      <input
        id="joint-offset"
        class="field"
        :value="joining.offset"
        placeholder="0 mm"
        spellcheck="false"
        data-testid="joint-offset"
        @input="later(() => (joining.offset = text($event)))"
      />
    </div>
    <div v-if="joining.kind" class="row">
      <label>{{ joining.kind.family === 'Drive' ? 'The same way round' : 'Other way round' }}</label>
      <input
        type="checkbox"
        :checked="joining.turned"
        :aria-label="joining.kind.family === 'Drive' ? 'The same way round' : 'Other way round'"
        data-testid="joint-flip"
        @change="joining.turnRound()"
      />
    </div>
    <p v-if="joining.hint" class="hint"><Icon name="hand" :size="15" /> {{ joining.hint }}</p>
    <TroubleNote v-if="joining.trouble" :report="joining.trouble" @take="(o) => o.commands && doc.edit(o.commands as never)" />
    <footer>
      <button class="btn" @click="joining.discard()">Discard</button>
      <button class="btn main" data-testid="keep-joint" :disabled="!joining.trial" @click="joining.keep()">Keep</button>
    </footer>
  </EditCard>
</template>

<style scoped>
.kind {
  width: 150px;
}
.limits {
  color: var(--ink-3);
  font-size: 12px;
  margin-top: -3px;
}
.limits > label {
  text-align: right;
  color: inherit;
}
.limits > .field {
  width: 92px;
}
.icon-btn.on {
  color: var(--accent);
}
</style>
