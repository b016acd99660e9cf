// Overlaps of the open assembly: how they are looked for, the row that is looked at, what is drawn for it.
import { defineStore } from 'pinia'
import { computed, reactive, ref, shallowRef, watch } from 'vue'
import { useDocument } from '../document/store'
import { type Job, useJobs } from '../jobs/store'
import type { BodySpec } from '../viewport/body'
import { fetchMesh } from '../viewport/mesh'
import { type Placement, useAssembly } from './store'

export type FitClass = 'interference' | 'grown' | 'untold' | 'within' | 'intended' | 'thread' | 'touching' | 'clear'
export interface FitRow {
  position: string
  position_name: string
  /** The row of the variants it was looked for in; null as it stands. */
  variant?: string | null
  variant_name?: string
  a: string
  b: string
  name_a: string
  name_b: string
  class: FitClass
  state: string
  how: string[]
  gap: number
  volume: number
  depth: number
  certain: boolean
  inside: '' | 'a' | 'b'
  hardware: boolean
  at: number[]
  way: number[]
  near: [number[], number[]] | null
  faces_a: string[]
  faces_b: string[]
  picture?: string | null
  news?: '' | 'new' | 'grown' | 'less'
  meant?: string
  reason?: string
  allowed?: number | null
  trouble?: string
  /** What is wrong in words, and what else it is about, where it is a loose end. */
  text?: string
  more?: string[]
}
export interface FitResult {
  rows: FitRow[]
  gone?: FitRow[]
  faults?: number
  positions: { id: string; variant?: string | null; touching: number; stand?: Record<string, Placement> }[]
  near: number
  pairs: number
  computed: number
  components: number
  clearance: number
  left: string[]
}
/** The headings rows stand under, what needs doing first. */
export const HEADINGS: { key: string; label: string; holds: (r: FitRow) => boolean }[] = [
  { key: 'bad', label: 'Overlap', holds: (r) => ['interference', 'untold'].includes(r.class) && !r.hardware },
  { key: 'grown', label: 'Meant, but deeper than allowed', holds: (r) => r.class === 'grown' },
  { key: 'hardware', label: 'Overlap with hardware', holds: (r) => ['interference', 'untold'].includes(r.class) && r.hardware },
  { key: 'within', label: 'Within tolerance', holds: (r) => r.class === 'within' },
  { key: 'intended', label: 'Meant', holds: (r) => r.class === 'intended' },
  { key: 'thread', label: 'Threads', holds: (r) => r.class === 'thread' },
  { key: 'clear', label: 'Near', holds: (r) => r.class === 'clear' },
  { key: 'touching', label: 'Touching', holds: (r) => r.class === 'touching' },
]
/** What is folded until it is asked for. */
const FOLDED = ['thread', 'touching']

export const useFit = defineStore('fit', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const jobs = useJobs()
  /** Wishes for the next run; `clearance` in mm. */
  const wish = reactive({ inside: true, clearance: 0, tolerance: 0, positions: [] as string[], variants: false })
  const open = ref<Set<string>>(new Set())
  const row = shallowRef<FitRow | null>(null)
  const overlap = shallowRef<BodySpec | null>(null)
  const neighbours = ref(false)

  const job = computed<Job | null>(() => jobs.newest('interference'))
  const result = computed<FitResult | null>(() => {
    const found = job.value?.result as FitResult | null | undefined
    // What an older version found is told no more.
    return found?.rows ? found : null
  })
  const groups = computed(() =>
    HEADINGS.map((h) => {
      const rows = (result.value?.rows ?? []).filter(h.holds)
      return { ...h, rows, folded: FOLDED.includes(h.key) !== open.value.has(h.key) }
    }).filter((g) => g.rows.length),
  )
  function fold(key: string): void {
    const next = new Set(open.value)
    if (!next.delete(key)) next.add(key)
    open.value = next
  }

  async function run(): Promise<void> {
    leave()
    const options: Record<string, unknown> = {}
    if (asm.selected.length > 1) options.components = asm.selected
    if (wish.positions.length) options.positions = wish.positions
    if (wish.variants) options.variants = ['', ...(doc.assembly?.variants ?? []).map((v) => v.id)]
    if (!wish.inside) options.inside = false
    if (wish.clearance > 0) options.clearance = wish.clearance
    if (wish.tolerance > 0) options.tolerance = wish.tolerance
    await jobs.start('interference', options).catch(doc.refused)
  }

  /** Look at a pair: as it stood, see-through, with the body both share. */
  async function look(next: FitRow): Promise<void> {
    // Looked at as the variant it was found in: the assembly is switched to that.
    const active = doc.assembly?.active?.variant ?? ''
    if (next.variant != null && next.variant !== active) await doc.edit([{ do: 'choose', variant: next.variant || null }])
    row.value = next
    overlap.value = null
    const stand = result.value?.positions.find((p) => p.id === next.position && p.variant == next.variant)?.stand
    if (next.position && stand) asm.show(stand)
    else asm.live = null
    if (!next.picture) return
    try {
      const mesh = await fetchMesh(next.picture)
      // Another row may be looked at by now.
      if (row.value === next) overlap.value = { id: 'overlap', mesh, colour: '#c23b22', lifted: true, matrix: asm.matrices.get(next.a) }
    } catch (error) {
      doc.refused(error)
    }
  }
  function leave(): void {
    if (row.value?.position) asm.live = null
    row.value = null
    overlap.value = null
  }
  watch(
    () => doc.view?.id,
    () => {
      leave()
      Object.assign(wish, { inside: true, clearance: 0, tolerance: 0, positions: [], variants: false })
    },
  )

  /** Bodies with the pair that is looked at see-through, what it shares solid, and the rest as ghosts. */
  function drawn(bodies: BodySpec[]): BodySpec[] {
    const shown = row.value
    if (!shown) return bodies
    const beside = new Set<string>()
    if (neighbours.value)
      for (const r of result.value?.rows ?? [])
        if (r.position === shown.position)
          for (const [one, two] of [
            [r.a, r.b],
            [r.b, r.a],
          ])
            if ([shown.a, shown.b].includes(one)) beside.add(two)
    const mine = bodies.map((b) => {
      if (b.id === shown.a || b.id === shown.b || shown.more?.includes(b.id))
        // What lies inside, a hole or what both share, is to be seen.
        return { ...b, ghost: false, opacity: overlap.value || (shown.text && shown.faces_a.length) ? 0.35 : 1 }
      return beside.has(b.id) ? b : { ...b, ghost: true }
    })
    return overlap.value ? [...mine, overlap.value] : mine
  }

  const paths = (r: FitRow): { a: string; b: string } => ({
    a: r.a.slice(0, r.a.lastIndexOf('/')),
    b: r.b.slice(0, r.b.lastIndexOf('/')),
  })
  /** Say that an overlap is meant, with a little room over what it is now. */
  async function mean(r: FitRow, reason: string, depth: string): Promise<void> {
    if (await doc.edit([{ do: 'mark_meant', ...paths(r), reason, depth }], 'mark as meant')) await renew()
  }
  /** Change why, or how deep, an overlap may be; the depth is a formula. */
  async function edit(r: FitRow, to: { reason?: string; depth?: string }): Promise<void> {
    if (r.meant && (await doc.edit([{ do: 'edit_meant', id: r.meant, ...to }], 'edit what is meant'))) await renew()
  }
  async function unmean(r: FitRow): Promise<void> {
    if (r.meant && (await doc.edit([{ do: 'remove_meant', id: r.meant }], 'no longer meant'))) await renew()
  }
  /** What rows mean may have changed: the same result is told anew. */
  async function renew(): Promise<void> {
    const id = job.value?.id
    if (id) await jobs.refresh(id)
    row.value = null
    overlap.value = null
  }
  return { wish, row, overlap, neighbours, job, result, groups, fold, run, look, leave, drawn, mean, edit, unmean }
})
