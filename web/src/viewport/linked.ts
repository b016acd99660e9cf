// Two panes whose cameras move as one: whoever moved last leads.
import type { Engine } from './engine'

export function follow(one: Engine | null, other: Engine | null): void {
  const [a, b] = [one?.camera, other?.camera]
  if (!a || !b) return
  if (a.moved > b.moved) b.copy(a)
  else if (b.moved > a.moved) a.copy(b)
}
