// Numbers as people read them.

/** A fixed number of decimals with trailing zeros cut. */
export function trim(value: number, digits = 2): string {
  const text = value.toFixed(digits)
  const cut = text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text
  return cut === '-0' ? '0' : cut
}

/** Grams, or kilograms from one on. */
export function mass(grams: number): string {
  return Math.abs(grams) >= 10000 ? `${(grams / 1000).toFixed(2)} kg` : `${grams.toFixed(1)} g`
}

/** A change with its sign: true minus, no sign for nothing. */
export function change(grams: number): string {
  const shown = Math.abs(grams) >= 10000 ? `${(Math.abs(grams) / 1000).toFixed(2)} kg` : Math.abs(grams).toFixed(1)
  return grams > 0.05 ? `+${shown}` : grams < -0.05 ? `−${shown}` : '±0'
}
