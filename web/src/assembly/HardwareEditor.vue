<script setup lang="ts">
// Hardware for a picked hole: the standard, the size and length chosen for it, what stands on what.
import { computed } from 'vue'
import { useDocument } from '../document/store'
import Icon from '../ui/Icon.vue'
import EditCard from './EditCard.vue'
import PickRow from './PickRow.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { length } from '../ui/units'
import { useHardware } from './hardware'

const hardware = useHardware()
const doc = useDocument()
const ROLES = { screw: 'Screws', pin: 'Pins', ring: 'Rings', washer: 'Washers', nut: 'Nuts' } as const
const groups = computed(() =>
  Object.entries(ROLES).map(([role, title]) => ({ title, standards: hardware.standards.filter((s) => s.role === role) })),
)
const screw = computed(() => hardware.standard?.role === 'screw')
const inch = computed(() => hardware.standard?.system === 'inch')
const where = computed(() => {
  const end = hardware.end
  if (!end) return 'pick the rim of a hole'
  const name = doc.assembly?.components?.find((c) => c.id === end.component)?.name ?? end.component
  return hardware.found ? `${name} · Ø ${length(hardware.found.diameter)}` : name
})
/** The sizes that fit first, then all others there are. */
const others = computed(() => (hardware.standard?.sizes ?? []).filter((s) => !hardware.found?.sizes.includes(s)))
const shown = (mm: number): string => (inch.value ? `${Number((mm / 25.4).toFixed(4))} in` : `${Number(mm.toFixed(3))} mm`)
const through = computed(() => {
  const f = hardware.found
  if (!f) return ''
  const parts = f.bores.map((b) => `${b.name} ${length(b.end - b.start)}`).join(', then ')
  return `${parts}${f.through ? ', through' : ''}`
})
const text = (event: Event): string => (event.target as HTMLInputElement).value
const ticked = (event: Event): boolean => (event.target as HTMLInputElement).checked
</script>

<template>
  <EditCard testid="hardware-editor" @keep="hardware.keep()" @leave="hardware.discard()">
    <header>
      <Icon name="thread" :size="16" />
      <select
        class="field kind"
        :value="hardware.chosen.standard"
        aria-label="Standard"
        data-testid="hardware-standard"
        @change="hardware.choose({ standard: text($event) })"
      >
        <optgroup v-for="g in groups" :key="g.title" :label="g.title">
          <option v-for="s in g.standards" :key="s.standard" :value="s.standard">{{ s.standard }} {{ s.label }}</option>
        </optgroup>
      </select>
      <span v-if="hardware.trying" class="muted">…</span>
    </header>
    <PickRow
      label="At"
      :words="where"
      :next="hardware.end === null"
      :set="hardware.end !== null"
      testid="hardware-end"
      @anew="hardware.begin()"
    />
    <template v-if="hardware.found">
      <p class="muted through" data-testid="hardware-through">{{ through }}</p>
      <div class="row">
        <label for="hardware-size">Size</label>
        <select
          id="hardware-size"
          class="field"
          :value="hardware.found.size"
          data-testid="hardware-size"
          @change="hardware.choose({ size: text($event) })"
        >
          <optgroup v-if="hardware.found.sizes.length" label="for this hole">
            <option v-for="s in hardware.found.sizes" :key="s" :value="s">{{ s }}</option>
          </optgroup>
          <optgroup label="others">
            <option v-for="s in others" :key="s" :value="s">{{ s }}</option>
          </optgroup>
        </select>
      </div>
      <div v-if="hardware.found.lengths.length" class="row">
        <label for="hardware-length">Length</label>
        <select
          id="hardware-length"
          class="field"
          :value="hardware.found.length"
          data-testid="hardware-length"
          @change="hardware.choose({ size: hardware.found.size, length: Number(text($event)) })"
        >
          <option v-for="m in hardware.found.lengths" :key="m" :value="m">{{ shown(m) }}</option>
        </select>
      </div>
      <div v-if="screw" class="row">
        <label for="hardware-washer">Washer under it</label>
        <input
          id="hardware-washer"
          type="checkbox"
          :checked="hardware.chosen.washer"
          data-testid="hardware-washer"
          @change="hardware.choose({ size: hardware.found.size, washer: ticked($event) })"
        />
      </div>
      <div v-if="screw && hardware.found.through && !hardware.found.tapped" class="row">
        <label for="hardware-nut">Nut on the far side</label>
        <input
          id="hardware-nut"
          type="checkbox"
          :checked="hardware.chosen.nut"
          data-testid="hardware-nut"
          @change="hardware.choose({ size: hardware.found.size, nut: ticked($event) })"
        />
      </div>
      <div v-if="hardware.found.alike" class="row">
        <label for="hardware-alike">Into all {{ hardware.found.alike + 1 }} alike</label>
        <input
          id="hardware-alike"
          type="checkbox"
          :checked="hardware.chosen.alike"
          data-testid="hardware-alike"
          @change="hardware.choose({ size: hardware.found.size, alike: ticked($event) })"
        />
      </div>
      <ol class="stack" data-testid="hardware-stack">
        <li v-for="(item, n) in hardware.found.items" :key="n">{{ item.title }}<span v-if="item.far" class="muted"> far side</span></li>
      </ol>
      <p v-if="hardware.found.tapped" class="muted through">
        clamps {{ length(hardware.found.grip) }}, held over {{ length(hardware.found.held) }} of thread
      </p>
      <p v-for="note in hardware.found.notes" :key="note" class="note"><Icon name="alert" :size="14" /> {{ note }}</p>
    </template>
    <p v-else-if="!hardware.end" class="hint"><Icon name="hand" :size="15" /> Pick the round edge where the head is to sit</p>
    <TroubleNote v-if="hardware.trouble" :report="hardware.trouble" />
    <footer>
      <button class="btn" @click="hardware.discard()">Done</button>
      <button class="btn main" data-testid="keep-hardware" :disabled="!hardware.found" @click="hardware.keep()">Put in</button>
    </footer>
  </EditCard>
</template>

<style scoped>
.kind {
  flex: 1;
  min-width: 0;
}
.row > select.field {
  width: 128px;
}
.through {
  font-size: 12px;
  margin: 0;
}
.stack {
  margin: 2px 0;
  padding: 5px 8px 5px 26px;
  border-radius: 6px;
  background: var(--accent-soft);
  font-size: 12.5px;
}
.note {
  display: flex;
  gap: 6px;
  margin: 0;
  font-size: 12px;
  color: var(--bad);
}
</style>
