// Studies on parameters of the open document: what is asked, and how what is found is read.
import { defineStore } from 'pinia'
import { computed } from 'vue'
import { useDocument } from '../document/store'
import { type Job, useJobs } from '../jobs/store'
import { mass } from '../ui/format'
import { shown, volume } from '../ui/units'

export interface CheckRow {
  id: string
  name: string
  state: string
  shown: string | null
  limit: string | null
  value?: number
  bound?: number
  relation: string
  severity: string
}
export interface Row {
  set: Record<string, string>
  numbers: Record<string, number>
  state: 'ok' | 'failed'
  step: string
  why: string
  mass: number | null
  volume: number | null
  size: number[] | null
  checks: CheckRow[]
}
/** A quantity that can be looked at; `text` reads it, `axis` gives it as a number in `unit`. */
export interface Quantity {
  key: string
  label: string
}
export interface Span {
  name: string
  least: string
  most: string
  count: number
}
const ALWAYS: Quantity[] = [
  { key: 'mass', label: 'Mass' },
  { key: 'volume', label: 'Volume' },
  { key: 'size_x', label: 'Size along X' },
  { key: 'size_y', label: 'Size along Y' },
  { key: 'size_z', label: 'Size along Z' },
]

/** A quantity of a row in the units rows come in: g, mm³, mm; of a check the base units of formulas. */
export function valueOf(row: Row, key: string): number | null {
  if (row.state !== 'ok') return null
  if (key === 'mass' || key === 'volume') return row[key]
  if (key.startsWith('size_')) return row.size?.['xyz'.indexOf(key[5])] ?? null
  return row.checks.find((c) => c.id === key)?.value ?? null
}
export function textOf(row: Row, key: string): string {
  const value = valueOf(row, key)
  if (value === null) return row.state === 'ok' ? '·' : 'does not build'
  if (key === 'mass') return mass(value)
  if (key === 'volume') return volume(value, true)
  if (key.startsWith('size_')) return shown('length', value)
  return row.checks.find((c) => c.id === key)?.shown ?? ''
}
/** Whether all that must hold does. */
export const good = (row: Row): boolean => row.state === 'ok' && !row.checks.some((c) => c.severity === 'must' && c.state === 'fails')
/** What a number reads like where it is written with a unit: 12.5 of 12.5 mm. */
export const numberOf = (text: string | null | undefined): number => Number.parseFloat((text ?? '').replace('−', '-'))
export const unitIn = (text: string | null | undefined): string => (text ?? '').replace(/^[−-]?[\d.e+]+\s*/, '')

export const useExplore = defineStore('explore', () => {
  const doc = useDocument()
  const jobs = useJobs()
  const parameters = computed(() => doc.view?.document.parameters ?? [])
  const quantities = computed<Quantity[]>(() => [
    ...ALWAYS,
    ...(doc.view?.document.checks ?? []).map((c) => ({ key: c.id, label: c.name })),
  ])
  const job = (kind: string): Job | null => jobs.newest(kind)
  const old = (kind: string): boolean => {
    const j = job(kind)
    return j ? jobs.isOld(j.id) : false
  }
  async function start(kind: string, options: Record<string, unknown>): Promise<void> {
    try {
      await jobs.start(kind, options)
    } catch (error) {
      doc.refused(error)
    }
  }
  const use = (set: Record<string, string>): Promise<boolean> =>
    doc.edit(
      Object.entries(set).map(([name, formula]) => ({ do: 'edit_parameter', name, formula })),
      `set ${Object.keys(set).join(', ')}`,
    )
  /** A range around what a parameter is now. */
  function around(name: string): Span {
    const p = parameters.value.find((x) => x.name === name)
    const now = doc.build?.parameters[name]?.shown ?? p?.formula ?? ''
    const [value, unit] = [numberOf(now), unitIn(now)]
    const limits = p?.limits
    const end = (share: number): string => `${Number((value * share).toPrecision(4))} ${unit}`.trim()
    if (limits?.kind === 'list' && limits.values.length)
      return { name, least: limits.values[0], most: limits.values.at(-1)!, count: limits.values.length }
    const range = limits?.kind === 'range' ? limits : null
    return { name, least: range?.least ?? end(0.8), most: range?.most ?? end(1.2), count: 9 }
  }
  return { parameters, quantities, job, old, start, use, around }
})
