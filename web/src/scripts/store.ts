// The script of the pane: its text, runs, recording, scripts kept in the project.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, Refusal, type Schemas } from '../api/client'
import { listen } from '../api/events'
import { useDocument } from '../document/store'
import { useShown } from '../document/shown'

const FIRST = `# The open document is project.current; what is picked is project.picked.
part = project.current
print(part.name, "weighs", round(part.mass, 1), "g")
`

export const useScripts = defineStore('scripts', () => {
  const doc = useDocument()
  const shown = useShown()
  const text = ref(FIRST)
  const name = ref('')
  const kept = shallowRef<Schemas['KeptScript'][]>([])
  const running = ref(false)
  const printed = ref<Schemas['SaidView'][]>([])
  const trouble = ref<Schemas['SaidView'] | null>(null)
  /** What the last run did, in words. */
  const outcome = ref('')
  /** The revision a recording began at. */
  const since = ref<number | null>(null)
  const recording = computed(() => since.value !== null)
  /** What stood in the pane before the recording. */
  let before = ''

  listen((news) => {
    if (news.kind !== 'script' || news.project !== doc.view?.project || !running.value) return
    printed.value = [...printed.value, { text: String(news.text), line: Number(news.line) }].slice(-2000)
  })

  async function load(): Promise<void> {
    const project = doc.view?.project
    kept.value = project ? (await call('get', '/api/projects/{id}/scripts', { path: { id: project } })).scripts : []
  }
  watch(
    () => doc.view?.project,
    () => void load().catch(doc.refused),
    { immediate: true },
  )
  watch(
    () => doc.view?.id,
    () => (since.value = null),
  )

  async function run(): Promise<void> {
    const view = doc.view
    if (!view || running.value) return
    running.value = true
    printed.value = []
    trouble.value = null
    outcome.value = ''
    try {
      const found = await call('post', '/api/projects/{id}/run', {
        path: { id: view.project },
        body: { text: text.value, name: name.value, document: view.id, picks: shown.picked as never, seconds: 120 },
      })
      printed.value = found.printed
      trouble.value = found.trouble
      outcome.value = found.trouble
        ? 'Stopped; nothing of it was kept.'
        : found.changed.length
          ? `Done: ${found.changed.length} ${found.changed.length === 1 ? 'document' : 'documents'} changed.`
          : 'Done; nothing was changed.'
      const where = found.trouble?.line ? `line ${found.trouble.line}: ` : ''
      for (const said of found.printed.slice(-50)) doc.say(`Script line ${said.line}: ${said.text}`, 'plain')
      if (found.trouble) doc.say(`Script ${where}${found.trouble.text}`, 'bad')
      else doc.say(`Script: ${outcome.value}`, 'good')
    } catch (error) {
      trouble.value = { text: error instanceof Refusal ? error.report.text : String(error), line: 0 }
    } finally {
      running.value = false
    }
  }
  async function stop(): Promise<void> {
    const project = doc.view?.project
    if (project) await call('post', '/api/projects/{id}/run/stop', { path: { id: project } })
  }

  /** Put the open document into the pane as the script that makes it. */
  async function tell(): Promise<void> {
    const id = doc.view?.id
    if (!id) return
    text.value = (await call('get', '/api/documents/{id}/script', { path: { id }, query: { since: null } })).text
    name.value = ''
  }
  function record(): void {
    if (since.value !== null) {
      since.value = null
      return
    }
    before = text.value === FIRST ? '' : text.value
    since.value = doc.view?.revision ?? null
  }
  watch(
    () => doc.view?.revision,
    async () => {
      const id = doc.view?.id
      if (!id || since.value === null || running.value) return
      try {
        const told = (await call('get', '/api/documents/{id}/script', { path: { id }, query: { since: since.value } })).text
        text.value = before + (before && told ? '\n' : '') + told
      } catch (error) {
        since.value = null
        doc.refused(error)
      }
    },
  )

  async function keep(): Promise<void> {
    const project = doc.view?.project
    const given = name.value.trim()
    if (!project || !given) return
    await call('put', '/api/projects/{id}/scripts/{name}', { path: { id: project, name: given }, body: { text: text.value } })
    await load()
  }
  async function forget(): Promise<void> {
    const project = doc.view?.project
    if (!project || !name.value) return
    await call('delete', '/api/projects/{id}/scripts/{name}', { path: { id: project, name: name.value } })
    name.value = ''
    await load()
  }
  function open(which: string): void {
    const found = kept.value.find((s) => s.name === which)
    name.value = which
    if (found) text.value = found.text
  }
  const lines = computed(() => text.value.split('\n').length)
  return { text, name, kept, running, printed, trouble, outcome, recording, lines, run, stop, tell, record, keep, forget, open }
})
