<script setup lang="ts">
// Any document: opens it, the head bar, keys, and the page of its kind.
import { useMessage } from 'naive-ui'
import { defineAsyncComponent, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue'
import { onBeforeRouteLeave } from 'vue-router'
import { useChecks } from '../checks/store'
import HelpPanel from '../help/HelpPanel.vue'
import { refuse } from '../help/toast'
import { usePrinting } from '../exchange/printing'
import KeySheet from '../help/KeySheet.vue'
import { useHelp } from '../help/store'
import { useTour } from '../help/tour'
import TourCard from '../help/TourCard.vue'
import { useDraft } from '../part/draft'
import { download } from '../api/client'
import HeadBar from '../shell/HeadBar.vue'
import { useSketch } from '../sketch/store'
import type { Engine } from '../viewport/engine'
import type { ViewName } from '../viewport/camera'
import { usePanes } from '../viewport/panes'
import { useDocument, useRegistries } from './store'
import { useAssembly } from '../assembly/store'
import { useJobs } from '../jobs/store'
import { useMeasuring } from '../measure/store'

const PartPage = defineAsyncComponent(() => import('../part/PartPage.vue'))
const AssemblyPage = defineAsyncComponent(() => import('../assembly/AssemblyPage.vue'))
const PrintPanel = defineAsyncComponent(() => import('../exchange/PrintPanel.vue'))
const StudyPage = defineAsyncComponent(() => import('../study/StudyPage.vue'))

const props = defineProps<{ id: string }>()
const doc = useDocument()
const draft = useDraft()
const sketch = useSketch()
const checks = useChecks()
const asm = useAssembly()
const panes = usePanes()
const pages = useHelp()
const tour = useTour()
const measuring = useMeasuring()
const jobs = useJobs()
const registries = useRegistries()
const message = useMessage()
const drawer = ref<string | null>(null)
const help = ref(false)
const missing = ref('')
const engine = shallowRef<Engine | null>(null)
const page = ref<{ tool: (key: string) => Promise<void>; cancel?: () => void; faceSketch?: () => void } | null>(null)

async function load(): Promise<void> {
  missing.value = ''
  draft.discard()
  sketch.stop()
  try {
    await registries.load()
    asm.close()
    await doc.open(props.id)
    for (const t of registries.found?.troubles ?? []) doc.say(`Own step: ${t.text}`, 'bad')
    await jobs.open(props.id)
    checks.open()
    drawer.value = doc.view?.document.parameters?.length ? 'parameters' : null
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
  draft.discard()
  sketch.stop()
  checks.close()
  jobs.close()
  asm.close()
  panes.close()
  doc.close()
})
// Checks follow every change, here and in what this document uses.
watch(
  () => doc.touched,
  () => void checks.refresh(),
)
onBeforeRouteLeave(() => !(draft.touched || (sketch.open && sketch.past.length)) || confirm('Leave without keeping what is open?'))
watch(
  () => doc.failure,
  (f) => {
    if (f && !draft.open) refuse(message, f)
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
  else if (sketch.open && sketchKey(event.shiftKey ? event.key.toUpperCase() : event.key.toLowerCase())) return
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
        if (!sketch.open && !draft.open) measuring.toggle()
        break
      case 'b':
      case 'B':
        if (!sketch.open) panes.toggle()
        break
      case '?':
        help.value = true
        break
      case 'F1':
        void pages.show(draft.open ? `step:${draft.kindName}` : null)
        break
      case '[':
        moveMarker(-1)
        break
      case ']':
        moveMarker(1)
        break
      case 'Enter':
        if (draft.open) void draft.keep()
        break
      case 'Escape':
        if (draft.open) draft.discard()
        else if (measuring.on) measuring.stop()
        page.value?.cancel?.()
        break
    }
}
/** Everything in view; in a sketch, what is drawn. */
function fit(): void {
  if (sketch.open) page.value?.faceSketch?.()
  else engine.value?.fit()
}
function sketchKey(k: string): boolean {
  const fixed: Record<string, string> = { d: 'dimension', g: 'construction', i: 'bring', m: 'measure' }
  const tool = fixed[k] ?? registries.found?.tools.find((t) => t.key === k)?.name
  if (!tool) return false
  void page.value?.tool(`draw:${tool}`)
  return true
}
const undo = (): Promise<void> => (sketch.open ? sketch.undo() : doc.undo())
const redo = (): Promise<void> => (sketch.open ? sketch.redo() : doc.redo())

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
const printing = usePrinting()
function handover(what: string): void {
  if (what === 'print') printing.shown = true
  else if (what === 'template') void doc.edit([{ do: 'set_template', on_offer: !doc.part?.template }])
  else void send(what)
}
async function send(what: string): Promise<void> {
  const view = doc.view
  if (!view) return
  try {
    await download(what === 'zip' ? `/api/projects/${view.project}/archive` : `/api/documents/${view.id}/export.${what}`)
    doc.say(`Handed over as ${what.toUpperCase()}`, 'good')
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
    <PartPage v-else-if="doc.part" ref="page" :drawer="drawer" @drawer="(k) => (drawer = k)" @engine="ready" />
    <AssemblyPage v-else-if="doc.assembly" ref="page" :drawer="drawer" @drawer="(k) => (drawer = k)" @engine="ready" />
    <StudyPage v-else-if="doc.study" ref="page" :drawer="drawer" @drawer="(k) => (drawer = k)" @engine="ready" />
    <KeySheet v-model:show="help" />
    <HelpPanel @keys="help = true" @tour="tour.begin()" />
    <TourCard v-if="tour.stop" />
    <PrintPanel v-if="doc.part && printing.shown" />
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
