// The units of the open document: values come in mm, g, N, MPa, rad and are shown in its own; what
// is typed without a unit gets that of its field.
import { shallowRef } from 'vue'
import type { Schemas } from '../api/client'

export type Units = Required<Schemas['Units']>
export const PLAIN: Units = {
  length: 'mm',
  mass: 'g',
  force: 'N',
  stress: 'MPa',
  angle: 'deg',
  rounding: 'decimals',
  places: 3,
  fractions: 0,
}
/** Those of the document that is open. */
export const units = shallowRef<Units>(PLAIN)

// Exact by the international agreement of 1959.
const MM = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 } as const
const GRAM = { g: 1, kg: 1000, oz: 453.59237 / 16, lb: 453.59237 } as const
const NEWTON = { N: 1, kN: 1000, lbf: 4.4482216152605 } as const
const MPA = { MPa: 1, psi: 0.006894757293168361, ksi: 6.894757293168361 } as const

/** A number with the places of the document, or `most` decimals at the most; zeros at its end cut. */
export function rounded(value: number, most?: number): string {
  const u = units.value
  if (!Number.isFinite(value)) return String(value)
  const places =
    u.rounding === 'significant' && value !== 0 ? Math.max(0, u.places - 1 - Math.floor(Math.log10(Math.abs(value)))) : u.places
  const text = value.toFixed(Math.min(places, most ?? 12, 12))
  const cut = text.includes('.') ? text.replace(/0+$/, '').replace(/\.$/, '') : text
  return cut === '-0' ? '0' : cut
}

function fraction(inches: number, parts: number): string {
  const sign = inches < 0 ? '-' : ''
  const steps = Math.round(Math.abs(inches) * parts)
  const whole = Math.floor(steps / parts)
  let [top, under] = [steps % parts, parts]
  if (!top) return `${sign}${whole}`
  while (top % 2 === 0) [top, under] = [top / 2, under / 2]
  return `${sign}${whole ? `${whole} ` : ''}${top}/${under}`
}

/** A length without its unit, as sketches show it. Feet and inches carry their marks. */
export function bare(mm: number): string {
  const u = units.value
  if (u.fractions && u.length === 'in') return fraction(mm / 25.4, u.fractions)
  if (u.fractions && u.length === 'ft') {
    const steps = Math.round((Math.abs(mm) / 25.4) * u.fractions)
    const feet = Math.floor(steps / (12 * u.fractions))
    return `${mm < 0 ? '-' : ''}${feet}'-${fraction((steps - feet * 12 * u.fractions) / u.fractions, u.fractions)}"`
  }
  return rounded(mm / MM[u.length])
}
/** A length with its unit. */
export const length = (mm: number): string =>
  units.value.fractions && units.value.length === 'ft' ? bare(mm) : `${bare(mm)} ${units.value.length}`
/** A value with what it takes to tell it from nothing: three figures below what the document shows. */
function finely(value: number, unit: string, usual: string): string {
  const shown = Number(usual.split(' ')[0])
  if (value === 0 || Math.abs(shown - value) <= 0.02 * Math.abs(value)) return usual
  return `${Number(value.toPrecision(3))} ${unit}`
}
/** Gaps and depths, which may be thousandths of what the document rounds to. */
export const fineLength = (mm: number): string =>
  units.value.fractions ? length(mm) : finely(mm / MM[units.value.length], units.value.length, length(mm))
export const fineVolume = (mm3: number): string => {
  const unit = units.value.length
  return mm3 < 1 ? finely(mm3 / MM[unit] ** 3, `${unit}³`, volume(mm3)) : volume(mm3)
}
/** A length as a plain number in the document's unit, for sliders and fields that take one. */
export const number = (mm: number): number => mm / MM[units.value.length]
export const toMm = (value: number): number => value * MM[units.value.length]
export const lengthUnit = (): string => units.value.length

function powered(value: number, power: 2 | 3, coarse: boolean): string {
  const u = units.value
  const sign = power === 2 ? '²' : '³'
  // Large ones of millimetres read better in centimetres.
  const unit = u.length === 'mm' && value >= 10 ** (power + 2) ? 'cm' : u.length === 'ft' && u.fractions ? 'in' : u.length
  return `${rounded(value / MM[unit] ** power, coarse ? (unit === 'mm' ? 0 : 2) : undefined)} ${unit}${sign}`
}
/** Areas and volumes; `coarse` ones are read at a glance. */
export const area = (mm2: number, coarse = false): string => powered(mm2, 2, coarse)
export const volume = (mm3: number, coarse = false): string => powered(mm3, 3, coarse)
/** A density (kg/m3) in pounds to the cubic inch for documents in inches. */
export const density = (kgm3: number): string =>
  ['in', 'ft'].includes(units.value.length) ? `${((kgm3 / 453.59237) * 25.4 ** 3 * 1e-6).toPrecision(3)} lb/in³` : `${kgm3} kg/m³`
export const force = (n: number): string => `${rounded(n / NEWTON[units.value.force])} ${units.value.force}`
export const forceBare = (n: number): string => rounded(n / NEWTON[units.value.force], 2)
export const stressNumber = (mpa: number): number => mpa / MPA[units.value.stress]
export const stress = (mpa: number): string => `${rounded(stressNumber(mpa), 2)} ${units.value.stress}`
export function angle(rad: number): string {
  return units.value.angle === 'rad' ? `${rounded(rad)} rad` : `${rounded((rad * 180) / Math.PI)}°`
}
export const grams = (g: number): number => g / GRAM[units.value.mass]

/** A value of a step in the core's unit (mm, rad, plain) as its card shows it. */
export function shown(dimension: string | null | undefined, value: number): string {
  if (dimension === 'length') return length(value)
  return dimension === 'angle' ? angle(value) : rounded(value)
}

/** The unit a field takes when none is typed. */
export function unitOf(dimension: string | null | undefined): string {
  const u = units.value
  const own: Record<string, string> = { length: u.length, angle: u.angle, force: u.force, pressure: u.stress, mass: u.mass }
  return own[dimension ?? ''] ?? ''
}
const NUMBER = /^[-+]?(?:\d+\s+)?(?:\d+\s*\/\s*\d+|\d*\.?\d+(?:[eE][-+]?\d+)?|\d+\.)$/
/** What was typed, with the unit of its field where it is a plain number: 12, 1.5, 3/8, 1 1/4. */
export function typed(raw: string, dimension: string | null | undefined): string {
  const text = raw.trim()
  const unit = unitOf(dimension)
  return unit && NUMBER.test(text) ? `${text} ${unit}` : text
}
const LENGTH = /^([-+]?)(?:(\d+)\s+)?(?:(\d+)\s*\/\s*(\d+)|(\d*[.,]?\d+|\d+[.,]))\s*(mm|cm|m|in|ft|"|')?$/
/** Millimetres of a length as typed into a plain field: a number or a fraction, with a unit or in
 * the document's own. Null where it is none. */
export function readLength(raw: string): number | null {
  const m = LENGTH.exec(raw.trim())
  if (!m || (m[2] && m[5]) || m[4] === '0') return null
  const size = Number(m[2] ?? 0) + (m[3] ? Number(m[3]) / Number(m[4]) : Number(m[5].replace(',', '.')))
  const unit = m[6] === '"' ? 'in' : m[6] === "'" ? 'ft' : ((m[6] ?? units.value.length) as keyof typeof MM)
  return (m[1] === '-' ? -size : size) * MM[unit]
}

/** A few values as they would look in some units. */
export function inUnits(some: Units): string {
  const kept = units.value
  units.value = some
  const text = `${length(38.1)}, ${volume(24000)}, ${rounded(grams(412.6))} ${some.mass}, ${angle(Math.PI / 6)}`
  units.value = kept
  return text
}
