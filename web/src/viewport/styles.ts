// How bodies can be shown. One row a style.
import type { Style } from './body'
import type { FieldKind } from './fields'
import type { MapKind } from './maps'
import type { Triple } from './mesh'

export interface StyleRow {
  style: Style
  word: string
  /** Coloured by the directions of faces. */
  faces?: MapKind
  /** Coloured by a map the server makes. */
  field?: FieldKind
  /** Title of the legend; ends where the direction is chosen. */
  legend?: string
  directed?: boolean
  /** The threshold: least, most, step, first, unit. */
  slider?: [number, number, number, number, string]
}

export const STYLES: StyleRow[] = [
  { style: 'shaded', word: 'Shaded' },
  { style: 'seethrough', word: 'See-through' },
  { style: 'hidden', word: 'Hidden dashed' },
  { style: 'edges', word: 'Edges only' },
  { style: 'thickness', word: 'Wall thickness', field: 'thickness', legend: 'Wall thickness', slider: [0.2, 12, 0.1, 2, 'mm'] },
  { style: 'draft', word: 'Draft angle', faces: 'draft', legend: 'Draft along', directed: true, slider: [0.5, 15, 0.5, 2, '°'] },
  { style: 'undercut', word: 'Undercut', field: 'undercut', legend: 'Mould pulled along', directed: true },
  {
    style: 'overhang',
    word: 'Overhang',
    faces: 'overhang',
    legend: 'Overhang, printed along',
    directed: true,
    slider: [10, 85, 1, 45, '°'],
  },
  { style: 'curvature', word: 'Least radius', field: 'curvature', legend: 'Least radius', slider: [0.5, 50, 0.5, 3, 'mm'] },
  {
    style: 'stripes',
    word: 'Curvature stripes',
    field: 'stripes',
    legend: 'Curvature stripes',
    slider: [4, 40, 1, 14, 'stripes'],
  },
]

export const rowOf = (style: Style): StyleRow => STYLES.find((r) => r.style === style) ?? STYLES[0]

export const WAYS: [string, Triple][] = [
  ['+Z', [0, 0, 1]],
  ['−Z', [0, 0, -1]],
  ['+X', [1, 0, 0]],
  ['−X', [-1, 0, 0]],
  ['+Y', [0, 1, 0]],
  ['−Y', [0, -1, 0]],
]
