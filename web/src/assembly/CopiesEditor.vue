<script setup lang="ts">
// Copies of components: what is copied, along, round or over what, how many, and which are left out;
// they stand in the picture before they are kept.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import PickRow from './PickRow.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { AXES, useCopying } from './copying'
import { natureOf } from './joining'

const copying = useCopying()
const doc = useDocument()
const nameOf = (id: string): string =>
  [...(doc.assembly?.components ?? []), ...(doc.assembly?.copies ?? [])].find((c) => c.id === id)?.name ?? id
const what = computed(() => {
  const ids = copying.components
  if (!ids.length) return 'pick it in the picture'
  return ids.length > 2 ? `${ids.length} components` : ids.map(nameOf).join(', ')
})
const by = computed(() => {
  const end = copying.of
  if (!end) return copying.kind?.axis ? 'an axis, or pick in the picture' : 'pick it in the picture'
  if (!end.pick) return `${nameOf(end.component)} · port`
  const nature = natureOf(end.pick)
  return `${nameOf(end.component)} · ${nature === 'axis' ? 'round face' : nature === 'plane' ? 'flat face' : nature}`
})
const made = computed(() => {
  const n = copying.found?.numbers.length
  return n === undefined || copying.trouble ? null : `${n} ${n === 1 ? 'copy' : 'copies'}`
})
const text = (event: Event): string => (event.target as HTMLInputElement).value
function later(set: () => void): void {
  set()
  copying.schedule(150)
}
</script>

<template>
  <EditCard testid="copies-editor" @keep="copying.keep()" @leave="copying.discard()">
    <header>
      <Icon :name="copying.kind?.icon ?? 'copies'" :size="16" />
      <select
        class="field kind"
        :value="copying.kindName"
        aria-label="Way to copy"
        data-testid="copies-kind"
        @change="copying.choose(text($event))"
      >
        <option v-for="k in copying.kinds" :key="k.kind" :value="k.kind">{{ k.label }}</option>
      </select>
      <span v-if="copying.trying" class="muted">…</span>
      <span v-else-if="made" class="muted" data-testid="copies-made">{{ made }}</span>
    </header>
    <PickRow
      label="Copies of"
      :words="what"
      :next="copying.next === 'components'"
      :set="copying.components.length > 0"
      title="Click to choose anew"
      testid="copies-of"
      @anew="later(() => (copying.components = []))"
    />
    <PickRow
      :label="copying.kindName === 'following' ? 'At' : 'By'"
      :words="by"
      :next="copying.next === 'of'"
      :set="copying.of !== null"
      :title="copying.kind?.hint"
      testid="copies-by"
      @anew="later(() => (copying.of = null))"
    />
    <div v-if="copying.kind?.axis && !copying.of" class="row">
      <label>{{ copying.kindName === 'mirrored' ? 'Plane across' : 'Axis of the assembly' }}</label>
      <span class="group">
        <button
          v-for="a in AXES"
          :key="a"
          class="chip"
          :class="{ on: copying.axis === a }"
          :aria-pressed="copying.axis === a"
          :data-testid="`copies-axis-${a}`"
          @click="later(() => (copying.axis = a))"
        >
          {{ a }}
        </button>
      </span>
    </div>
    <div v-if="copying.kind?.counted" class="row">
      <label for="copies-count">Number, with the original</label>
      <input
        id="copies-count"
        class="field"
        :value="copying.count"
        placeholder="2"
        spellcheck="false"
        data-testid="copies-count"
        @input="later(() => (copying.count = text($event)))"
      />
    </div>
    <div v-if="copying.kind?.spacing" class="row">
      <label for="copies-spacing">{{ copying.kind.spacing.label }}</label>
      <input
        id="copies-spacing"
        class="field"
        :value="copying.spacing"
        :placeholder="copying.kind.spacing.default"
        spellcheck="false"
        data-testid="copies-spacing"
        @input="later(() => (copying.spacing = text($event)))"
      />
    </div>
    <div v-if="copying.kind?.turns" class="row">
      <label for="copies-reverse">Other way round</label>
      <input id="copies-reverse" v-model="copying.reverse" type="checkbox" data-testid="copies-reverse" @change="copying.schedule(0)" />
    </div>
    <div v-if="copying.numbers.length > 1 && copying.numbers.length <= 60" class="row out">
      <label>Left out</label>
      <span class="group">
        <button
          v-for="n in copying.numbers"
          :key="n"
          class="number"
          :class="{ on: copying.leftOut.includes(n) }"
          :aria-pressed="copying.leftOut.includes(n)"
          :title="copying.leftOut.includes(n) ? `Bring number ${n} back` : `Leave number ${n} out`"
          :data-testid="`copies-out-${n}`"
          @click="copying.leave(n)"
        >
          {{ n }}
        </button>
      </span>
    </div>
    <p v-if="copying.next" class="hint">
      <Icon name="hand" :size="15" /> {{ copying.next === 'components' ? 'Pick a component to copy' : copying.kind?.hint }}
    </p>
    <p v-if="copying.found?.note" class="muted note">{{ copying.found.note }}</p>
    <button
      v-if="copying.kindName === 'mirrored' && copying.components.length"
      class="btn opposite"
      title="A part of its own that follows the original as in a mirror"
      data-testid="make-opposite"
      @click="copying.oppose()"
    >
      <Icon name="symmetric" :size="14" /> Make the opposite part instead
    </button>
    <TroubleNote v-if="copying.trouble" :report="copying.trouble" />
    <footer>
      <button class="btn" @click="copying.discard()">Discard</button>
      <button class="btn main" data-testid="keep-copies" :disabled="!copying.trial || !!copying.trouble" @click="copying.keep()">
        Keep
      </button>
    </footer>
  </EditCard>
</template>

<style scoped>
.kind {
  width: 168px;
}
.out {
  align-items: flex-start;
}
.out > label {
  flex: none;
  padding-top: 3px;
}
.group {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  gap: 4px;
  flex: 1;
}
.number {
  min-width: 26px;
  padding: 2px 5px;
  border: 1px solid var(--line-2);
  border-radius: 6px;
  font-size: 12px;
  font-variant-numeric: tabular-nums;
}
.number.on {
  text-decoration: line-through;
  color: var(--ink-3);
  background: var(--line);
}
.opposite {
  align-self: flex-start;
  margin-top: 6px;
}
.note {
  font-size: 12px;
}
</style>
