// A step being added or edited: its fields, a live trial build, picks going into its fields.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, Refusal, type BuildView, type FieldView, type Part, type Report } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import type { StoredPick } from '../viewport/mesh'

export type Fields = Record<string, unknown>

/** Whether a field is in use for a value of another: one of the words, or none of those with a ! before. */
export function holds(allowed: string[], value: string): boolean {
  const barred = allowed.filter((w) => w.startsWith('!')).map((w) => w.slice(1))
  return barred.length ? !barred.includes(value) : allowed.includes(value)
}

/** A place on a face for a hole, in part coordinates. */
export interface Spot {
  id: string
  face: StoredPick
  at: { formula: string }[]
}

/** Picks with a size of their own. */
export interface Sized {
  picks: StoredPick[]
  size: { formula: string }
}

export const useDraft = defineStore('draft', () => {
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
  /** Its picks: of a field, or of one row of a field of groups (`more.1`). */
  const focused = computed<StoredPick[]>(() => {
    const [name, row] = (focus.value ?? '').split('.')
    const held = fields.value[name]
    if (asked.value?.type === 'sized') return (held as Sized[] | undefined)?.[Number(row)]?.picks ?? []
    return asked.value?.type === 'picks' ? ((held as StoredPick[] | undefined) ?? []) : []
  })
  function setFocused(picks: StoredPick[]): void {
    const [name, row] = (focus.value ?? '').split('.')
    if (asked.value?.type === 'sized')
      set(
        name,
        (fields.value[name] as Sized[]).map((r, i) => (i === Number(row) ? { ...r, picks } : r)),
      )
    else set(name, picks)
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
    const end = part.marker ?? part.steps.length
    if (field.type === 'sketch' && !into[field.name]) {
      const sketches = part.steps.slice(0, end).filter((s) => s.kind === 'sketch')
      const used = new Set(part.steps.map((s) => (s.fields as Fields).sketch))
      // Two fields that ask for a sketch each get one of their own.
      const taken = new Set(Object.values(into))
      const fresh = sketches.filter((s) => !used.has(s.id) && !taken.has(s.id))
      const chosen = fresh.at(-1) ?? sketches.at(-1)
      if (chosen) into[field.name] = chosen.id
    }
    const bodies = doc.build?.bodies.length ?? 0
    if (field.name === 'result' && bodies > 0 && into.result === 'new' && field.words?.cut) into.result = 'add'
    // Copies most often do again what was done last.
    if (field.type === 'steps') {
      const last = part.steps
        .slice(0, end)
        .filter((s) => registries.kind(s.kind)?.copyable)
        .at(-1)
      into[field.name] = last ? [last.id] : []
    }
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
    const taker = shownFields.value.find((f) => f.type === 'picks' || f.type === 'spots')
    focus.value = taker ? taker.name : null
  }

  async function loadBefore(): Promise<void> {
    const view = doc.view
    if (!view || !kind.value?.fields.some((f) => ['picks', 'spots', 'plane', 'bodies'].includes(f.type))) {
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
      (f) => (f.type === 'picks' || f.type === 'spots') && !f.free && !((fields.value[f.name] as unknown[] | undefined) ?? []).length,
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
      const value = fields.value[f.name]
      if (f.type === 'picks' && !f.free && (!Array.isArray(value) || value.length === 0)) return f.hint ?? `Pick ${f.label}`
      if (f.type === 'spots' && (!Array.isArray(value) || value.length === 0)) return f.hint ?? 'Click where they go'
      if (f.type === 'sketches' && f.name === 'sections' && (!Array.isArray(value) || value.length < 2))
        return 'Choose the sketches in their order'
      if (f.type === 'steps' && (!Array.isArray(value) || value.length === 0)) return 'Choose the steps to do again'
      if (f.type === 'sketch' && !value) return 'There is no sketch yet: draw one first'
      if (f.type === 'part' && !value) return 'Choose the part it takes from'
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

  /** A body on or off in the field that takes clicks. */
  function toggleBody(body: string): void {
    const name = focus.value
    if (!name) return
    const list = (fields.value[name] as string[] | undefined) ?? []
    set(name, list.includes(body) ? list.filter((b) => b !== body) : [...list, body])
  }

  function addSpot(field: string, face: StoredPick, at: number[]): void {
    const list = (fields.value[field] as Spot[] | undefined) ?? []
    const number = Math.max(0, ...list.map((s) => Number(s.id.slice(1)) || 0)) + 1
    // A click is rounded to what one would type.
    const spot: Spot = { id: `h${number}`, face, at: at.map((v) => ({ formula: `${Math.round(v * 2) / 2} mm` })) }
    set(field, [...list, spot])
  }

  /** Leave out the copy a face belongs to: its number is the part of the name after the step. */
  function leaveOut(field: string, pick: StoredPick): void {
    const own = id.value ?? `s${(doc.part?.last_id ?? 0) + 1}`
    const number = pick.name
      .flatMap((n) => n.split('&'))
      .map((n) => n.split('/'))
      .find((n) => n[0] === own && /^\d+$/.test(n[1]))?.[1]
    if (!number) {
      doc.say('That face belongs to no copy of this step', 'bad')
      return
    }
    const list = (fields.value[field] as number[] | undefined) ?? []
    set(
      field,
      [...new Set([...list, Number(number)])].sort((a, b) => a - b),
    )
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
    toggleBody,
    addSpot,
    leaveOut,
    take,
    replace,
    keep,
    discard,
    attempt,
  }
})
