// Copies of components being made or edited: what is copied, by which way, looked at before it is kept.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Report, type Schemas } from '../api/client'
import { type Command, useDocument, useRegistries } from '../document/store'
import { typed } from '../ui/units'
import { originalOf } from './copyNames'
import { type End, useAssembly } from './store'
import { useTrial } from './trial'

export type CopyKind = Schemas['CopyKindView']
type Copies = Schemas['Copies']
export const AXES = ['X', 'Y', 'Z'] as const

export const useCopying = defineStore('copying', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const registries = useRegistries()
  const open = ref(false)
  /** Of the copies edited; null for new ones. */
  const id = ref<string | null>(null)
  const kindName = ref('row')
  const components = ref<string[]>([])
  const of = shallowRef<End | null>(null)
  const axis = ref<(typeof AXES)[number]>('X')
  const count = ref('')
  const spacing = ref('')
  const reverse = ref(false)
  const leftOut = ref<number[]>([])

  const kinds = computed(() => registries.found?.copies ?? [])
  const kind = computed(() => kinds.value.find((k) => k.kind === kindName.value) ?? null)
  const mine = computed(() => id.value ?? `r${(doc.view?.document.last_id ?? 0) + 1}`)
  /** What the next click in the picture is for: what is copied, or what it is copied by. */
  const next = computed<'components' | 'of' | null>(() =>
    !components.value.length ? 'components' : !of.value && kind.value && !kind.value.axis ? 'of' : null,
  )
  const command = computed<Command | null>(() => {
    const k = kind.value
    if (!open.value || !k || next.value) return null
    const fields = {
      kind: k.kind,
      components: components.value,
      of: of.value,
      axis: axis.value,
      count: k.counted ? count.value.trim() || '2' : null,
      spacing: k.spacing ? typed(spacing.value, k.spacing.unit === 'deg' ? 'angle' : 'length') || k.spacing.default : null,
      reverse: reverse.value,
      left_out: leftOut.value,
    }
    return id.value ? { do: 'edit_copies', id: id.value, ...fields } : { do: 'add_copies', ...fields }
  })
  const { trial, error, trying, schedule, end } = useTrial(command, (found) => (asm.tried = found))
  const found = computed(() => trial.value?.copies.find((c) => c.id === mine.value) ?? null)
  const trouble = computed<Report | null>(() => error.value ?? found.value?.trouble ?? null)
  /** All numbers there could be: those that are there and those left out. */
  const numbers = computed(() => [...new Set([...(found.value?.numbers ?? []), ...leftOut.value])].sort((a, b) => a - b))

  function begin(word: string): void {
    discard()
    open.value = true
    kindName.value = word
    const known = new Set(doc.assembly?.components?.map((c) => c.id))
    components.value = [...new Set(asm.selected.map(originalOf))].filter((c) => known.has(c))
    schedule(0)
  }
  function edit(copies: Copies): void {
    discard()
    open.value = true
    id.value = copies.id
    kindName.value = copies.kind
    components.value = [...copies.components]
    of.value = (copies.of as End | null) ?? null
    axis.value = copies.axis ?? 'X'
    count.value = copies.count ?? ''
    spacing.value = copies.spacing ?? ''
    reverse.value = copies.reverse ?? false
    leftOut.value = [...(copies.left_out ?? [])]
    schedule(0)
  }
  /** A click in the picture: on what is to be copied while nothing is, else what it goes by. */
  function take(end: End): void {
    if (!components.value.length) components.value = [originalOf(end.component)]
    else of.value = end
    schedule(0)
  }
  function choose(word: string): void {
    kindName.value = word
    spacing.value = ''
    leftOut.value = []
    schedule(0)
  }
  function leave(number: number): void {
    const has = leftOut.value.includes(number)
    leftOut.value = has ? leftOut.value.filter((n) => n !== number) : [...leftOut.value, number].sort((a, b) => a - b)
    schedule(0)
  }
  // Something else was kept meanwhile: it is looked at anew on that ground.
  watch(
    () => doc.view?.revision,
    () => open.value && schedule(0),
  )
  async function keep(): Promise<boolean> {
    if (!command.value || trouble.value) return false
    const kept = await doc.edit([command.value], id.value ? undefined : `copy ${kind.value!.label.toLowerCase()}`)
    if (kept) discard()
    else error.value = doc.failure
    return kept
  }
  /** The mirror images of what is copied as parts of their own, there where the copies would stand. */
  async function oppose(): Promise<void> {
    const view = doc.view
    if (!view || !components.value.length) return
    const done = await doc.answered(
      call('post', '/api/documents/{id}/assembly/opposite', {
        path: { id: view.id },
        body: { base: view.revision, components: components.value, of: of.value as Schemas['JointEnd'] | null, axis: axis.value },
      }),
    )
    if (done) discard()
  }
  function discard(): void {
    end()
    if (open.value) asm.tried = null
    open.value = reverse.value = false
    id.value = of.value = null
    components.value = []
    axis.value = 'X'
    count.value = spacing.value = ''
    leftOut.value = []
  }
  return {
    open, id, kindName, kind, kinds, components, of, axis, count, spacing, reverse, leftOut, next, trial, trying, trouble,
    found, numbers, begin, edit, take, choose, leave, schedule, keep, oppose, discard,
  } // prettier-ignore
})
