// Loose ends of the open assembly: lists of what is wrong with how it is put together.
import { defineStore } from 'pinia'
import { computed, reactive, watch } from 'vue'
import { useDocument } from '../document/store'
import { type Job, useJobs } from '../jobs/store'
import { type FitRow, useFit } from './fit'

export interface EndRow {
  what: string
  a: string
  b: string
  more: string[]
  name_a: string
  name_b: string
  text: string
  at: number[]
  near: [number[], number[]] | null
  faces_a: string[]
  faces_b: string[]
}
export interface EndList {
  kind: string
  label: string
  line: string
  none: string
  rows: EndRow[]
}
interface EndResult {
  lists: EndList[]
  solids: number
  left: string[]
}

export const useEnds = defineStore('ends', () => {
  const doc = useDocument()
  const jobs = useJobs()
  const fit = useFit()
  /** Wishes for the next run, in mm. */
  const wish = reactive({ near: 0.1, tolerance: 0.01 })
  const job = computed<Job | null>(() => jobs.newest('survey'))
  const result = computed(() => (job.value?.result ?? null) as EndResult | null)
  const count = computed(() => result.value?.lists.reduce((sum, l) => sum + l.rows.length, 0) ?? 0)
  const old = computed(() => job.value !== null && jobs.isOld(job.value.id))

  async function run(): Promise<void> {
    fit.leave()
    await jobs.start('survey', { near: wish.near, tolerance: wish.tolerance }).catch(doc.refused)
  }
  /** A row as a pair that is looked at. */
  const pairs = new WeakMap<EndRow, FitRow>()
  function pair(r: EndRow): FitRow {
    let made = pairs.get(r)
    if (!made) {
      const unsaid = { position: '', position_name: '', class: 'clear', state: 'told', how: [], gap: 0, volume: 0, depth: 0 } as const
      made = { ...unsaid, how: [], certain: true, inside: '', hardware: false, way: [0, 0, 0], ...r }
      pairs.set(r, made)
    }
    return made
  }
  const shown = (r: EndRow): boolean => fit.row !== null && fit.row === pairs.get(r)
  function look(r: EndRow): void {
    if (shown(r)) fit.leave()
    else void fit.look(pair(r))
  }
  const held = (list: EndList): boolean => (doc.assembly?.checks ?? []).some((c) => c.kind === 'loose_ends' && c.fields?.list === list.kind)
  async function hold(list: EndList): Promise<void> {
    await doc.edit([
      { do: 'add_check', kind: 'loose_ends', name: list.label, relation: 'at_most', limit: '0', fields: { list: list.kind } },
    ])
  }
  watch(
    () => doc.view?.id,
    () => void Object.assign(wish, { near: 0.1, tolerance: 0.01 }),
  )
  return { wish, job, result, count, old, run, look, shown, held, hold }
})
