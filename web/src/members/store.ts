// Variants and options of the open document: what differs, what it stands as, what was proved.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import { useJobs } from '../jobs/store'

export type Members = Schemas['MembersView']
export type Column = Schemas['ColumnView']
export type Of = Record<string, string>

/** A member as it was proved. */
export interface Proved {
  choice: { variant: string | null; options: Record<string, string> }
  name: string
  state: 'ok' | 'failed'
  where: string
  step: string
  why: string
  mass: number | null
  volume: number | null
  size: [number, number, number] | null
  checks: { id: string; name: string; state: string; shown: string | null; limit: string | null; trouble?: string }[]
  /** None: too many to tell one by one. */
  old: boolean | null
}
export type How = 'rows' | 'pairs' | 'sample' | 'all'

const keyOf = (drives: string, of: Of): string => `${drives} ${JSON.stringify(Object.entries(of).sort())}`

export const useMembers = defineStore('members', () => {
  const doc = useDocument()
  const jobs = useJobs()
  const table = shallowRef<Members | null>(null)
  /** Whether the table is looked at; it is asked for then. */
  const shown = ref(false)
  /** Clicks on numbers make columns: of the table (""), or of an option. */
  const driving = ref<string | null>(null)
  /** The column under the pointer. */
  const lit = ref<string | null>(null)
  const turn = turns()

  const columns = computed(() => doc.view?.document.columns ?? [])
  const byWhat = computed(() => new Map(columns.value.map((c) => [keyOf(c.drives, c.of), c.id])))
  /** The column that drives something; undefined where none does. */
  const driver = (drives: string, of: Of): string | undefined => byWhat.value.get(keyOf(drives, of))

  async function refresh(): Promise<void> {
    const id = doc.view?.id
    if (!id || !shown.value) return
    const newest = turn()
    try {
      const found = await call('get', '/api/documents/{id}/members', { path: { id } })
      if (newest()) table.value = found
    } catch (error) {
      if (newest()) doc.refused(error)
    }
  }
  watch(
    () => [doc.view?.id, doc.view?.revision, shown.value],
    async ([id], before) => {
      if (id !== before?.[0]) table.value = driving.value = null
      await refresh()
      // Which rows are out of date is told with the result.
      const job = jobs.newest('prove')
      if (shown.value && job?.state === 'done') await jobs.refresh(job.id).catch(doc.refused)
    },
  )

  /** Have something differ between members, or let it go. */
  async function drive(drives: string, of: Of): Promise<boolean> {
    const known = driver(drives, of)
    if (known) return doc.edit([{ do: 'remove_column', id: known }])
    return doc.edit([{ do: 'add_column', drives, of, option: driving.value || null }])
  }
  const run = (command: Command, label?: string): Promise<boolean> => doc.edit([command], label)
  const stand = computed(() => doc.view?.document.active ?? { variant: null, options: {} })
  const choose = (variant: string | null, options: Record<string, string> = stand.value.options ?? {}): Promise<boolean> =>
    run({ do: 'choose', variant, options })

  const job = computed(() => jobs.newest('prove'))
  const proved = computed<Proved[]>(() => {
    const rows = (job.value?.result as { rows?: Proved[] } | null)?.rows ?? []
    const all = job.value ? jobs.isOld(job.value.id) : false
    return rows.map((r) => ({ ...r, old: r.old ?? all }))
  })
  /** What was proved of a row with the options as they are by themselves. */
  const provedRow = (variant: string | null): Proved | undefined =>
    proved.value.find((p) => p.choice.variant === variant && !Object.keys(p.choice.options).length)
  async function prove(options: Record<string, unknown>): Promise<void> {
    try {
      await jobs.start('prove', options)
    } catch (error) {
      doc.refused(error)
    }
  }
  return { table, shown, driving, lit, columns, driver, drive, run, stand, choose, job, proved, provedRow, prove, refresh }
})
