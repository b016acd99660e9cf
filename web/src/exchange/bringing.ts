// A STEP file about to come in: what it is made of, what is left out, as one part or as an assembly.
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { call, type Report, Refusal, refusalOf, type Schemas } from '../api/client'
import { turns } from '../api/newest'

type Tree = Schemas['StepTreeView']
type Look = Schemas['StepProductView']
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
  /** Products left out, by number. */
  const left = ref<Set<number>>(new Set())
  /** The product looked at, and what it is. */
  const looked = ref<number | null>(null)
  const look = shallowRef<Look | string | null>(null)
  const turn = turns()
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
        looked.value = look.value = null
        wanted.value = ''
        trouble.value = null
        return new Promise((resolve) => (done = resolve))
      }
    }
    return { id: (await post<{ id: string }>(`/api/projects/${into}/bring`, chosen)).id, faults: [] }
  }
  /** A product with all that stands in it. */
  function below(number: number): Set<number> {
    const found = new Set<number>()
    const waiting = [number]
    for (let n = waiting.pop(); n !== undefined; n = waiting.pop()) {
      if (found.has(n)) continue
      found.add(n)
      waiting.push(...(tree.value?.holds[n] ?? []))
    }
    return found
  }
  function set(numbers: Iterable<number>, on: boolean): void {
    const next = new Set(left.value)
    for (const n of numbers)
      if (on) next.delete(n)
      else next.add(n)
    left.value = next
  }
  /** In or out, with all that stands in it. */
  const toggle = (number: number): void => set(below(number), left.value.has(number))
  /** Read one product to see what it is. */
  async function see(number: number): Promise<void> {
    if (!tree.value) return
    const newest = turn()
    looked.value = number
    look.value = null
    try {
      const found = await call('get', '/api/step-files/{key}/products/{number}', { path: { key: tree.value.key, number: String(number) } })
      if (newest()) look.value = found
    } catch (error) {
      if (newest()) look.value = error instanceof Refusal ? error.report.text : String(error)
    }
  }
  /** All or none of what is listed. */
  function tick(on: boolean): void {
    set(
      rows.value.map((r) => r.number),
      on,
    )
  }
  async function take(how: 'part' | 'assembly'): Promise<void> {
    if (!file.value) return
    busy.value = true
    trouble.value = null
    try {
      if (how === 'part') return close({ id: (await post<{ id: string }>(`/api/projects/${project}/bring`, file.value)).id, faults: [] })
      const all = [...new Set(tree.value!.rows.map((r) => r.number))]
      const keep = left.value.size ? all.filter((n) => !left.value.has(n)) : null
      close(
        await call('post', '/api/projects/{id}/bring-products', {
          path: { id: project },
          body: { key: tree.value!.key, name: file.value.name, keep },
        }),
      )
    } catch (error) {
      trouble.value = error instanceof Refusal ? error.report : { code: 'internal', text: String(error), where: [], offers: [] }
    } finally {
      busy.value = false
    }
  }
  function close(found: Brought | null): void {
    file.value = tree.value = look.value = null
    turn()
    done(found)
    done = () => {}
  }
  return { file, tree, left, wanted, busy, trouble, rows, looked, look, bring, toggle, tick, see, take, close }
})
