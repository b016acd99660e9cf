// Numbers as people read them.

/** A fixed number of decimals with trailing zeros cut. */
export function trim(value: number, digits = 2): string {
  const text = value.toFixed(digits)
  const cut = text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text
  return cut === '-0' ? '0' : cut
}

/** Grams with as many places as a part of that size is told apart by; kilograms from ten on. */
export function mass(grams: number): string {
  return Math.abs(grams) >= 10000 ? `${(grams / 1000).toFixed(2)} kg` : `${grams.toFixed(places(grams))} g`
}
const places = (grams: number): number => (Math.abs(grams) >= 10 || grams === 0 ? 1 : Math.abs(grams) >= 1 ? 2 : 3)

/** A change with its sign: true minus, no sign for nothing. */
export function change(grams: number): string {
  const size = Math.abs(grams)
  if (size < 0.0005) return '±0'
  const shown = size >= 10000 ? `${(size / 1000).toFixed(2)} kg` : size.toFixed(size >= 0.1 ? 1 : size >= 0.01 ? 2 : 3)
  return `${grams > 0 ? '+' : '−'}${shown}`
}
