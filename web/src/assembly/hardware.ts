// Hardware being put into a hole: what is picked, what is chosen for it, and how it would stand.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { call, type Schemas } from '../api/client'
import { useDocument } from '../document/store'
import { type End, useAssembly } from './store'
import { useLook } from './trial'

type Standard = Schemas['StandardView']
const KEY = 'vireo-hardware'
interface Kept {
  standard: string
  washer: boolean
  nut: boolean
  alike: boolean
}
const FIRST: Kept = { standard: 'ISO 4762', washer: true, nut: true, alike: true }

export const useHardware = defineStore('hardware', () => {
  const doc = useDocument()
  const asm = useAssembly()
  const open = ref(false)
  const standards = shallowRef<Standard[]>([])
  const at = shallowRef<End | null>(null)
  /** What is chosen, as it was the last time. */
  const chosen = ref<Kept>({ ...FIRST, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Kept>) })
  /** Empty and nothing: by the hole. */
  const size = ref('')
  const length = ref(0)
  const standard = computed(() => standards.value.find((s) => s.standard === chosen.value.standard) ?? null)
  const wish = computed(() => ({ ...chosen.value, end: at.value!, size: size.value, length: length.value }) as Schemas['HardwareWish'])

  const {
    found,
    error: trouble,
    trying,
    attempt: look,
    end,
  } = useLook<Schemas['HardwareView']>(
    () => {
      const view = doc.view
      if (!view || !at.value) return null
      return call('post', '/api/documents/{id}/hardware/look', { path: { id: view.id }, body: wish.value })
    },
    (answer) => (asm.tried = answer?.assembly ?? null),
  )

  async function begin(): Promise<void> {
    discard()
    open.value = true
    if (!standards.value.length) standards.value = (await call('get', '/api/hardware')).standards
  }
  /** A click on the rim of a hole. */
  function take(picked: End): void {
    at.value = picked
    size.value = ''
    length.value = 0
    void look()
  }
  /** Another standard, size or length; what hangs on it is chosen anew. */
  function choose(what: Partial<Kept> & { size?: string; length?: number }): void {
    const { size: other, length: long, ...kept } = what
    chosen.value = { ...chosen.value, ...kept }
    localStorage.setItem(KEY, JSON.stringify(chosen.value))
    if (kept.standard) size.value = ''
    if (other !== undefined) size.value = other
    length.value = long ?? (kept.alike === undefined ? 0 : length.value)
    void look()
  }
  // Something else was kept meanwhile: it is looked at anew on that ground.
  watch(
    () => doc.view?.revision,
    () => open.value && void look(),
  )
  /** Put it in; the next hole can be picked at once. */
  async function keep(): Promise<boolean> {
    const view = doc.view
    if (!view || !found.value) return false
    const kept = await doc.answered(
      call('post', '/api/documents/{id}/hardware', { path: { id: view.id }, body: { ...wish.value, base: view.revision } }),
    )
    if (kept) again()
    else trouble.value = doc.failure
    return kept
  }
  function again(): void {
    end()
    at.value = null
    size.value = ''
    length.value = 0
  }
  function discard(): void {
    again()
    if (open.value) asm.tried = null
    open.value = false
  }
  return { open, standards, standard, end: at, chosen, size, length, found, trouble, trying, begin, take, choose, look, keep, discard }
})
