// Types of fields of a step, each a component in this folder, found by the name of its file. What a type
// takes from clicks, asks for and guesses stands in its file too, beside what it draws.
import type { Component } from 'vue'
import type { FieldView, Part } from '../../api/client'
import type { Hit } from '../../viewport/body'
import type { Wanted } from '../../viewport/engine'
import type { StoredPick } from '../../viewport/mesh'

/** What a type of field does besides being drawn. */
export interface FieldType {
  /** What it asks for while it holds nothing it can do without. */
  missing?(field: FieldView, value: unknown): string | null
  /** What clicks in the picture may take into it; nothing without it. */
  wanted?(field: FieldView): Wanted
  /** A click taken: the new value of the field. */
  take?(click: { pick: StoredPick; hit: Hit; value: unknown; own: string }): unknown
  /** Its value with other picks in row `row`, and those picks: of types that hold picks. */
  picks?: { of(value: unknown, row: number): StoredPick[]; put(value: unknown, picks: StoredPick[], row: number): unknown }
  /** Bodies it holds, drawn as picked. */
  bodies?(value: unknown): string[]
  /** Its clicks are on what the step makes, not on what was there before it. */
  made?: boolean
  /** Its clicks are on what stands around the part in its assembly. */
  around?: boolean
  /** Chosen in the sketch, drawn over the picture. */
  drawn?: boolean
  /** Takes the clicks as the step opens, or as a choice asks for it. */
  first?: boolean
  /** Is chosen among what stands before the step. */
  before?: boolean
  /** A sensible first value, for a step about to be added. */
  guess?(context: Guessing): unknown
  /** Sketches it holds. */
  sketches?(value: unknown): string[]
}

export interface Guessing {
  part: Part
  field: FieldView
  /** Steps before the new one. */
  steps: Part['steps']
  /** Values so far. */
  given: Record<string, unknown>
  copyable(kind: string): boolean
}

interface Module {
  default: Component
  does?: FieldType
}
const found = import.meta.glob<Module>('./*.vue', { eager: true })
const named = (type: string): Module | undefined => found[`./${type}.vue`]

/** The component of a type of field. */
export const fieldComponent = (type: string): Component | undefined => named(type)?.default
/** What a type of field does. */
export const fieldType = (type: string | undefined): FieldType => named(type ?? '')?.does ?? {}

/** Nothing chosen yet, told with what the field hints at. */
export const empty = (value: unknown): boolean => !Array.isArray(value) || value.length === 0
