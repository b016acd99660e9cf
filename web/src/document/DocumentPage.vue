<script setup lang="ts">
// Any document: opens it, the head bar, keys, and the page of its kind.
import { useMessage } from 'naive-ui'
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { onBeforeRouteLeave, useRoute } from 'vue-router'
import { useChecks } from '../checks/store'
import HelpPanel from '../help/HelpPanel.vue'
import { refuse } from '../help/toast'
import KeySheet from '../help/KeySheet.vue'
import { useHelp } from '../help/store'
import { useTour } from '../help/tour'
import TourCard from '../help/TourCard.vue'
import { download } from '../api/client'
import HeadBar from '../shell/HeadBar.vue'
import type { Engine } from '../viewport/engine'
import type { ViewName } from '../viewport/camera'
import { usePanes } from '../viewport/panes'
import type { Stack } from '../shell/layers'
import { KINDS } from './kinds'
import { useDocument, useRegistries } from './store'
import { useJobs } from '../jobs/store'
import { useMeasuring } from '../measure/store'

const props = defineProps<{ id: string }>()
const doc = useDocument()
const checks = useChecks()
const panes = usePanes()
const pages = useHelp()
const tour = useTour()
const measuring = useMeasuring()
const jobs = useJobs()
const registries = useRegistries()
const message = useMessage()
const route = useRoute()
const drawer = ref<string | null>(null)
const help = ref(false)
const missing = ref('')
const engine = shallowRef<Engine | null>(null)
const page = ref<{ tool: (key: string) => Promise<void>; stack: Stack } | null>(null)
/** What is open over the page. */
const stack = computed(() => page.value?.stack ?? null)
const kind = computed(() => (doc.view ? KINDS[doc.view.kind] : null))
const forget = (): void => Object.values(KINDS).forEach((k) => k.reset())

async function load(): Promise<void> {
  missing.value = ''
  forget()
  try {
    await registries.load()
    await doc.open(props.id, (kind) => KINDS[kind].builds)
    for (const t of registries.found?.troubles ?? []) doc.say(`Own step: ${t.text}`, 'bad')
    await jobs.open(props.id)
    checks.open()
    const asked = route.query.drawer
    drawer.value = typeof asked === 'string' ? asked : doc.view?.document.parameters?.length ? 'parameters' : null
    document.title = `${doc.view?.document.name} — Vireo`
  } catch (error) {
    missing.value = error instanceof Error ? error.message : String(error)
  }
}
watch(() => props.id, load)
onMounted(() => {
  void load()
  window.addEventListener('keydown', key)
})
onUnmounted(() => {
  window.removeEventListener('keydown', key)
  forget()
  checks.close()
  jobs.close()
  panes.close()
  doc.close()
})
// Checks follow every change, here and in what this document uses.
watch(
  () => doc.touched,
  () => void checks.refresh(),
)
onBeforeRouteLeave(() => !stack.value?.unkept || confirm('Leave without keeping what is open?'))
watch(
  () => doc.failure,
  (f) => {
    if (f && !stack.value?.is('step')) refuse(message, f)
  },
)
function ready(e: Engine): void {
  engine.value = e
  if (new URLSearchParams(location.search).has('seam')) void import('./seam').then((s) => s.installSeam(e))
}

const VIEW_KEYS: ViewName[] = ['front', 'back', 'left', 'right', 'top', 'under', 'iso']
const press = (testid: string): void => document.querySelector<HTMLElement>(testid)?.click()

function key(event: KeyboardEvent): void {
  const typing = /^(INPUT|SELECT|TEXTAREA)$/.test((event.target as HTMLElement).tagName)
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'z' && !typing) {
    event.preventDefault()
    void (event.shiftKey ? redo() : undo())
    return
  }
  if (command && event.key.toLowerCase() === 'y' && !typing) {
    event.preventDefault()
    void redo()
    return
  }
  if (typing || command || event.altKey) return
  const number = Number.parseInt(event.key, 10)
  if (number >= 1 && number <= 7) engine.value?.camera.view(VIEW_KEYS[number - 1])
  else if (stack.value?.key(event)) return
  else
    switch (event.key) {
      case '/':
        event.preventDefault()
        document.querySelector<HTMLInputElement>('[data-testid=quick]')?.focus()
        break
      case 'f':
      case 'F':
        fit()
        break
      case 'x':
      case 'X':
        panes.control?.toggleSection()
        break
      case 't':
      case 'T':
        panes.control?.toggleSeeThrough()
        break
      case 'p':
      case 'P':
        panes.control?.togglePerspective()
        break
      case 'l':
      case 'L':
        panes.control?.faceOn()
        break
      case 'Backspace':
        panes.control?.previous()
        break
      case 'm':
      case 'M':
        if (measuring.on || !stack.value?.alone) measuring.toggle()
        break
      case 'b':
      case 'B':
        if (!stack.value?.is('sketch')) panes.toggle()
        break
      case '?':
        help.value = true
        break
      case 'F1':
        void pages.show(stack.value?.help ?? null)
        break
      case '[':
        moveMarker(-1)
        break
      case ']':
        moveMarker(1)
        break
      case 'Escape':
        stack.value?.leave()
        break
    }
}
/** Everything in view; in a sketch, what is drawn. */
function fit(): void {
  if (!stack.value?.fit()) engine.value?.fit()
}
const undo = async (): Promise<void> => void (stack.value?.undo() || (await doc.undo()))
const redo = async (): Promise<void> => void (stack.value?.redo() || (await doc.redo()))

function moveMarker(by: number): void {
  const part = doc.part
  if (!part) return
  const now = part.marker ?? part.steps.length
  const next = Math.max(0, Math.min(part.steps.length, now + by))
  if (next !== now) void doc.edit([{ do: 'set_marker', at: next === part.steps.length ? null : next }])
}

function quick(action: string): void {
  if (action === 'fit') fit()
  else if (action === 'section') panes.control?.toggleSection()
  else if (action.startsWith('drawer:')) drawer.value = action.slice(7)
}
function handover(what: string): void {
  const choice = doc.view && kind.value?.handOver(doc.view).find((h) => h.key === what)
  if (!choice?.does) return void send(what)
  const command = choice.does()
  if (command) void doc.edit([command])
}
async function send(what: string): Promise<void> {
  const view = doc.view
  if (!view) return
  try {
    await download(what === 'zip' ? `/api/projects/${view.project}/archive` : `/api/documents/${view.id}/export.${what}`)
    doc.say(`Handed over as ${what.split('?')[0].toUpperCase()}`, 'good')
  } catch (error) {
    doc.refused(error)
  }
}
defineExpose({ press })
</script>

<template>
  <div class="page">
    <HeadBar
      :checks="checks.counts"
      @help="pages.shown ? (pages.shown = false) : pages.show()"
      @parameters="drawer = 'parameters'"
      @checks="drawer = 'checks'"
      @handover="handover"
      @quick="quick"
    />
    <div v-if="missing" class="missing">
      <h2>This document cannot be opened</h2>
      <p>{{ missing }}</p>
      <RouterLink to="/" class="btn">Back to the shelf</RouterLink>
    </div>
    <component :is="kind.page" v-else-if="kind" ref="page" :drawer="drawer" @drawer="(k: string | null) => (drawer = k)" @engine="ready" />
    <KeySheet v-model:show="help" />
    <HelpPanel @keys="help = true" @tour="tour.begin()" />
    <TourCard v-if="tour.stop" />
    <template v-for="(p, i) in kind?.panels ?? []" :key="i"><component :is="p.component" v-if="p.shown()" /></template>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  display: flex;
  flex-direction: column;
}
.missing {
  margin: 15vh auto;
  text-align: center;
}
.missing .btn {
  text-decoration: none;
}
</style>
