// A STEP file about to come in: what it is made of, what is left out, as one part or as an assembly.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { type Report, Refusal, refusalOf, type Schemas } from '../api/client'

type Tree = Schemas['StepTreeView']
export interface Brought {
  id: string
  /** What could not be brought in. */
  faults: string[]
}

async function post<T>(url: string, file: File): Promise<T> {
  const response = await fetch(url, { method: 'POST', body: file, headers: { 'X-File-Name': encodeURIComponent(file.name) } })
  if (!response.ok) throw await refusalOf(response)
  return (await response.json()) as T
}
export const isStep = (name: string): boolean => /\.(step|stp)$/i.test(name)

export const useBringing = defineStore('bringing', () => {
  const file = shallowRef<File | null>(null)
  const tree = shallowRef<Tree | null>(null)
  const left = ref<Set<string>>(new Set())
  const wanted = ref('')
  const busy = ref(false)
  const trouble = shallowRef<Report | null>(null)
  let project = ''
  let done: (found: Brought | null) => void = () => {}

  const rows = computed(() => {
    const words = wanted.value.trim().toLowerCase()
    return (tree.value?.rows ?? []).filter((r) => !words || r.name.toLowerCase().includes(words))
  })
  /** Bring a file into a project: asks what of it where it is made of several products. Null when
   * that was given up. */
  async function bring(into: string, chosen: File): Promise<Brought | null> {
    if (isStep(chosen.name)) {
      const found = await post<Tree>('/api/step-tree', chosen).catch(() => null)
      if (found && found.products > 1) {
        project = into
        file.value = chosen
        tree.value = found
        left.value = new Set()
        wanted.value = ''
        trouble.value = null
        return new Promise((resolve) => (done = resolve))
      }
    }
    return { id: (await post<{ id: string }>(`/api/projects/${into}/bring`, chosen)).id, faults: [] }
  }
  function toggle(name: string): void {
    const next = new Set(left.value)
    if (!next.delete(name)) next.add(name)
    left.value = next
  }
  /** All or none of what is listed. */
  function tick(on: boolean): void {
    const next = new Set(left.value)
    for (const r of rows.value)
      if (on) next.delete(r.name)
      else next.add(r.name)
    left.value = next
  }
  async function take(how: 'part' | 'assembly'): Promise<void> {
    if (!file.value) return
    busy.value = true
    trouble.value = null
    try {
      if (how === 'part') return close({ id: (await post<{ id: string }>(`/api/projects/${project}/bring`, file.value)).id, faults: [] })
      const leave = encodeURIComponent([...left.value].join('\n'))
      close(await post<Brought>(`/api/projects/${project}/bring-apart?leave=${leave}`, file.value))
    } catch (error) {
      trouble.value = error instanceof Refusal ? error.report : { code: 'internal', text: String(error), where: [], offers: [] }
    } finally {
      busy.value = false
    }
  }
  function close(found: Brought | null): void {
    file.value = tree.value = null
    done(found)
    done = () => {}
  }
  return { file, tree, left, wanted, busy, trouble, rows, bring, toggle, tick, take, close }
})
