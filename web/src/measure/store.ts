// Measuring in a part or an assembly: what is picked, what there is to read, notes that stay.
import { turns } from '../api/newest'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { trim } from '../ui/format'
import { angle, length, number, units } from '../ui/units'

export type Size = Schemas['SizeView']
/** A stored pick of a part, or a joint end of an assembly. */
export type Ended = Record<string, unknown>
export interface Note {
  id: string
  picks: Ended[]
  key: string
  label: string
  size: Size | null
}

/** A value as one reads it; `digits` after the point. */
export function shown(size: Size, digits = 3): string {
  const u = units.value
  if (size.dimension === 'angle') return u.angle === 'deg' ? `${trim((size.value * 180) / Math.PI, digits)}°` : angle(size.value)
  if (size.dimension === 'number') return trim(size.value, digits)
  if (size.dimension === 'length' && u.fractions) return length(size.value)
  // Digits are those chosen here, in the document's unit.
  const per = number(1)
  return size.dimension === 'area'
    ? `${trim(size.value * per * per, digits)} ${u.length}²`
    : `${trim(size.value * per, digits)} ${u.length}`
}

export const useMeasuring = defineStore('measuring', () => {
  const doc = useDocument()
  const on = ref(false)
  const picks = shallowRef<Ended[]>([])
  const sizes = shallowRef<Size[]>([])
  /** Readings that stay: kept with the document, told anew whenever it changes. */
  const notes = shallowRef<Note[]>([])
  /** The centre of gravity while mass properties are looked at. */
  const centre = shallowRef<[number, number, number] | null>(null)
  const trouble = ref('')
  /** Key of the reading the pointer rests on: its line is drawn. */
  const over = ref<string | null>(null)
  const digits = ref(3)
  /** Step whose frame coordinates are told along; none is the space. */
  const frame = ref<string | null>(null)
  const turn = turns()

  async function read(of: Ended[]): Promise<Size[]> {
    const id = doc.view?.id
    if (!id || !of.length) return []
    return (
      await call('post', '/api/documents/{id}/measure', {
        path: { id },
        body: { picks: of as Record<string, never>[], frame: frame.value },
      })
    ).readings
  }
  async function refresh(): Promise<void> {
    const newest = turn()
    trouble.value = ''
    try {
      const found = await read(picks.value)
      if (newest()) sizes.value = found
    } catch (error) {
      if (!newest()) return
      sizes.value = []
      trouble.value = error instanceof Error ? error.message : String(error)
    }
  }
  watch([picks, frame], () => void refresh())
  const kept = computed(() => doc.view?.document.notes ?? [])
  watch(
    () => [doc.build, doc.touched, kept.value] as const,
    async () => {
      if (picks.value.length) void refresh()
      const list = kept.value
      const found = await Promise.all(
        list.map(async (n) => ({
          id: n.id,
          picks: n.picks as Ended[],
          key: n.key,
          label: n.words,
          size: (await read(n.picks as Ended[]).catch(() => [])).find((s) => s.key === n.key) ?? null,
        })),
      )
      if (list === kept.value) notes.value = found
    },
    { immediate: true },
  )
  watch(() => doc.view?.id, stop)

  function take(pick: Ended, add: boolean): void {
    const same = JSON.stringify(pick)
    const at = picks.value.findIndex((p) => JSON.stringify(p) === same)
    if (at >= 0) picks.value = picks.value.filter((_, i) => i !== at)
    // Two things are the usual case: a third click begins anew unless Shift is held.
    else picks.value = add || picks.value.length < 2 ? [...picks.value, pick] : [pick]
  }
  function toggle(): void {
    on.value = !on.value
    if (!on.value) picks.value = []
  }
  function stop(): void {
    on.value = false
    picks.value = []
  }
  function pin(size: Size): void {
    void doc.edit([{ do: 'add_note', picks: picks.value, key: size.key, words: size.label }])
  }
  const lines = computed<number[][][]>(() => {
    const found: number[][][] = []
    const main = sizes.value.find((s) => s.key === (over.value ?? 'least'))
    for (const s of [main, ...notes.value.map((n) => n.size)]) if (s && s.line.length > 1) found.push(s.line)
    return found
  })
  function unpin(id: string): void {
    void doc.edit([{ do: 'remove_note', id }])
  }
  const text = computed(() => sizes.value.map((s) => `${s.label}\t${shown(s, digits.value)}`).join('\n'))
  return { on, picks, sizes, notes, trouble, over, digits, frame, lines, text, centre, take, toggle, stop, pin, unpin }
})
