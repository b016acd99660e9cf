// A view taken apart by hand: what is pulled off comes off last, along the axis the pull goes by most.
import type { ApartStep } from './store'

type Three = [number, number, number]

/** Steps with some components pulled to be off by so much in all: as one step of their own, in its place
 * where they are one already, else as the last. */
export function pulled(steps: readonly ApartStep[], ids: readonly string[], by: readonly number[]): ApartStep[] {
  const mine = { components: [...ids], by: [by[0], by[1], by[2]] as Three }
  const same = steps.findIndex((s) => s.components.length === ids.length && s.components.every((c) => ids.includes(c)))
  if (same >= 0) return steps.map((s, n) => (n === same ? mine : s))
  const rest = steps.map((s) => ({ ...s, components: s.components.filter((c) => !ids.includes(c)) })).filter((s) => s.components.length)
  return [...rest, mine]
}

/** The pull (mm) along the axis that is nearest to it on the screen. `seen` is where each axis points
 * there, in pixels for a millimetre; a `pull` is in pixels. */
export function alongAxis(pull: readonly [number, number], seen: readonly (readonly [number, number])[]): Three {
  const found: Three = [0, 0, 0]
  let best = 0
  seen.forEach(([x, y], axis) => {
    const length = Math.hypot(x, y)
    // An axis that points at the eye cannot be pulled along.
    if (length < 1e-9) return
    const off = (pull[0] * x + pull[1] * y) / length
    if (Math.abs(off) <= Math.abs(best) || length < 0.2 * Math.max(...seen.map(([a, b]) => Math.hypot(a, b)))) return
    best = off
    found.fill(0)
    found[axis] = off / length
  })
  return found
}
