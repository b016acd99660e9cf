// Long work of the open document: started, watched, stopped, taken up again after a reload.
import { defineStore } from 'pinia'
import { ref } from 'vue'
import { call, type Schemas } from '../api/client'
import { listen } from '../api/events'

export type Job = Schemas['JobView']

export const useJobs = defineStore('jobs', () => {
  const jobs = ref<Record<string, Job>>({})
  /** Whether the newest results still hold, by job; what is not there does. */
  const current = ref<Record<string, boolean>>({})
  let document: string | null = null
  let stop: (() => void) | null = null

  async function open(id: string): Promise<void> {
    close()
    document = id
    const found = await call('get', '/api/documents/{id}/jobs', { path: { id } })
    for (const j of found.jobs.reverse()) jobs.value[j.id] = j
    void review()
    stop = listen((news) => {
      if (news.kind !== 'job' || news.document !== document) return
      const id = String(news.id)
      const known = jobs.value[id]
      if (known && news.state === 'running') Object.assign(known, { state: news.state, progress: news.progress, stage: news.stage })
      else void refresh(id)
    })
  }
  function close(): void {
    stop?.()
    stop = null
    document = null
    jobs.value = {}
    current.value = {}
  }
  /** Ask which results still hold: the document, or what it is made of, changed. */
  async function review(): Promise<void> {
    const id = document
    if (!id || !Object.values(jobs.value).some((j) => j.state === 'done')) return
    const found = await call('get', '/api/documents/{id}/jobs/current', { path: { id } }).catch(() => null)
    if (found && id === document) current.value = found.current
  }
  const isOld = (id: string): boolean => current.value[id] === false
  async function refresh(id: string): Promise<Job> {
    const found = await call('get', '/api/jobs/{id}', { path: { id } })
    const known = { ...jobs.value, [id]: found }
    if (found.state === 'forgotten') delete known[id]
    jobs.value = known
    if (found.state === 'done') void review()
    return found
  }
  async function start(kind: string, options: Record<string, unknown> = {}): Promise<Job> {
    const made = await call('post', '/api/documents/{id}/jobs', { path: { id: document! }, body: { kind, options } })
    jobs.value = { ...jobs.value, [made.id]: made }
    if (made.state === 'done') void review()
    return made
  }
  async function cancel(id: string): Promise<void> {
    await call('delete', '/api/jobs/{id}', { path: { id } })
    await refresh(id)
  }
  /** The newest job of a kind, finished or not. */
  const newest = (kind: string): Job | null => {
    const own = Object.values(jobs.value).filter((j) => j.kind === kind)
    return own.sort((a, b) => b.created - a.created)[0] ?? null
  }
  return { jobs, open, close, start, cancel, refresh, newest, review, isOld }
})
