<script setup lang="ts">
// Components and joints: what stands how, joint ends being picked, values driven.
import { NDropdown } from 'naive-ui'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import { useParameters } from '../parameters/store'
import { mass, trim } from '../ui/format'
import Icon from '../ui/Icon.vue'
import TroubleNote from '../ui/TroubleNote.vue'
import { length, typed as withUnit } from '../ui/units'
import ApartRow from './ApartRow.vue'
import ComponentTree from './ComponentTree.vue'
import { useCopying } from './copying'
import { useHardware } from './hardware'
import HardwareEditor from './HardwareEditor.vue'
import { useMaking } from './inplace'
import InPlaceEditor from './InPlaceEditor.vue'
import JointEditor from './JointEditor.vue'
import JointMarks from './JointMarks.vue'
import JointSliders from './JointSliders.vue'
import MassCard from '../measure/MassCard.vue'
import { useJoining } from './joining'
import OutOfDate from './OutOfDate.vue'
import MoveEditor from './MoveEditor.vue'
import { useMoving } from './moving'
import PlacePanel from './PlacePanel.vue'
import type { Where } from './placing'
import { usePorts } from './ports'
import PortsCard from './PortsCard.vue'
import PositionRow from './PositionRow.vue'
import { useReplacing } from './replacing'
import RunEditor from './RunEditor.vue'
import { useRuns } from './runs'
import SharePanel from './SharePanel.vue'
import { useSharing } from './sharing'
import ReplacePanel from './ReplacePanel.vue'
import { useAssembly } from './store'

defineProps<{ placing: Schemas['DocumentLine'][] | null; waiting?: string | null }>()
const emit = defineEmits<{ place: [line: Schemas['DocumentLine'], anchored: boolean, where: Where]; leave: [] }>()
const doc = useDocument()
const asm = useAssembly()
const joining = useJoining()
const hardware = useHardware()
const replacing = useReplacing()
const ports = usePorts()
const making = useMaking()
const weighing = ref(false)
watch(
  () => doc.view?.id,
  () => (weighing.value = false),
)
const sharing = useSharing()
const runs = useRuns()
const moving = useMoving()
const copying = useCopying()
// What is opened is seen: the card of masses lies over it.
watch(
  () => joining.open || copying.open || hardware.open || making.open || moving.open || sharing.open || runs.draft !== null,
  (on) => on && (weighing.value = false),
)
const registries = useRegistries()
const parameters = useParameters()

const joints = computed(() => new Map((asm.built?.joints ?? []).map((j) => [j.id, j])))
const nameOf = (id: string): string => doc.assembly?.components?.find((c) => c.id === id)?.name ?? id
const iconOf = (kind: string): string => registries.found?.joints.find((j) => j.kind === kind)?.icon ?? 'link'

/** Joints that hold something fast, with nothing to set and nothing to tell: many are folded away. */
const FEW = 4
const fastOpen = ref(false)
const fast = computed(() => {
  const found = (doc.assembly?.joints ?? []).filter((j) => {
    const told = joints.value.get(j.id)
    return j.kind === 'fixed' && !j.asleep && !told?.trouble && !told?.repeats && !(joining.open && joining.id === j.id)
  })
  return found.length > FEW ? found : []
})
const listed = computed(() => {
  const folded = new Set(fast.value)
  const rest = (doc.assembly?.joints ?? []).filter((j) => !folded.has(j))
  return fastOpen.value ? [...rest, ...fast.value] : rest
})

const state = computed(() => {
  const b = asm.built
  if (!b) return ''
  if (!b.holds) return 'joints contradict'
  return b.freedom ? `${b.freedom} ${b.freedom === 1 ? 'freedom' : 'freedoms'}` : 'all held'
})
const jointMenu = (j: Schemas['Joint']) => [
  { key: 'edit', label: 'Edit' },
  ...(Object.values(j.motions ?? {}).some((m) => m.value) ? [{ key: 'free', label: 'Let it move freely' }] : []),
  { key: 'sleep', label: j.asleep ? 'Wake' : 'Put to sleep' },
  { key: 'remove', label: 'Delete' },
]
watch(
  () => parameters.jump,
  (jump) => {
    const joint = jump?.kind === 'joint' ? doc.assembly?.joints?.find((j) => j.id === jump.id) : undefined
    if (!joint) return
    parameters.jump = null
    joining.edit(joint)
  },
)
async function chooseJoint(key: string, j: Schemas['Joint']): Promise<void> {
  if (key === 'edit') joining.edit(j)
  else if (key === 'free') await doc.edit([{ do: 'edit_joint', id: j.id, fields: { motions: freed(j) } }])
  else if (key === 'sleep') await doc.edit([{ do: 'edit_joint', id: j.id, fields: { asleep: !j.asleep } }])
  else await doc.edit([{ do: 'remove_joint', id: j.id }])
}
/** Its motions with nothing driven, limits kept. */
const freed = (j: Schemas['Joint']) => Object.fromEntries(Object.entries(j.motions ?? {}).map(([name, m]) => [name, { ...m, value: null }]))
/** What is offered where a joint is in trouble: other fields for it, or commands. */
function take(j: Schemas['Joint'], offer: { fields?: Record<string, unknown>; commands?: Record<string, unknown>[] }): void {
  void doc.edit((offer.commands?.length ? offer.commands : [{ do: 'edit_joint', id: j.id, fields: offer.fields ?? {} }]) as Command[])
}
const familyOf = (j: { kind: string }): string => registries.found?.joints.find((k) => k.kind === j.kind)?.family ?? 'Joint'
type Coordinate = Schemas['CoordinateView']
const coordinates = (j: { id: string }): Coordinate[] => joints.value.get(j.id)?.coordinates ?? []
/** Joints of assemblies inside that move here. */
const inner = computed(() => (asm.built?.joints ?? []).filter((j) => j.inner && familyOf(j) === 'Joint' && j.coordinates.length))
function stands(j: { id: string; kind: string }): string {
  const words = coordinates(j).map((c) => {
    const v = asm.values[j.id]?.[c.name] ?? c.value
    return c.unit === 'deg' ? `${trim(v, 1)}°` : length(v)
  })
  return words.join(' · ') || (registries.found?.joints.find((k) => k.kind === j.kind)?.label.toLowerCase() ?? j.kind)
}
/** The size a condition holds: changed where it stands. */
function sizeOf(j: Schemas['Joint']): { name: string; label: string; unit: string; value: string } | null {
  if (familyOf(j) !== 'Condition') return null
  const c = registries.found?.joints.find((k) => k.kind === j.kind)?.coordinates.find((x) => j.motions?.[x.name]?.value)
  return c ? { ...c, value: j.motions![c.name].value! } : null
}
async function resize(j: Schemas['Joint'], said: string): Promise<void> {
  const size = sizeOf(j)
  if (!size || !said.trim()) return
  const value = withUnit(said, size.unit === 'deg' ? 'angle' : 'length')
  if (value === size.value) return
  await doc.edit([{ do: 'edit_joint', id: j.id, fields: { motions: { ...j.motions, [size.name]: { ...j.motions![size.name], value } } } }])
}
const text = (e: Event): string => (e.target as HTMLInputElement).value
</script>

<template>
  <aside class="panel side-panel" data-testid="assembly-panel">
    <div class="top">
      <h2>Components</h2>
      <span class="muted" data-testid="freedom">{{ state }}</span>
      <button class="weight" title="Mass, centre, inertia" data-testid="total-mass" @click="weighing = !weighing">
        {{ mass(asm.built?.mass ?? 0) }}
      </button>
    </div>
    <div class="body scroll">
      <PlacePanel
        v-if="placing"
        :documents="placing"
        :waiting="waiting"
        @place="(d, anchored, where) => emit('place', d, anchored, where)"
        @leave="emit('leave')"
      />
      <PortsCard v-if="ports.component" />
      <ReplacePanel v-if="replacing.component" />
      <HardwareEditor v-if="hardware.open" />
      <InPlaceEditor v-if="making.open" />
      <MoveEditor v-if="moving.open" />
      <SharePanel v-if="sharing.open" />
      <RunEditor v-if="runs.draft" />
      <OutOfDate />
      <TroubleNote v-for="t in asm.built?.troubles ?? []" :key="t.text" :report="t" />
      <ComponentTree />
      <div class="second heading">
        <h2>Joints</h2>
        <button
          class="chip"
          :class="{ on: asm.contact }"
          :aria-pressed="asm.contact"
          title="What is dragged or driven stops where things meet; with Shift it goes on"
          data-testid="contact"
          @click="asm.contact = !asm.contact"
        >
          Stop at contact
        </button>
      </div>
      <p v-if="!doc.assembly?.joints?.length && !joining.open" class="muted">
        None yet. Choose Join, then pick an end on each of two components.
      </p>
      <button
        v-if="fast.length"
        class="fold"
        :aria-expanded="fastOpen"
        :title="fastOpen ? 'Fold them away' : 'Show each of them'"
        data-testid="joints-fast"
        @click="fastOpen = !fastOpen"
      >
        <Icon :name="fastOpen ? 'down' : 'right'" :size="13" /> {{ fast.length }} hold components fast
      </button>
      <template v-for="j in listed" :key="j.id">
        <JointEditor v-if="joining.open && joining.id === j.id" />
        <article v-else class="row joint" :class="{ asleep: j.asleep, bad: joints.get(j.id)?.trouble }" :data-testid="`joint-${j.id}`">
          <Icon :name="iconOf(j.kind)" :size="15" />
          <b :title="`${nameOf(j.a.component)} – ${nameOf(j.b.component)}`" @dblclick="joining.edit(j)">{{ j.name }}</b>
          <input
            v-if="sizeOf(j)"
            class="field size"
            :value="sizeOf(j)!.value"
            :aria-label="`${j.name}: ${sizeOf(j)!.label}`"
            spellcheck="false"
            :data-testid="`size-${j.id}`"
            @change="resize(j, text($event))"
            @keydown.stop
          />
          <span v-else class="muted">{{ stands(j) }}</span>
          <NDropdown :options="jointMenu(j)" trigger="click" @select="(k: string) => chooseJoint(k, j)">
            <button class="icon-btn" :aria-label="`More for ${j.name}`"><Icon name="more" :size="14" /></button>
          </NDropdown>
          <JointMarks :joint="j" :coordinates="coordinates(j)" />
          <JointSliders
            v-if="!j.asleep && familyOf(j) === 'Joint'"
            :joint="j"
            :coordinates="coordinates(j)"
            @keep="(c, v) => asm.keepValue(j.id, c, v)"
          />
          <div v-if="joints.get(j.id)?.trouble" class="wide">
            <TroubleNote :report="joints.get(j.id)!.trouble!" @take="(o) => take(j, o)" />
          </div>
          <p v-else-if="joints.get(j.id)?.turning" class="wide muted small">At a change point: from here it may go on in two ways.</p>
          <p v-else-if="joints.get(j.id)?.repeats" class="wide muted small">Says again, in part, what other joints already hold.</p>
        </article>
      </template>
      <template v-for="j in inner" :key="j.id">
        <article class="row joint inner" :data-testid="`joint-${j.id}`">
          <Icon :name="iconOf(j.kind)" :size="15" />
          <b :title="j.name">{{ j.name }}</b>
          <span class="muted">{{ stands(j) }}</span>
          <JointSliders :joint="j" :coordinates="j.coordinates" @keep="asm.keepPlaces()" />
        </article>
      </template>
      <JointEditor v-if="joining.open && !joining.id" />
      <PositionRow v-if="doc.assembly?.components?.length" />
      <ApartRow v-if="(doc.assembly?.components?.length ?? 0) > 1" />
    </div>
    <MassCard v-if="weighing" :components="asm.selected" @shut="weighing = false" />
  </aside>
</template>

<style scoped>
.weight {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  cursor: pointer;
}
.top {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 9px 14px 7px;
}
h2 {
  font-size: 14px;
  flex: 1;
}
.fold {
  display: flex;
  align-items: center;
  gap: 6px;
  width: 100%;
  padding: 5px 6px;
  color: var(--ink-3);
  text-align: left;
}
.fold:hover {
  color: var(--ink);
}
.heading {
  display: flex;
  align-items: center;
  justify-content: space-between;
}
.second {
  margin: 14px 4px 6px;
}
h3 {
  font-size: 12px;
  color: var(--ink-3);
}
.body {
  flex: 1;
  min-height: 0;
  padding: 2px 10px 16px;
}
.row {
  /* Of hundreds only those in sight are laid out. */
  content-visibility: auto;
  contain-intrinsic-size: auto 34px;
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr) auto 24px;
  gap: 3px 8px;
  align-items: center;
  padding: 4px 4px 4px 8px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--panel);
  margin-bottom: 5px;
}
.row b {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.row.bad {
  border-color: var(--bad);
}
.row.inner {
  border-style: dashed;
}
.row.asleep {
  opacity: 0.5;
  border-style: dashed;
}
.row .muted {
  font-size: 12px;
}
.wide {
  grid-column: 1 / -1;
  margin: 0 6px 2px 2px;
}
.size {
  width: 92px;
  text-align: right;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
