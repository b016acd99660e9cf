// The open document: its newest revision, its build, edits as commands, undo.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import {
  call,
  Refusal,
  type Assembly,
  type BuildView,
  type DocumentView,
  type KindView,
  type Material,
  type Part,
  type Report,
  type Schemas,
  type Study,
} from '../api/client'
import { listen, type News } from '../api/events'
import { PLAIN, units } from '../ui/units'

export type Command = { do: string; [key: string]: unknown }
export interface Message {
  text: string
  tone: 'bad' | 'good' | 'plain'
  at: number
  where: string[]
  code: string
}

export const useRegistries = defineStore('registries', () => {
  const found = shallowRef<Schemas['Registries'] | null>(null)
  const steps = computed<KindView[]>(() => found.value?.steps ?? [])
  async function load(): Promise<void> {
    if (!found.value) found.value = await call('get', '/api/kinds')
  }
  const kind = (name: string): KindView | undefined => steps.value.find((k) => k.kind === name)
  return { found, steps, load, kind }
})

export const useDocument = defineStore('document', () => {
  const view = shallowRef<DocumentView | null>(null)
  const build = shallowRef<BuildView | null>(null)
  const building = ref(false)
  /** Name of the step a build is at. */
  const stage = ref('')
  /** A build is looking for the largest size that fits. */
  const searching = ref(false)
  const saving = ref(false)
  const failure = ref<Report | null>(null)
  const materials = shallowRef<Material[]>([])
  const messages = ref<Message[]>([])
  /** Bumped on every new revision, whoever made it. */
  const touched = ref(0)
  let stop: (() => void) | null = null
  const turn = turns()
  let builds: (kind: DocumentView['kind']) => boolean = () => false

  watch(view, (v) => (units.value = { ...PLAIN, ...v?.document.units }), { immediate: true })

  const part = computed(() => (view.value?.kind === 'part' ? (view.value.document as Part) : null))
  /** Whether the part takes bodies from others. */
  const follows = computed(() => part.value?.steps?.some((s) => 'document' in (s.fields ?? {})) ?? false)
  const assembly = computed(() => (view.value?.kind === 'assembly' ? (view.value.document as Assembly) : null))
  const study = computed(() => (view.value?.kind === 'study' ? (view.value.document as Study) : null))
  const material = computed(() => materials.value.find((m) => m.id === part.value?.material) ?? null)

  function say(text: string, tone: Message['tone'] = 'plain', where: string[] = [], code = ''): void {
    messages.value = [{ text, tone, at: Date.now(), where, code }, ...messages.value].slice(0, 200)
  }

  function refused(error: unknown): Report {
    const report = error instanceof Refusal ? error.report : { code: 'internal', text: String(error), where: [], offers: [] }
    failure.value = report
    say(report.text, 'bad', report.where, report.code)
    return report
  }

  /** `stepwise` says of a kind of document whether it is built step by step, and here. */
  async function open(id: string, stepwise: (kind: DocumentView['kind']) => boolean): Promise<void> {
    close()
    builds = stepwise
    const found = await call('get', '/api/documents/{id}', { path: { id } })
    view.value = found
    materials.value = (await call('get', '/api/projects/{id}/materials', { path: { id: found.project } })).materials
    stop = listen((news) => void onNews(news))
    await rebuild()
  }

  function close(): void {
    stop?.()
    stop = null
    view.value = null
    build.value = null
    failure.value = null
    messages.value = []
  }

  async function onNews(news: News): Promise<void> {
    const current = view.value
    if (!current) return
    if (news.kind === 'building' && news.id === current.id) {
      stage.value = part.value?.steps?.find((s) => s.id === news.step)?.name ?? ''
      searching.value = Boolean(news.searching)
    }
    const mine = news.kind === 'document' && news.id === current.id && news.revision !== current.revision
    if ((mine && !saving.value) || news.kind === 'wake') {
      const found = await call('get', '/api/documents/{id}', { path: { id: current.id } })
      if (found.revision !== view.value?.revision) {
        if (mine) say('Changed in another window', 'plain')
        await take(found)
      }
    } else if (news.kind === 'document' && news.id !== current.id && news.project === current.project) {
      if (!builds(current.kind)) touched.value++
      else if (follows.value) await rebuild()
    }
  }

  /** The document as an answer of the server has it. */
  async function take(found: DocumentView): Promise<void> {
    view.value = found
    touched.value++
    await rebuild()
  }

  async function rebuild(): Promise<void> {
    const current = view.value
    if (!current || !builds(current.kind)) return
    const newest = turn()
    building.value = true
    stage.value = ''
    try {
      const found = await call('get', '/api/documents/{id}/build', {
        path: { id: current.id },
        query: { revision: current.revision },
      })
      if (newest()) {
        build.value = found
        if (found.lost_paints)
          say(`${found.lost_paints} painted face${found.lost_paints === 1 ? ' is' : 's are'} no longer there: pick and paint anew`, 'bad')
        if (found.cache_trouble) say(`Results cannot be kept on disk: ${found.cache_trouble}`, 'bad')
      }
    } catch (error) {
      if (newest()) refused(error)
    } finally {
      if (newest()) {
        building.value = false
        searching.value = false
      }
    }
  }

  let line: Promise<unknown> = Promise.resolve()
  /** Apply commands, after those under way. True when they were kept; otherwise `failure` says why. */
  function edit(commands: Command[], label?: string): Promise<boolean> {
    const turn = line.then(() => send(commands, label))
    line = turn
    return turn
  }
  async function send(commands: Command[], label?: string): Promise<boolean> {
    const current = view.value
    if (!current) return false
    saving.value = true
    failure.value = null
    try {
      const found = await call('post', '/api/documents/{id}/commands', {
        path: { id: current.id },
        body: { base: current.revision, commands, label: label ?? null },
      })
      await take(found)
      return true
    } catch (error) {
      refused(error)
      if (error instanceof Refusal && error.status === 409)
        await take(await call('get', '/api/documents/{id}', { path: { id: current.id } }))
      return false
    } finally {
      saving.value = false
    }
  }

  /** Take what a call made of the document; true when it did. */
  async function answered(asked: Promise<DocumentView>): Promise<boolean> {
    saving.value = true
    failure.value = null
    try {
      await take(await asked)
      return true
    } catch (error) {
      refused(error)
      return false
    } finally {
      saving.value = false
    }
  }
  async function travel(way: 'undo' | 'redo'): Promise<void> {
    const current = view.value
    if (!current || !(way === 'undo' ? current.undo : current.redo)) return
    const path = way === 'undo' ? '/api/documents/{id}/undo' : '/api/documents/{id}/redo'
    await answered(call('post', path, { path: { id: current.id }, body: { base: current.revision } }))
  }

  /** Try steps again that took the kernel down. */
  async function retry(): Promise<void> {
    if (!view.value) return
    await call('post', '/api/documents/{id}/retry', { path: { id: view.value.id } }).catch(refused)
    await rebuild()
  }

  /** Answer now, without what would fit. */
  async function stopSearch(): Promise<void> {
    if (view.value) await call('post', '/api/documents/{id}/stop-search', { path: { id: view.value.id } }).catch(refused)
  }

  return {
    retry,
    searching,
    stopSearch,
    view,
    build,
    building,
    stage,
    saving,
    failure,
    materials,
    material,
    messages,
    touched,
    part,
    assembly,
    study,
    open,
    close,
    edit,
    taken: take,
    answered,
    undo: () => travel('undo'),
    redo: () => travel('redo'),
    say,
    refused,
    rebuild,
  }
})
