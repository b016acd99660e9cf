<script setup lang="ts">
// The frame every document is worked on in: rail, one or two panes, drawer, panel at the right.
// What differs between kinds of documents comes in through slots.
import { computed, defineAsyncComponent, useSlots, watch } from 'vue'
import type { Schemas } from '../api/client'
import ChecksTable from '../checks/ChecksTable.vue'
import { useChecks } from '../checks/store'
import { useDocument } from '../document/store'
import Drawer, { type Tab } from '../drawer/Drawer.vue'
import MessagesTable from '../drawer/MessagesTable.vue'
import PropertiesTable from '../drawer/PropertiesTable.vue'
import ParametersTable from '../parameters/ParametersTable.vue'
import { useParameters } from '../parameters/store'
import type { BodySpec } from '../viewport/body'
import type { Engine } from '../viewport/engine'
import { usePanes } from '../viewport/panes'
import VerbRail, { type Verb } from './VerbRail.vue'

const ScriptPane = defineAsyncComponent(() => import('../scripts/ScriptPane.vue'))
const MembersTable = defineAsyncComponent(() => import('../members/MembersTable.vue'))
const RevisionsTable = defineAsyncComponent(() => import('../revisions/RevisionsTable.vue'))
const ExplorePane = defineAsyncComponent(() => import('../explore/ExplorePane.vue'))
const BesidePane = defineAsyncComponent(() => import('../document/BesidePane.vue'))

const props = defineProps<{
  verbs: Verb[]
  active?: string | null
  /** The drawer's open tab. */
  drawer: string | null
  values: Record<string, Schemas['ParameterView']>
  /** Tabs of its own, each with a slot of its key. */
  more?: Tab[]
  /** Jobs under way, on the Results tab. */
  running?: number
  engine: Engine | null
  /** Bumped with every frame of the first pane. */
  tick: number
  bodies: BodySpec[]
  matrices?: Map<string, number[]> | null
}>()
const emit = defineEmits<{ drawer: [key: string | null]; tool: [key: string] }>()
const doc = useDocument()
const checks = useChecks()
const panes = usePanes()
const parameters = useParameters()
const slots = useSlots()
watch(
  () => props.values,
  (found) => (parameters.values = found),
  { immediate: true },
)
watch(
  () => parameters.jump,
  (jump) => {
    if (jump?.kind !== 'check') return
    parameters.jump = null
    emit('drawer', 'checks')
  },
)

const tabs = computed<Tab[]>(() => [
  { key: 'parameters', label: 'Parameters', badge: parameters.troubled.length, tone: 'bad' },
  { key: 'checks', label: 'Checks', badge: checks.counts.fails, tone: 'bad' },
  ...(slots.results ? [{ key: 'results', label: 'Results', badge: props.running }] : []),
  ...(props.more ?? []),
  ...(doc.part || doc.assembly ? [{ key: 'explore', label: 'Explore' }] : []),
  { key: 'variants', label: 'Variants', badge: doc.view?.document.variants?.length },
  { key: 'properties', label: 'Properties' },
  { key: 'revisions', label: 'Revisions' },
  { key: 'script', label: 'Script' },
  { key: 'messages', label: 'Messages', badge: doc.messages.filter((m) => m.tone === 'bad').length, tone: 'bad' },
])
</script>

<template>
  <div class="work">
    <VerbRail :verbs="verbs" :active="active" @tool="(key) => emit('tool', key)" />
    <div class="middle">
      <div class="panes">
        <div class="pane"><slot name="view" /></div>
        <div v-if="panes.open" class="pane">
          <slot v-if="panes.blank !== null && slots.blank" name="blank" />
          <BesidePane v-else :main="engine" :bodies="bodies" :matrices="matrices" :tick="tick" />
        </div>
      </div>
      <Drawer :tabs="tabs" :open="drawer" @show="(k) => emit('drawer', k)">
        <template #parameters><ParametersTable /></template>
        <template #checks><ChecksTable /></template>
        <template #results><slot name="results" /></template>
        <template v-for="t in more" :key="t.key" #[t.key]><slot :name="t.key" /></template>
        <template #explore><ExplorePane /></template>
        <template #variants><MembersTable /></template>
        <template #properties><PropertiesTable /></template>
        <template #revisions><RevisionsTable /></template>
        <template #script><ScriptPane /></template>
        <template #messages><MessagesTable /></template>
      </Drawer>
    </div>
    <slot name="panel" />
  </div>
</template>

<style scoped>
.work {
  flex: 1;
  display: flex;
  min-height: 0;
}
.middle {
  flex: 1;
  display: flex;
  flex-direction: column;
  min-width: 0;
}
.panes {
  flex: 1;
  min-height: 0;
  display: flex;
}
.pane {
  flex: 1 1 0;
  min-width: 0;
  min-height: 0;
}
</style>
