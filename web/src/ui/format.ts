// Numbers as people read them.
import { units } from './units'

/** A fixed number of decimals with trailing zeros cut. */
export function trim(value: number, digits = 2): string {
  const text = value.toFixed(digits)
  const cut = text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text
  return cut === '-0' ? '0' : cut
}

const GRAMS = { g: 1, kg: 1000, oz: 453.59237 / 16, lb: 453.59237 } as const
/** A mass (g) in the document's unit, with as many places as a part of that size is told apart by;
 * kilograms from ten on. */
export function mass(grams: number): string {
  const unit = units.value.mass
  if (unit === 'g' && Math.abs(grams) >= 10000) return `${(grams / 1000).toFixed(2)} kg`
  const value = grams / GRAMS[unit]
  return `${value.toFixed(places(value) + (unit === 'g' ? 0 : 1))} ${unit}`
}
const places = (value: number): number => (Math.abs(value) >= 10 || value === 0 ? 1 : Math.abs(value) >= 1 ? 2 : 3)

/** A change of mass (g) with its sign: true minus, no sign for nothing. */
export function change(grams: number): string {
  const unit = units.value.mass
  const size = Math.abs(grams) / GRAMS[unit]
  if (size < 0.0005) return '±0'
  const shown =
    unit === 'g' && size >= 10000
      ? `${(size / 1000).toFixed(2)} kg`
      : size.toFixed(size >= 0.1 ? (unit === 'g' ? 1 : 2) : size >= 0.01 ? 2 : 3)
  return `${grams > 0 ? '+' : '−'}${shown}`
}

/** A formula's powers as one writes them: mm**3 as mm³. */
export const raised = (formula: string): string => formula.replaceAll('**2', '²').replaceAll('**3', '³')

/** Words as a sentence begins. */
export const sentence = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1)
