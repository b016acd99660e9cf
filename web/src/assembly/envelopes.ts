// The room a component takes up over a run: asked for, drawn, kept as a part to model against.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { useDocument } from '../document/store'
import { useBringing } from '../exchange/bringing'
import { type Job, useJobs } from '../jobs/store'
import { saveBlob } from '../ui/files'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'
import { useRuns } from './runs'
import { useAssembly } from './store'

interface Envelope {
  component: string
  name: string
  run: string
  key: string
  volume: number
  over: number
  stands: number
  witnesses: number
}

export const useEnvelopes = defineStore('envelopes', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const jobs = useJobs()
  const runs = useRuns()
  const bringing = useBringing()
  const wanted = ref('')
  const body = shallowRef<BodySpec | null>(null)

  /** What moves over the run that is shown, by path. */
  const moving = computed(() => {
    const found = new Map<string, string>()
    const moves = new Set(runs.result ? Object.keys(runs.result.frames[0] ?? {}) : [])
    for (const leaf of asm.built?.leaves ?? []) {
      const path = leaf.id.split('/').slice(0, -1)
      for (let k = 1; k <= path.length; k++) {
        const id = path.slice(0, k).join('/')
        if (moves.has(id)) found.set(id, leaf.names.slice(0, k).join(' / '))
      }
    }
    return [...found].map(([id, name]) => ({ id, name }))
  })
  const component = computed(() => (moving.value.some((m) => m.id === wanted.value) ? wanted.value : (moving.value[0]?.id ?? '')))
  const job = computed<Job | null>(() => jobs.newest('envelope'))
  const result = computed(() => {
    const found = (job.value?.result ?? null) as Envelope | null
    return found && found.run === runs.run?.id ? found : null
  })
  const old = computed(() => job.value !== null && jobs.isOld(job.value.id))

  async function ask(): Promise<void> {
    body.value = null
    if (runs.run && component.value) await jobs.start('envelope', { run: runs.run.id, component: component.value }).catch(doc.refused)
  }
  async function show(): Promise<void> {
    const found = result.value
    if (!found) return
    try {
      const mesh = await fetchMesh(found.key)
      if (result.value === found) body.value = { id: 'envelope', mesh, colour: '#d9a441', opacity: 0.3 }
    } catch (error) {
      doc.refused(error)
    }
  }
  /** What was asked for is shown when it is there; of another run, or gone, no more. */
  watch(
    () => result.value?.key,
    (key, before) => {
      body.value = null
      if (key && before !== key && job.value && performance.now() - asked < 600_000) void show()
    },
  )
  let asked = -Infinity
  async function look(): Promise<void> {
    asked = performance.now()
    await ask()
    if (result.value && !body.value) await show()
  }
  async function file(): Promise<File> {
    const found = result.value!
    const answer = await fetch(`/api/envelopes/${found.key}`)
    if (!answer.ok) throw new Error('this envelope is no longer kept: ask for it again')
    return new File([await answer.blob()], `Envelope of ${found.name.replaceAll(/[/\\]/g, '-')}.stl`)
  }
  async function save(): Promise<void> {
    try {
      const made = await file()
      saveBlob(made, made.name)
    } catch (error) {
      doc.refused(error)
    }
  }
  /** A part of it, standing where it is: what is modelled in place here sees it. */
  async function keep(): Promise<void> {
    const project = doc.view?.project
    if (!project) return
    try {
      const made = await file()
      const brought = await bringing.bring(project, made)
      if (!brought) return
      const name = made.name.replace(/\.stl$/, '').slice(0, 80)
      const placed = { do: 'add_component', document: brought.id, name, placement: { p: [0, 0, 0] }, anchored: true, reference: true }
      if (await doc.edit([placed], 'keep an envelope')) body.value = null
    } catch (error) {
      doc.refused(error)
    }
  }
  watch(
    () => doc.view?.id,
    () => (body.value = null),
  )
  return { wanted, component, moving, job, result, old, body, look, show, save, keep }
})
