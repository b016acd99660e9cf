// An edit of an assembly looked at before it is kept: what it would be, asked for a little after the
// last change, the newest answer only.
import { ref, shallowRef, type Ref } from 'vue'
import { call, Refusal, type Report } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import type { AssemblyView } from './store'

/** `ask` gives the question as things are set now, null where there is none; `shown` is told of every
 * answer, and of null when there is none. */
export function useLook<T>(ask: () => Promise<T> | null, shown: (found: T | null) => void) {
  const found = shallowRef<T | null>(null)
  const error = shallowRef<Report | null>(null)
  const trying = ref(false)
  const turn = turns()
  let timer = 0

  function settle(answer: T | null, report: Report | null): void {
    found.value = answer
    error.value = report
    shown(answer)
  }
  function schedule(wait: number): void {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void attempt(), wait)
  }
  async function attempt(): Promise<void> {
    const newest = turn()
    const asked = ask()
    if (!asked) return settle(null, null)
    trying.value = true
    try {
      const answer = await asked
      if (newest()) settle(answer, null)
    } catch (problem) {
      if (newest()) settle(null, problem instanceof Refusal ? problem.report : null)
    } finally {
      if (newest()) trying.value = false
    }
  }
  function end(): void {
    window.clearTimeout(timer)
    turn.end()
    trying.value = false
    found.value = error.value = null
  }
  return { found, error, trying, schedule, attempt, end }
}

/** The same for an edit that is one command. */
export function useTrial(command: Ref<Command | null>, shown: (found: AssemblyView | null) => void) {
  const doc = useDocument()
  const { found: trial, ...rest } = useLook<AssemblyView>(() => {
    const [view, wish] = [doc.view, command.value]
    if (!view || !wish) return null
    return call('post', '/api/documents/{id}/assembly/try', { path: { id: view.id }, body: { commands: [wish], upto: null } })
  }, shown)
  return { trial, ...rest }
}
