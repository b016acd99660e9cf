// An edit of an assembly looked at before it is kept: what it would be, asked for a little after the
// last change, the newest answer only.
import { ref, shallowRef, type Ref } from 'vue'
import { call, Refusal, type Report } from '../api/client'
import { turns } from '../api/newest'
import { type Command, useDocument } from '../document/store'
import type { AssemblyView } from './store'

/** `shown` is told of every answer, and of null when there is none. */
export function useTrial(command: Ref<Command | null>, shown: (found: AssemblyView | null) => void) {
  const doc = useDocument()
  const trial = shallowRef<AssemblyView | null>(null)
  const error = shallowRef<Report | null>(null)
  const trying = ref(false)
  const turn = turns()
  let timer = 0

  function schedule(wait: number): void {
    window.clearTimeout(timer)
    timer = window.setTimeout(() => void attempt(), wait)
  }
  async function attempt(): Promise<void> {
    const [view, wish] = [doc.view, command.value]
    const newest = turn()
    if (!view || !wish) {
      trial.value = error.value = null
      shown(null)
      return
    }
    trying.value = true
    try {
      const found = await call('post', '/api/documents/{id}/assembly/try', {
        path: { id: view.id },
        body: { commands: [wish], upto: null },
      })
      if (!newest()) return
      trial.value = found
      error.value = null
      shown(found)
    } catch (problem) {
      if (!newest()) return
      error.value = problem instanceof Refusal ? problem.report : null
      trial.value = null
      shown(null)
    } finally {
      if (newest()) trying.value = false
    }
  }
  function end(): void {
    window.clearTimeout(timer)
    turn.end()
    trying.value = false
    trial.value = error.value = null
  }
  return { trial, error, trying, schedule, attempt, end }
}
