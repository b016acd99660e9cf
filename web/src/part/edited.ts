// A step being added or edited: its fields, a live trial build, picks going into its fields.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, Refusal, type BuildView, type FieldView, type Part, type Report } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import type { Hit } from '../viewport/body'
import type { StoredPick } from '../viewport/mesh'
import { fieldType } from './fields/types'

export type Fields = Record<string, unknown>

/** Whether a field is in use for a value of another: one of the words, or none of those with a ! before. */
export function holds(allowed: string[], value: string): boolean {
  const barred = allowed.filter((w) => w.startsWith('!')).map((w) => w.slice(1))
  return barred.length ? !barred.includes(value) : allowed.includes(value)
}

export const useEdited = defineStore('edited', () => {
  const doc = useDocument()
  const registries = useRegistries()
  /** Id of the step edited, or null for a new one. */
  const id = ref<string | null>(null)
  const kindName = ref<string | null>(null)
  const name = ref('')
  /** What an open step was called when it was opened. */
  const called = ref('')
  const fields = ref<Fields>({})
  const trial = shallowRef<BuildView | null>(null)
  /** The part just before this step: what is picked on. */
  const before = shallowRef<BuildView | null>(null)
  const error = shallowRef<Report | null>(null)
  const trying = ref(false)
  /** The field that takes clicks in the picture. */
  const focus = ref<string | null>(null)
  const touched = ref(false)
  /** Clicks take what hangs together: everything inside an outline, chains of curves. */
  const whole = ref(false)
  let tries = 0
  let timer = 0

  const kind = computed(() => (kindName.value ? registries.kind(kindName.value) : undefined))
  const open = computed(() => kindName.value !== null)
  const index = computed(() => {
    const part = doc.part
    if (!part) return 0
    if (id.value) return part.steps.findIndex((s) => s.id === id.value)
    return part.marker ?? part.steps.length
  })
  const shownFields = computed<FieldView[]>(() =>
    (kind.value?.fields ?? []).filter((f) => Object.entries(f.when ?? {}).every(([k, v]) => holds(v, String(fields.value[k])))),
  )
  /** The field that takes clicks, by its declaration. */
  const asked = computed(() => kind.value?.fields.find((f) => f.name === focus.value?.split('.')[0]))
  /** The field in focus, and its row where it holds groups (`more.1`). */
  const focusAt = computed(() => {
    const [field = '', row] = (focus.value ?? '').split('.')
    return { field, row: Number(row ?? 0) }
  })
  const holder = computed(() => fieldType(asked.value?.type))
  /** The picks of the field that takes clicks. */
  const focused = computed<StoredPick[]>(() => holder.value.picks?.of(fields.value[focusAt.value.field], focusAt.value.row) ?? [])
  function setFocused(picks: StoredPick[]): void {
    const { field, row } = focusAt.value
    if (holder.value.picks) set(field, holder.value.picks.put(fields.value[field], picks, row))
  }
  /** A click in the picture goes into the field that takes clicks. */
  function takeClick(pick: StoredPick, hit: Hit): void {
    const { field } = focusAt.value
    if (!field) return
    if (!holder.value.take) return togglePick(pick)
    try {
      const own = id.value ?? `s${(doc.part?.last_id ?? 0) + 1}`
      set(field, holder.value.take({ pick, hit, value: fields.value[field], own }))
    } catch (error) {
      doc.say((error as Error).message, 'bad')
    }
  }
  /** The report of the step in the trial build. */
  const report = computed(() => {
    const steps = trial.value?.steps ?? []
    return id.value ? steps.find((s) => s.id === id.value) : steps[index.value]
  })
  const command = computed<Command | null>(() => {
    if (!kindName.value) return null
    return id.value
      ? { do: 'edit_step', id: id.value, fields: fields.value }
      : { do: 'add_step', kind: kindName.value, fields: fields.value, ...(name.value ? { name: name.value } : {}) }
  })

  function defaults(kindTo: string): Fields {
    const found: Fields = {}
    for (const f of registries.kind(kindTo)?.fields ?? [])
      if (f.default !== null && f.default !== undefined) found[f.name] = structuredClone(f.default)
    return found
  }

  async function begin(kindTo: string, given: Fields = {}): Promise<void> {
    discard()
    const start = { ...defaults(kindTo), ...given }
    const part = doc.part
    if (part) for (const f of registries.kind(kindTo)?.fields ?? []) guess(part, f, start)
    id.value = null
    kindName.value = kindTo
    fields.value = start
    focusFirst()
    await loadBefore()
    schedule(0)
  }

  /** Sensible first values: the newest sketch, cut once there is a body. */
  function guess(part: Part, field: FieldView, into: Fields): void {
    const steps = part.steps.slice(0, part.marker ?? part.steps.length)
    const copyable = (kind: string): boolean => Boolean(registries.kind(kind)?.copyable)
    const found = fieldType(field.type).guess?.({ part, field, steps, given: into, copyable })
    if (found !== undefined) into[field.name] = found
    const bodies = doc.build?.bodies.filter((b) => !b.tool).length ?? 0
    if (field.name === 'result' && bodies > 0 && into.result === 'new' && field.words?.cut) into.result = 'add'
  }

  async function edit(step: string): Promise<void> {
    const part = doc.part
    const found = part?.steps.find((s) => s.id === step)
    if (!found) return
    discard()
    id.value = step
    kindName.value = found.kind
    name.value = called.value = found.name
    fields.value = { ...defaults(found.kind), ...(structuredClone(found.fields) as Fields) }
    trial.value = doc.build
    focusFirst()
    await loadBefore()
    schedule(0)
  }

  function focusFirst(): void {
    const taker = shownFields.value.find((f) => fieldType(f.type).first)
    focus.value = taker ? taker.name : null
  }

  async function loadBefore(): Promise<void> {
    const view = doc.view
    if (!view || !kind.value?.fields.some((f) => f.type === 'plane' || fieldType(f.type).before)) {
      before.value = null
      return
    }
    try {
      before.value = await call('get', '/api/documents/{id}/build', {
        path: { id: view.id },
        query: { revision: view.revision, upto: index.value },
      })
    } catch (problem) {
      doc.refused(problem)
    }
  }

  function set(field: string, value: unknown): void {
    fields.value = { ...fields.value, [field]: value }
    // A choice that asks for something to be picked takes the clicks for it.
    const wanting = shownFields.value.find(
      (f) => fieldType(f.type).first && !f.free && !((fields.value[f.name] as unknown[] | undefined) ?? []).length,
    )
    if (wanting && field !== wanting.name) focus.value = wanting.name
    touched.value = true
    schedule(60)
  }

  function schedule(wait: number): void {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void attempt(), wait)
  }

  /** Nothing to try while a needed pick is missing. */
  const missing = computed(() => {
    for (const f of shownFields.value) {
      const asks = fieldType(f.type).missing?.(f, fields.value[f.name])
      if (asks) return asks
    }
    return null
  })

  async function attempt(): Promise<void> {
    const view = doc.view
    if (!view || !command.value || missing.value) {
      trial.value = null
      error.value = null
      return
    }
    const ask = ++tries
    trying.value = true
    try {
      const commands: Command[] = [command.value]
      // Show the part just after this step, wherever the marker stands.
      const found = await call('post', '/api/documents/{id}/try', {
        path: { id: view.id },
        body: { commands, upto: index.value + 1 },
      })
      if (ask !== tries) return
      trial.value = found
      error.value = report.value?.error ?? null
    } catch (problem) {
      if (ask !== tries) return
      error.value = problem instanceof Refusal ? problem.report : null
    } finally {
      if (ask === tries) {
        trying.value = false
        doc.searching = false
      }
    }
  }

  function togglePick(pick: StoredPick): void {
    const list = [...focused.value]
    const same = list.findIndex(
      (p) =>
        JSON.stringify([p.body, p.kind, p.name, p.witness?.at]) === JSON.stringify([pick.body, pick.kind, pick.name, pick.witness?.at]),
    )
    if (same >= 0) list.splice(same, 1)
    else list.push(pick)
    setFocused(list)
  }

  /** Take an offer of the server: new values for some fields, or commands once the step is kept. */
  function take(offer: { fields?: Record<string, unknown>; commands?: Record<string, unknown>[] }): void {
    if (offer.commands?.length && command.value) {
      void doc
        .edit([command.value, ...(offer.commands as Command[])], `add ${name.value || kind.value?.label}`)
        .then((kept) => kept && discard())
      return
    }
    const next = { ...fields.value }
    for (const [key, value] of Object.entries(offer.fields ?? {})) {
      const [head, rest] = key.split('.')
      next[head] = rest ? { ...(next[head] as Fields), [rest]: value } : value
    }
    fields.value = next
    touched.value = true
    schedule(0)
  }

  /** Put a candidate in place of a lost pick, wherever in the fields it stands. */
  function replace(old: unknown, now: StoredPick): void {
    const same = JSON.stringify(old)
    const swap = (v: unknown): unknown => {
      if (JSON.stringify(v) === same) return now
      if (Array.isArray(v)) return v.map(swap)
      return v && typeof v === 'object' ? Object.fromEntries(Object.entries(v).map(([k, x]) => [k, swap(x)])) : v
    }
    fields.value = swap(fields.value) as Fields
    touched.value = true
    schedule(0)
  }

  async function keep(): Promise<boolean> {
    if (!command.value || missing.value) return false
    const renamed: Command[] =
      id.value && name.value.trim() && name.value !== called.value ? [{ do: 'rename_step', id: id.value, name: name.value }] : []
    const kept = await doc.edit([command.value, ...renamed], id.value ? `edit ${name.value}` : `add ${name.value || kind.value?.label}`)
    if (kept) discard()
    else error.value = doc.failure
    return kept
  }

  function discard(): void {
    window.clearTimeout(timer)
    tries++
    id.value = null
    kindName.value = null
    name.value = called.value = ''
    fields.value = {}
    trial.value = null
    before.value = null
    error.value = null
    trying.value = false
    focus.value = null
    touched.value = false
  }

  return {
    id,
    kindName,
    kind,
    name,
    fields,
    trial,
    before,
    error,
    trying,
    focus,
    whole,
    touched,
    open,
    index,
    command,
    shownFields,
    report,
    missing,
    asked,
    focused,
    begin,
    edit,
    set,
    setFocused,
    togglePick,
    takeClick,
    holder,
    take,
    replace,
    keep,
    discard,
    attempt,
  }
})
