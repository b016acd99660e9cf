// Round numbers along an axis.

/** Values at which an axis is marked, from one number to another: about `count` of them, on 1, 2 or 5. */
export function ticks(low: number, high: number, count: number): number[] {
  if (!(high > low)) return [low]
  const rough = (high - low) / Math.max(count, 1)
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((m) => m * power).find((s) => s >= rough * (1 - 1e-9)) ?? 10 * power
  const found = []
  for (let k = Math.ceil(low / step - 1e-9); k * step <= high + step * 1e-9; k++) found.push(k * step)
  return found
}
/** A range a curve fills, with some room; of a constant a range around it. */
export function span(values: number[]): [number, number] {
  let [low, high] = [Infinity, -Infinity]
  for (const v of values) {
    if (!Number.isFinite(v)) continue
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  if (low > high) return [0, 1]
  const size = Math.max(Math.abs(low), Math.abs(high))
  if (high - low <= 1e-9 * size || high === low) return size ? [low - 0.1 * size, high + 0.1 * size] : [-1, 1]
  const room = 0.06 * (high - low)
  return [low >= 0 && low < 0.4 * high ? 0 : low - room, high + room]
}
/** A mark of an axis: as many figures as tell it from its neighbours. */
export function marked(value: number, step: number): string {
  if (Math.abs(value) < step * 1e-6) return '0'
  const size = Math.max(Math.abs(value), step)
  if (size >= 1e6 || size < 1e-3) return Number(value.toPrecision(3)).toExponential().replace('e+', 'e')
  const places = Math.max(0, Math.ceil(-Math.log10(step) - 1e-9))
  return value.toFixed(Math.min(places, 6)).replace('-', '−')
}
